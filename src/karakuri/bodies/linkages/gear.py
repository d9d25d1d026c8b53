"""Two toothed wheels. Ratio by teeth; what presses the shafts apart by the usual pressure angle of 20° (any text on gears)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Reached
from karakuri.bodies.linkages.even import reached
from karakuri.model.transmission import Gear

TYPICAL, BETWEEN = 0.95, (0.9, 0.98)
"""What comes through of one pair of wheels: common practice, no source."""
BACKLASH_MM = 0.2
"""Of printed wheels: common practice, no source."""
PRESSURE = math.radians(20.0)


@dataclass(frozen=True, eq=False)
class Wheels:
    """ratio: turns of the drive for one of the joint, negative where it turns the other way; radius m of the joint's wheel, slack m."""

    ratio: float
    radius: float
    slack: float
    efficiency: float
    efficiency_bounds: tuple[float, float]
    even = True

    def inverse(self, q: Array) -> Reached:
        """u = ratio × q."""
        return reached(self.ratio, q)

    def forward(self, u: Array, near: Array) -> Array:
        """q = u ÷ ratio."""
        return u / self.ratio

    def play(self, q: Array) -> Array:
        """Backlash along the circle where they meet, over its radius, rad."""
        return np.full(q.shape, self.slack / self.radius)

    def pulls(self, q: Array, torque: Array) -> Array:
        """Tooth force, N: torque ÷ (radius × cos 20°)."""
        return np.abs(torque) / (self.radius * math.cos(PRESSURE))


def linkage_of(gear: Gear) -> Wheels:
    """SI of a pair of wheels."""
    ratio = gear.driven / gear.driver * (1.0 if gear.turns == "same" else -1.0)
    slack = BACKLASH_MM if gear.backlash_mm is None else gear.backlash_mm
    known = gear.efficiency
    bounds = BETWEEN if known is None else (known, known)
    radius = gear.module_mm * gear.driven / 2e3
    return Wheels(ratio, radius, slack / 1e3, TYPICAL if known is None else known, bounds)
