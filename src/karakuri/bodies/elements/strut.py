"""A gas strut: it pushes with nearly the same force over its stroke."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.elements.linear import RAMP, risen
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model import element as model


class Gas(Frozen, eq=False):
    """Pushes with `out`, N, at length `long`, m, and with (1 + rise) times that when `stroke`, m, shorter; evenly between. All out it pushes
    no farther. That the rise is even is an approximation of a gas pressed together slowly."""

    long: float
    stroke: float
    out: float
    rise: float

    def _in(self, s: Array) -> Array:
        return np.maximum(self.long - s, 0.0)

    def force(self, s: Array) -> Array:
        """N, never above 0."""
        by = self._in(s)
        return np.asarray(-self.out * (np.minimum(by / RAMP, 1.0) + self.rise * by / self.stroke))

    def energy(self, s: Array) -> Array:
        """J."""
        by = self._in(s)
        return np.asarray(self.out * (risen(by) + 0.5 * self.rise * by * by / self.stroke))

    def slope(self, s: Array) -> Array:
        """N/m."""
        by = self._in(s)
        rising = np.where((by > 0) & (by < RAMP), self.out / RAMP, 0.0)
        return np.asarray(np.where(by > 0, self.out * self.rise / self.stroke, 0.0) + rising)

    @property
    def ends(self) -> tuple[float, float]:
        return self.long - self.stroke, self.long


def law_of(element: model.Strut) -> Law:
    """What is printed on it, as many times as there are of them."""
    return Gas(element.long_mm / 1e3, element.stroke_mm / 1e3, element.force_N * element.count, element.rise)
