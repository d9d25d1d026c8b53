"""A cable across a joint: it is long enough, and pulls with nothing; where it is not, that is told, see checks/cables.py."""

from __future__ import annotations

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.model import element as model


def law_of(element: model.Cable) -> Law:
    """No force at any length."""
    return Linear(0.0, 0.0)
