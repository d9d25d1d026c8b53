"""A cord that nobody pulls at: slack, it does nothing."""

from __future__ import annotations

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.model import element as model


def law_of(element: model.Cord) -> Law:
    """No force at any length: what a hand gives it is judged by itself, see sizing/cord.py."""
    return Linear(0.0, 0.0)
