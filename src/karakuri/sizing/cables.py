"""The loop of a cable between its two ties: as round as its length and the way between its ends let it be.

An arc of a circle of length L over a chord d: d = L sin x ÷ x with x half the angle it takes, so its radius is L ÷ 2x and it stands off the chord by
r (1 − cos x). A springy cable whose ties let it turn bends sharper in its middle than an arc, by 1.28 to 1.35 (Euler's elastica, Love, Mathematical Theory
of Elasticity, art. 262, from memory): it is taken as SHARPER.
"""

from __future__ import annotations

import math

from karakuri.frozen import Frozen

SHARPER = 1.35
"""By so much a springy cable bends sharper than an arc, see above."""

LONGER, TIMES = 1.1, 8.0
"""So much longer than the longest way between its ties, and bent to no less than so many times its thickness where it moves: common practice, no source."""


class Loop(Frozen):
    """Radius of its sharpest bend and how far it stands off, m; a straight one has an infinite radius."""

    radius: float
    off: float


def loop(length: float, chord: float) -> Loop:
    """Of a cable so long between ends so far apart, m."""
    share = min(max(chord / length, 0.0), 1.0)
    if share >= 1.0:
        return Loop(math.inf, 0.0)
    low, high = 0.0, math.pi
    for _ in range(80):  # sin x ÷ x falls from 1 to 0
        middle = (low + high) / 2
        if math.sin(middle) > share * middle:
            low = middle
        else:
            high = middle
    half = (low + high) / 2
    if half < 1e-9:
        return Loop(math.inf, 0.0)
    radius = length / (2 * half)
    return Loop(radius / SHARPER, radius * (1 - math.cos(half)))
