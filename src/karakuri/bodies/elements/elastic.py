"""Elastic cord: rubber drawn out, which does not follow Hooke's law for long."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.measured import fitted
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model import element as model


class Rubber(Frozen, eq=False):
    """Neo-Hookean rubber drawn out from `free`, m, to λ times that: strong × (λ − λ⁻²), strong = modulus ÷ 3 × area, N (Treloar, The Physics
    of Rubber Elasticity, 3rd ed., from memory). It takes 10 to 25 % less when it comes back, and creeps: an estimate."""

    free: float
    strong: float
    most: float = math.inf

    def _drawn(self, s: Array) -> Array:
        return np.maximum(s / self.free, 1.0)

    def force(self, s: Array) -> Array:
        """N; 0 where it hangs slack."""
        by = self._drawn(s)
        out: Array = self.strong * (by - by**-2)
        return out

    def energy(self, s: Array) -> Array:
        """J."""
        by = self._drawn(s)
        out: Array = self.strong * self.free * (0.5 * by * by + 1.0 / by - 1.5)
        return out

    def slope(self, s: Array) -> Array:
        """N/m."""
        by = self._drawn(s)
        return np.where(s > self.free, self.strong / self.free * (1.0 + 2.0 * by**-3), 0.0)

    @property
    def ends(self) -> tuple[float, float]:
        return 0.0, self.most


def law_of(element: model.Elastic) -> Law:
    """From the pulls that were measured, else from thickness and modulus."""
    free, most = element.free_mm / 1e3, element.longest_mm / 1e3 if element.longest_mm is not None else math.inf
    strong = element.modulus_MPa * 1e6 / 3 * math.pi * (element.thick_mm / 1e3) ** 2 / 4
    return Rubber(free, (by_pulls(element) or strong) * element.count, most)


def by_pulls(element: model.Elastic) -> float | None:
    """How strong one cord is, N, free length in mm, as its pulls tell it; None where they tell nothing."""
    one = Rubber(element.free_mm / 1e3, 1.0)
    return fitted(element.pulls, lambda s: float(one.force(np.array([s]))[0])) if element.pulls else None
