"""What is said between the window and the one that studies: orders and offers one way, answers the other."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness

if TYPE_CHECKING:  # whoever only orders need not have read how a study is made
    from karakuri.checks.contract import Needed
    from karakuri.model.finding import Remedy
    from karakuri.study.studied import Study


class Order(Frozen):
    """A figure to study; `quick` while a hand is still dragging: no settling, no remedies. `heard` is how loud its sounds are, of those that could be listened to; None where nobody has listened yet."""

    number: int
    figure: Figure
    quick: bool
    heard: tuple[Loudness, ...] | None = None


class Offer(Frozen):
    """Remedies wanted of one finding of the last study."""

    number: int
    finding: str


class GiveUp(Frozen):
    """Nothing under way is waited for any more; the number is newer than any order's."""

    number: int


class Went(Frozen):
    """How far a study is that takes long: what is under way, and its share, 0 to 1."""

    number: int
    what: str
    share: float


class Studied(Frozen, eq=False):
    """The study ordered under a number; it took so many seconds. `further`: the same with more judged, all that was offered for it stands."""

    number: int
    study: Study
    took: float
    further: bool = False


class Remedied(Frozen, eq=False):
    """Remedies of one of its findings."""

    number: int
    finding: str
    remedies: tuple[Remedy, ...]


class Finished(Frozen):
    """All remedies of that study are told."""

    number: int


class Broke(Frozen):
    """The study of that number could not be made, and why."""

    number: int
    why: str


Message = Order | Offer | GiveUp
Answer = Went | Studied | Remedied | Finished | Broke


def portable(answer: Answer) -> Answer:
    """An answer for another process: what searches stays behind, for only where it was made anything is proposed."""
    if not isinstance(answer, Studied):
        return answer
    results = replace(answer.study.results, need_of=_not_here)
    return replace(answer, study=replace(answer.study, results=results))


def _not_here(figure: Figure, joint: str) -> Needed | None:
    return None
