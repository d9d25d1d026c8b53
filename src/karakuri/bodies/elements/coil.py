"""The rate of a coiled spring from its wire, its width and its turns."""

from __future__ import annotations

import math

from karakuri.model.element import Coil

SHEAR_PA = {"music wire": 79.3e9, "stainless": 69.0e9}
YOUNG_PA = {"music wire": 206.0e9, "stainless": 193.0e9}
"""Shigley, Mechanical Engineering Design, 10th ed., table 10-5, from memory: check the current text."""


def rate_N_per_m(coil: Coil) -> float:
    """The rate, N/m, of one drawn out or pressed in, its sizes in mm: G d⁴ ÷ (8 D³ n), D the mean diameter (Shigley eq. 10-9)."""
    d, mean = coil.wire_mm / 1e3, (coil.outer_mm - coil.wire_mm) / 1e3
    return SHEAR_PA[coil.stuff] * d**4 / (8 * mean**3 * coil.turns)


def rate_Nm_per_rad(coil: Coil) -> float:
    """The rate, N·m/rad, of one twisted about its own axis, its sizes in mm: E d⁴ ÷ (10.8 D n) a turn (Shigley eq. 10-51, friction between the coils in it)."""
    d, mean = coil.wire_mm / 1e3, (coil.outer_mm - coil.wire_mm) / 1e3
    return YOUNG_PA[coil.stuff] * d**4 / (10.8 * mean * coil.turns) / (2 * math.pi)
