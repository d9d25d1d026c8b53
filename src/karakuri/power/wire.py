"""Wires: resistance, what is lost along them, what they carry, at what they melt.

Diameter d = 0.127 mm × 92^((36 − n) ÷ 39): ASTM B258. Copper 1.7241e-8 Ω·m at 20 °C, +0.393 % a kelvin (IEC 60028). What a wire in a bundle carries: 700 circular mils
an ampere, a conservative rule of thumb, no standard; what one carries in the open, the low end of what is usual for the inside of a case: common practice, no source.
Fusing: Preece, I = 80 d^1.5, d in mm. From memory.
"""

from __future__ import annotations

import math

import numpy as np

COPPER_OHM_M, PER_K, CMIL_PER_A, PREECE = 1.7241e-8, 0.00393, 700.0, 80.0
OPEN_A = {10: 30.0, 12: 25.0, 14: 20.0, 16: 15.0, 18: 10.0, 20: 7.0, 22: 5.0, 24: 2.0, 26: 1.0, 28: 0.8}


def diameter_m(awg: int) -> float:
    """Diameter of a solid wire of a gauge, m."""
    return 0.127e-3 * float(92.0 ** ((36 - awg) / 39))


def ohm_per_m(awg: int, at_C: float = 20.0) -> float:
    """Resistance of a metre of it, Ω/m, at a temperature, °C."""
    area = math.pi / 4 * diameter_m(awg) ** 2
    return COPPER_OHM_M * (1 + PER_K * (at_C - 20.0)) / area


def drop_V(amps: float, length_m: float, awg: int, at_C: float) -> float:
    """What is lost there and back, V, of a wire so long one way, m, at a temperature, °C."""
    return 2.0 * length_m * amps * ohm_per_m(awg, at_C)


def carries_A(awg: int) -> float:
    """What it carries for long in a bundle, A."""
    mils = diameter_m(awg) / 25.4e-6
    return float(mils**2 / CMIL_PER_A)


def open_A(awg: int) -> float:
    """The most one may carry for long by itself, in the open, A; beyond the gauges that are listed, by its section from the nearest one."""
    listed = sorted(OPEN_A)
    nearest = min(max(awg, listed[0]), listed[-1])
    amps = math.exp(float(np.interp(nearest, listed, [math.log(OPEN_A[each]) for each in listed])))
    return float(amps * (diameter_m(awg) / diameter_m(nearest)) ** 2)


def melts_A(awg: int) -> float:
    """At what it melts, A."""
    return float(PREECE * (diameter_m(awg) * 1e3) ** 1.5)


def gauge_for(amps: float, length_m: float, most_V: float, at_C: float) -> int:
    """The thinnest even gauge that carries a current for long in a bundle and loses no more than so much, V, at a temperature, °C; 0 where none does."""
    for awg in range(40, -1, -2):
        if carries_A(awg) >= amps and drop_V(amps, length_m, awg, at_C) <= most_V:
            return awg
    return 0
