"""Two pulleys and a belt. Its length, and how far it lies round the smaller (any handbook on belts): L = 2 C cos α + π (D1 + D2) ÷ 2 + α (D2 − D1),
sin α = (D2 − D1) ÷ 2 C; crossed L = 2 C cos α + (D1 + D2)(π ÷ 2 + α), sin α = (D1 + D2) ÷ 2 C."""

from __future__ import annotations

import math

from karakuri.bodies.linkages.even import Even
from karakuri.model.transmission import Belt

TYPICAL, BETWEEN = 0.95, (0.9, 0.98)
"""What comes through of a toothed belt: common practice, no source."""
TIGHT = 1.5
"""A belt pulls its shafts together with so many times what it carries over: common practice, no source."""


def linkage_of(belt: Belt) -> Even:
    """SI of two pulleys."""
    ratio = belt.driven / belt.driver * (-1.0 if belt.crossed else 1.0)
    known = belt.efficiency
    bounds = BETWEEN if known is None else (known, known)
    return Even(ratio, belt.driven / 2e3, 0.0, TIGHT, TYPICAL if known is None else known, bounds)


def length_mm(belt: Belt) -> float:
    """Of the belt, in mm."""
    first, second, apart = belt.driver, belt.driven, belt.axes_mm
    if belt.crossed:
        alpha = math.asin((first + second) / (2 * apart))
        return 2 * apart * math.cos(alpha) + (first + second) * (math.pi / 2 + alpha)
    alpha = math.asin((second - first) / (2 * apart))
    return 2 * apart * math.cos(alpha) + math.pi * (first + second) / 2 + alpha * (second - first)


def in_mesh(belt: Belt) -> float:
    """How many teeth, of pitch_mm each, lie round the smaller pulley, an arc in mm by its pitch; 0 for a belt without teeth."""
    if belt.pitch_mm <= 0:
        return 0.0
    small, large = sorted((belt.driver, belt.driven))
    off = math.asin((large + (small if belt.crossed else -small)) / (2 * belt.axes_mm))
    wrap = math.pi + (2 * off if belt.crossed else -2 * off)
    return wrap * small / 2 / belt.pitch_mm
