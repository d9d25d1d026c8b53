"""A spring about a joint's own axis."""

from __future__ import annotations

import math

from karakuri.bodies.elements.coil import rate_Nm_per_rad
from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import Linear
from karakuri.model import element as model


def law_of(element: model.Torsion) -> Law:
    """From a rate that is stated, else from its wire."""
    rate = 0.0
    if element.rate_Nm_per_deg is not None:
        rate = math.degrees(element.rate_Nm_per_deg)
    elif element.coil is not None:
        rate = rate_Nm_per_rad(element.coil)
    return Linear(math.radians(element.free_deg), rate * element.count, presses=True)
