"""What a calibration comes to: which tooth of the spline, what is left to trim, a generator's own clock.

A spline of n teeth turns a horn by 360° ÷ n from one tooth to the next; what is nearer than half of that no tooth mends, a trim of the pulse does.
"""

from __future__ import annotations

import math

from karakuri.actuators.generator import CLOCK_HZ
from karakuri.frozen import Frozen

TEETH = 25
"""Of the splines of most hobby servos of 20 g and more: common practice, no source. Count yours."""
SLOWEST_HZ, FASTEST_HZ = 20e6, 30e6


class Tooth(Frozen):
    """How many teeth to put the horn on by, + the way the joint's + end lies; what is left then, rad; and the pulse that trims it, µs from the middle."""

    steps: int
    left: float
    trim_us: float


def tooth(off_rad: float, teeth: int, us_per_rad: float) -> Tooth:
    """For a horn that stands `off_rad` from the middle, rad, + toward the joint's + end, while its servo is at its middle pulse; µs/rad of either sign."""
    pitch = 2.0 * math.pi / teeth
    steps = -math.floor(off_rad / pitch + 0.5)
    left = off_rad + steps * pitch
    return Tooth(steps, left, -left * us_per_rad)


def clock_hz(asked_us: float, measured_us: float, taken_hz: float = CLOCK_HZ) -> float:
    """A generator's own clock, Hz, from one pulse that was asked for and measured, µs, while it was taken for `taken_hz`. Raises ValueError where that cannot
    be such a generator."""
    found = taken_hz * asked_us / measured_us
    if not SLOWEST_HZ <= found <= FASTEST_HZ:
        raise ValueError(f"expected a pulse that comes of a clock of 20 to 30 MHz, found {found / 1e6:.1f} MHz: was it that output, and that pulse?")  # fmt: skip
    return found
