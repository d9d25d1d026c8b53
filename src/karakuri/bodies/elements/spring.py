"""A coiled spring drawn out, or one pressed in."""

from __future__ import annotations

import math

from karakuri.bodies.elements.coil import rate_N_per_m
from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.bodies.elements.measured import line
from karakuri.model import element as model


def law_of(element: model.Spring) -> Law:
    """From a rate that is stated, else from pulls that were measured, else from its wire; nothing of that: it pulls with nothing."""
    free = element.free_mm / 1e3
    rate, preload = rate_and_preload(element)
    end = element.longest_mm / 1e3 if element.longest_mm is not None else None
    many = element.count
    if element.presses:
        return Linear(free, rate * many, preload * many, draws=False, presses=True, least=end or 0.0)
    return Linear(free, rate * many, preload * many, most=end or math.inf)


def by_pulls(element: model.Spring) -> tuple[float, float] | None:
    """Rate N/m and preload N of one spring, free length in mm, as its pulls tell them; None where they tell nothing."""
    return line(element.pulls, element.free_mm / 1e3) if element.pulls else None


def rate_and_preload(element: model.Spring) -> tuple[float, float]:
    """Of one spring, N/m and N."""
    known = by_pulls(element)
    rate = preload = 0.0
    if element.rate_N_per_mm is not None:
        rate = element.rate_N_per_mm * 1e3
    elif known is not None:
        rate, preload = known
    elif element.coil is not None:
        rate = rate_N_per_m(element.coil)
    return rate, element.tension_N if element.tension_N is not None else preload
