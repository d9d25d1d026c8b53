"""A motor that turns on, and a hand at a lever: no board tells them where to go, and they pull at nothing that stands still: what they are asked for is worked
out by itself."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model import element as model


class Nothing(Frozen, eq=False):
    """Neither draws nor pushes, rad."""

    def force(self, s: Array) -> Array:
        """0 N·m."""
        return np.zeros(s.shape)

    def energy(self, s: Array) -> Array:
        """0 J."""
        return np.zeros(s.shape)

    def slope(self, s: Array) -> Array:
        """0 N·m/rad."""
        return np.zeros(s.shape)

    @property
    def ends(self) -> tuple[float, float]:
        return -np.inf, np.inf


def law_of(element: model.Motor | model.Hand) -> Law:
    """Of any of them."""
    return Nothing()
