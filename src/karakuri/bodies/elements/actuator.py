"""A linear actuator: it stands as long as it is told to, so that it pulls and pushes by itself with nothing."""

from __future__ import annotations

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.model import element as model


def law_of(element: model.Linear) -> Law:
    """No force at any length: what it must give is judged by itself, see sizing/stroke.py."""
    return Linear(0.0, 0.0)
