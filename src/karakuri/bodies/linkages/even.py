"""What linkages share whose ratio is the same everywhere."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Reached


def reached(ratio: float, q: Array) -> Reached:
    """u = ratio × q for joint places (n,) rad: no dead point anywhere."""
    one = np.ones(q.shape)
    return Reached(ratio * q, ratio * one, 0.0 * one, 0.5 * math.pi * one, one > 0)
