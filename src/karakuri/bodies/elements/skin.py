"""Springy skin, glued to what moves: pushed or drawn from where it lies it comes back, as hard as it was pushed far. That a sheet of silicone or latex
does so evenly holds for pushes that are small against it: common practice, no source."""

from __future__ import annotations

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.bodies.elements.measured import line
from karakuri.model import element as model


def law_of(element: model.Skin) -> Law:
    """From a rate that is stated, else from pushes that were measured; nothing of that: it is not known, and told so elsewhere."""
    return Linear(0.0, (rate_N_per_m(element) or 0.0) * element.count)


def rate_N_per_m(element: model.Skin) -> float | None:
    """What one such place comes back with, N/m of push in m; None where nobody knows."""
    if element.rate_N_per_mm is not None:
        return element.rate_N_per_mm * 1e3
    known = line(element.pulls, 0.0) if element.pulls else None
    return known[0] if known is not None else None
