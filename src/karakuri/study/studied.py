"""What a study is, and when one stands for another figure as well. Imports next to nothing, for whoever only shows it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.values.fields import fields_of

if TYPE_CHECKING:
    from karakuri.checks.contract import Results

MOVING = frozenset(
    {"scores", "playing", "sounds", "lines", "behaviour", "poses", "pictures", "name", "currency", "format", "version"}
)


class Study(Frozen, eq=False):
    """A figure with its results and its findings, worst first."""

    figure: Figure
    results: Results
    findings: tuple[Finding, ...]
    settled: bool = True

    def finding(self, ident: str) -> Finding | None:
        """The finding of that id, or None."""
        return next((finding for finding in self.findings if finding.id == ident), None)

    def count(self, verdict: str) -> int:
        """How many findings have a verdict."""
        return sum(1 for finding in self.findings if finding.verdict == verdict)


def same_moves(figure: Figure, base: Study) -> bool:
    """True where a body in a dragging hand leaves what moves as it was: what was found about the score then stands until it settles."""
    same = (
        _same(figure.score.channels, base.figure.score.channels) and figure.score.length_s == base.figure.score.length_s
    )
    return (
        same and [j.id for j in figure.joints] == [j.id for j in base.figure.joints] and base.results.loads is not None
    )


def same_body(a: Figure, b: Figure) -> bool:
    """True where nothing but the moving fields differs. Items keep their identity through an edit, tuples and numbers do not."""
    return all(_same(getattr(a, name), getattr(b, name)) for name in fields_of(type(a)) if name not in MOVING)


def _same(a: object, b: object) -> bool:
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))
    return a is b or (isinstance(a, str | int | float) and a == b)
