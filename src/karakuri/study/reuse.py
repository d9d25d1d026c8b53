"""Results of equal requests are reused: kept under what each request was given, never under the whole figure."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

from karakuri.motion.score_motion import Tracks

if TYPE_CHECKING:
    from karakuri.bodies.inertia import Array
    from karakuri.checks.contract import JointResults
    from karakuri.model.finding import Finding
    from karakuri.study.requests.contract import Request

T = TypeVar("T")
Q = TypeVar("Q", bound="Request[Any]")
AT_ONCE = 32
MOST_POSES, LOOKS = 256, 3


class Reuse:
    """A bounded store. `computed` counts, by kind, what had to be computed; `last` keeps the last worst poses to start from.

    `tried` holds the studies of edits proposed for one figure. While `trying` is true the figures studied are only proposals, and `last`
    stays that of the builder's own figure.
    """

    def __init__(self, most: int = 4000) -> None:
        self._kept: OrderedDict[tuple[str, bytes], Any] = OrderedDict()
        self._most = most
        self._last: dict[tuple[str, str], tuple[Array, ...]] = {}
        self._joints: dict[str, tuple[tuple[object, ...], bool, JointResults]] = {}
        self._told: dict[tuple[str, str], tuple[JointResults, tuple[object, ...], tuple[Finding, ...]]] = {}
        self._left: dict[str, tuple[dict[str, float], int]] = {}
        self.tracks = Tracks()
        self.computed: Counter[str] = Counter()
        self.trying = False
        self.tried: tuple[Any, dict[Any, Any]] = (None, {})

    def has(self, request: Request[Any]) -> bool:
        """True where the settled result of this request is kept."""
        return (request.kind, request.key) in self._kept

    def of(self, request: Request[T], quick: bool = False, known: tuple[Array, ...] = ()) -> T:
        """The kept result of this request, or a new one; a quick one only where there is no settled one."""
        kind = f"quick {request.kind}" if quick and not self.has(request) else request.kind
        place = (kind, request.key)
        if place in self._kept:
            self._kept.move_to_end(place)
            kept: T = self._kept[place]
            return kept
        self.computed[kind] += 1
        return self._keep(place, request.run(quick, known))

    def of_all(
        self, requests: Sequence[Q], together: Callable[[list[Q]], list[T]], begun: Callable[[Q], None]
    ) -> list[T]:
        """The kept result of each, those that are new worked out `together`, a good many at once; `begun` is told the first of each lot."""
        out: list[T] = []
        for first in range(0, len(requests), AT_ONCE):
            begun(requests[first])
            some = requests[first : first + AT_ONCE]
            missing = [request for request in some if not self.has(request)]
            made = together(missing) if missing else []
            fresh = {id(request): self.keep(request, each) for request, each in zip(missing, made, strict=True)}
            out += [fresh[id(request)] if id(request) in fresh else self.of(request) for request in some]
        return out

    def keep(self, request: Request[T], result: T) -> T:
        """A result worked out together with others, kept like any other."""
        self.computed[request.kind] += 1
        return self._keep((request.kind, request.key), result)

    def _keep(self, place: tuple[str, bytes], result: T) -> T:
        self._kept[place] = result
        if len(self._kept) > self._most:
            self._kept.popitem(last=False)
        return result

    def joint(self, about: str, depends: tuple[object, ...], quick: bool) -> JointResults | None:
        """All results of a joint of the builder's own figure, where all they depend on is as it was; settled ones will do for quick ones."""
        kept = self._joints.get(about)
        if kept is None or kept[0] != depends or (kept[1] and not quick):
            return None
        return kept[2]

    def keep_joint(self, about: str, depends: tuple[object, ...], quick: bool, results: JointResults) -> None:
        """Keep all results of a joint; not those of a figure that is only proposed."""
        if not self.trying:
            self._joints[about] = (depends, quick, results)
            if len(self._joints) > MOST_POSES:
                self._joints.pop(next(iter(self._joints)))

    def told(self, rule: str, r: JointResults, context: tuple[object, ...]) -> tuple[Finding, ...] | None:
        """What a rule told of a joint, where these are the results and the context it told it of."""
        kept = self._told.get((rule, r.joint.id))
        return kept[2] if kept is not None and kept[0] is r and kept[1] == context else None

    def keep_told(self, rule: str, r: JointResults, context: tuple[object, ...], findings: tuple[Finding, ...]) -> None:
        """Keep what a rule tells of a joint; not of a figure that is only proposed."""
        if not self.trying:
            self._told[rule, r.joint.id] = (r, context, findings)
            if len(self._told) > 4 * MOST_POSES:
                self._told.pop(next(iter(self._told)))

    def last(self, kind: str, about: str, joints: int) -> tuple[Array, ...]:
        """The last worst poses (joints,) rad or m of that kind, where they still fit the figure."""
        return tuple(pose for pose in self._last.get((kind, about), ()) if len(pose) == joints)

    def left(self, about: str) -> dict[str, float]:
        """What the wanted move of each joint last left the drive of joint `about`, as a reserve; nothing after so many looks that all of them are due."""
        reserves, looks = self._left.get(about, ({}, 0))
        self._left[about] = (reserves, looks + 1)
        return reserves if looks < LOOKS else {}

    def remember_left(self, about: str, reserves: dict[str, float]) -> None:
        """While a hand drags, those that left far more than the hardest are not looked at each time; not of a figure that is only proposed."""
        if not self.trying:
            self._left[about] = (reserves, 0)

    def remember(self, kind: str, about: str, *poses: Array) -> None:
        """Poses to begin from next time; not those of a figure that is only proposed."""
        if not self.trying:
            self._last[kind, about] = poses
            if len(self._last) > MOST_POSES:
                self._last.pop(next(iter(self._last)))
