"""Foam or felt: pushes where two places come nearer to each other than it is thick."""

from __future__ import annotations

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.model import element as model


def law_of(element: model.Pad) -> Law:
    """A spring that only presses."""
    return Linear(
        element.thick_mm / 1e3, element.rate_N_per_mm * 1e3 * element.count, draws=False, presses=True, least=0.0
    )
