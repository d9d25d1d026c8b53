"""Linkages whose ratio is the same everywhere: wheels, belts and their like."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Reached
from karakuri.frozen import Frozen


class Even(Frozen, eq=False):
    """ratio: turns of the drive for one of the joint, negative where it turns the other way; radius m of what sits on the joint; slack m along its rim;
    presses: the force on the drive's shaft for each newton along the rim."""

    ratio: float
    radius: float
    slack: float
    presses: float
    efficiency: float
    efficiency_bounds: tuple[float, float]
    even = True

    def inverse(self, q: Array) -> Reached:
        """u = ratio × q for joint places (n,) rad: no dead point anywhere."""
        one = np.ones(q.shape)
        return Reached(self.ratio * q, self.ratio * one, 0.0 * one, 0.5 * math.pi * one, one > 0)

    def forward(self, u: Array, near: Array) -> Array:
        """q = u ÷ ratio, (n,) rad."""
        return u / self.ratio

    def play(self, q: Array) -> Array:
        """Slack over the radius, rad, at joint places (n,) rad."""
        return np.full(q.shape, self.slack / self.radius)

    def pulls(self, q: Array, torque: Array) -> Array:
        """Force, (n,) N, on the drive's shaft: torque ÷ radius, times how it presses."""
        return self.presses * np.abs(torque) / self.radius
