"""What an analysis is given, and what it finds: worked out when it is first asked for, once."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property, partial
from typing import Any, TypeVar

from msgspec import field

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.checks.contract import JointResults, Key
from karakuri.checks.unjudged import told
from karakuri.course import Course, GivenUp
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.ref import Ref
from karakuri.study.reuse import Reuse

T = TypeVar("T")


class Analysis(Frozen):
    """`about` is what is not judged where it goes wrong; `of_score`: it depends on what moves."""

    key: Key[Any]
    about: Ref
    run: Callable[[Given], object]
    of_score: bool = False


class Given(Frozen, eq=False):
    """What an analysis may use: the figure, its tree, the same with what hangs anywhere between where it hung, while a hand drags, gravities (p, 3) m/s², its judged joints, what is kept, and how it is followed.

    `dragging`: a hand holds something, and what was found before it took it stands where nothing else is said. `known` is what was found before and stands; `heard` how loud the sounds are that could be listened to, by their digests, None where nobody has listened yet; `broken` gathers what went wrong. What another analysis found is taken by its key.
    """

    figure: Figure
    tree: Tree
    loose: Tree
    gravities: Array
    joints: Sequence[JointResults]
    reuse: Reuse
    quick: bool
    course: Course
    table: Mapping[str, Analysis]
    known: Mapping[str, object] = field(default_factory=dict)
    broken: list[tuple[Ref, str]] = field(default_factory=list)
    dragging: bool = False
    heard: Mapping[str, Loudness] | None = None

    @cached_property
    def found(self) -> Found:
        """What every analysis finds, by its key's name."""
        return Found(self)

    def __getitem__(self, key: Key[T]) -> T | None:
        """What another analysis finds. Raises ValueError where that went wrong: nothing may rest on it."""
        found: T | None = self.found[key.name]  # type: ignore[assignment]
        if key.name in self.found.failed:
            raise ValueError(f"it rests on '{key.name}', which could not be worked out")
        return found


class Found(Mapping[str, object]):
    """What analyses find, each run when it is first asked for; None for one that went wrong, which is noted."""

    def __init__(self, given: Given) -> None:
        self._given = given
        self._made = dict(given.known)
        self.failed: set[str] = set()

    def __getitem__(self, name: str) -> object:
        if name not in self._made:
            analysis, wrong = self._given.table[name], list[tuple[Ref, str]]()
            self._made[name] = guarded(wrong, analysis.about, partial(analysis.run, self._given))
            if wrong:
                self.failed.add(name)
            if wrong and analysis.about not in dict(
                self._given.broken
            ):  # what rests on what went wrong is not told of again
                self._given.broken.append(wrong[0])
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._given.table)

    def __len__(self) -> int:
        return len(self._given.table)


class Late(Sequence[T]):
    """Things worked out together when one of them is first asked for."""

    def __init__(self, make: Callable[[], Sequence[T]]) -> None:
        self._make = make

    @cached_property
    def _all(self) -> Sequence[T]:
        return self._make()

    def __getitem__(self, place: Any) -> Any:
        return self._all[place]

    def __len__(self) -> int:
        return len(self._all)


def guarded(broken: list[tuple[Ref, str]], about: Ref, make: Callable[[], T]) -> T | None:
    """What `make` gives; where it goes wrong, None, and what was said beside what it was about: the rest is judged without it."""
    try:
        return make()
    except GivenUp:
        raise
    except Exception as trouble:  # noqa: BLE001 - one joint's fault must not take the other verdicts away
        broken.append((about, told(trouble)))
        return None
