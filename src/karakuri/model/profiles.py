"""The kinds of profile and all that is fixed about each: one table. Its arithmetic is motion/profiles, in the same order.

To add one: a row here, motion/profiles/NAME.py, and the same formula in the player's C++ of exchange/player; tests compare both.
"""

from __future__ import annotations

from typing import Literal

from karakuri.frozen import Frozen
from karakuri.units import Kind

ProfileKind = Literal["minimum jerk", "cosine", "trapezoid", "sudden", "following"]


class Shape(Frozen):
    """The own number of a profile: its label, kind and usual value, its bounds, how it is said when crossed, and how many the player
    counts to one."""

    label: str
    kind: Kind
    usual: float
    least: float
    most: float
    bounds: str
    counts: int

    def within(self, value: float) -> float:
        """The value, or the bound it crosses."""
        return min(max(value, self.least), self.most)


class Described(Frozen):
    """How a profile is told on a card, and in a sentence; its own number, where it has one; whether it takes the time it is given, and
    whether a wanted move may be made with it."""

    words: str
    spoken: str
    shape: Shape | None = None
    timed: bool = True
    wanted: bool = True


RAMP = Shape("Ramp share", "percent", 1 / 3, 1e-3, 0.5, "a trapezoid's ramp share lies from 0.001 to 0.5", 10_000)
LAG = Shape("Time constant", "time", 0.15, 1e-3, 86_400.0, "following needs a time constant of 0.001 s to a day", 1_000)
DESCRIBED: dict[ProfileKind, Described] = {
    "minimum jerk": Described("minimum jerk, soft at both ends", "minimum jerk"),
    "cosine": Described("cosine, a little brisker", "cosine"),
    "trapezoid": Described("trapezoid, steady between ramps", "trapezoid", RAMP),
    "sudden": Described("sudden, as fast as the servo goes", "as fast as it goes", timed=False),
    "following": Described("following, never quite arrives", "following", LAG, timed=False, wanted=False),
}
PROFILE_KINDS: tuple[ProfileKind, ...] = tuple(DESCRIBED)
DEFAULT_SHAPE: dict[str, float] = {kind: d.shape.usual for kind, d in DESCRIBED.items() if d.shape is not None}
