"""A linkage as its own members meet it: for searches of what they bear."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Linkage, Reached
from karakuri.frozen import Frozen


class Borne(Frozen, eq=False):
    """A linkage as what pulls at its members meets it: what it tells as a torque at the drive is the force, N, for N·m at the joint."""

    inner: Linkage
    efficiency = 1.0
    efficiency_bounds = (1.0, 1.0)

    @property
    def even(self) -> bool:
        """Whether it is the same everywhere."""
        return self.inner.even

    def inverse(self, q: Array) -> Reached:
        """Places (n,) rad with newton metres for each newton as the ratio."""
        there = self.inner.inverse(q)
        ratio = 1.0 / np.maximum(self.inner.pulls(q, np.ones(q.shape)), LEAST)
        return Reached(there.drive, ratio, np.zeros(q.shape), there.angle, there.closes)

    def forward(self, u: Array, near: Array) -> Array:
        """As the linkage itself, (n,) rad."""
        return self.inner.forward(u, near)

    def play(self, q: Array) -> Array:
        """As the linkage itself, (n,) rad."""
        return self.inner.play(q)

    def pulls(self, q: Array, torque: Array) -> Array:
        """As the linkage itself, (n,) N for (n,) N·m."""
        return self.inner.pulls(q, torque)
