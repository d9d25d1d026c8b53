"""A 12-bit pulse generator: 4096 counts a period, its clock divided by a whole number.

prescale = round(clock ÷ (4096 × rate)) − 1, clock 25 MHz nominal, prescale 3 … 255: data sheet of a 16-channel 12-bit I²C PWM
controller (from memory, check the current text). The clock is only a few per cent accurate: measure it once for each board.
"""

from __future__ import annotations

import math

COUNTS, CLOCK_HZ, LEAST, MOST = 4096, 25e6, 3, 255


def prescale(rate_hz: float, clock_hz: float = CLOCK_HZ) -> int:
    """What is written into the prescale register for a rate, Hz, at a clock, Hz."""
    return min(MOST, max(LEAST, math.floor(clock_hz / (COUNTS * rate_hz) + 0.5) - 1))


def real_rate_hz(divider: int, clock_hz: float = CLOCK_HZ) -> float:
    """The rate, Hz, that a prescale gives."""
    return clock_hz / (COUNTS * (divider + 1))


def tick_us(rate_hz: float) -> float:
    """Length of one count, µs, at a rate, Hz."""
    return 1e6 / (rate_hz * COUNTS)


def resolution_rad(us_per_rad: float, rate_hz: float = 50.0) -> float:
    """The smallest step of a joint, rad: one count at a rate, Hz; µs/rad of its servo."""
    return tick_us(rate_hz) / max(abs(us_per_rad), 1e-9)
