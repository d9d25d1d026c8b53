"""A chain of sizes: the gap that is left, how far it is likely to be off, root of the sum of squares, and at worst, the plain sum (any text on tolerances)."""

from __future__ import annotations

import math

from karakuri.frozen import Frozen
from karakuri.model.chain import Chain, Link


class Gap(Frozen):
    """m: in the middle, likely off by, at worst off by; the least it must be and the most it may, inf where that is free. shares: of each link in the square of
    what is likely, adding up to 1, or all 0."""

    middle: float
    likely: float
    worst: float
    least: float
    most: float
    shares: tuple[float, ...]

    def off(self, judge: str) -> float:
        """How far it is off as it is judged, m."""
        return self.worst if judge == "worst" else self.likely

    @property
    def room(self) -> float:
        """From the middle to the nearer bound, m; below 0 beyond it."""
        return min(self.middle - self.least, self.most - self.middle)

    def reserve(self, judge: str) -> float:
        """Room ÷ how far it is off; inf where nothing is off and there is room, never below 0."""
        off = self.off(judge)
        if self.room < 0:
            return 0.0
        return self.room / off if off > 1e-12 else math.inf


def adds(link: Link) -> float:
    """What a link adds to the gap, m; below 0 what it takes."""
    return (1.0 if link.adds else -1.0) * link.times * link.count * link.mm / 1e3


def gap_of(chain: Chain) -> Gap:
    """The gap of a chain, m. Equal pieces are off each by itself: likely by the root of their number, at worst all the same way."""
    squares = tuple((link.times * link.plus_minus_mm / 1e3) ** 2 * link.count for link in chain.links)
    worst = sum(link.times * link.count * link.plus_minus_mm / 1e3 for link in chain.links)
    whole = sum(squares)
    return Gap(
        sum(adds(link) for link in chain.links), math.sqrt(whole), worst, chain.least_mm / 1e3,
        chain.most_mm / 1e3 if chain.most_mm is not None else math.inf, tuple(each / whole if whole > 0 else 0.0 for each in squares),
    )  # fmt: skip


def changed(chain: Chain, number: int, margin: float) -> float | None:
    """What link `number` would have to be, mm, for the gap to lie in the middle of its bounds, or so many times what it is off by above the least; None where
    that is below nothing."""
    gap, link = gap_of(chain), chain.links[number]
    wished = 0.5 * (gap.least + gap.most) if math.isfinite(gap.most) else gap.least + margin * gap.off(chain.judge)
    each = (1.0 if link.adds else -1.0) * link.times * link.count
    new = link.mm + (wished - gap.middle) / each * 1e3
    return new if new >= 0 else None


def wedge_grows(wedge: float) -> float:
    """By how much a ring grows across, m, that a wedge so wide, m, opens at its seam: ÷ π."""
    return wedge / math.pi
