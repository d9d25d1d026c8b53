"""Two servos' wheels on one axis with a wheel between them that rides on a carrier: the carrier goes as half the sum of both, the wheel between as half
their difference times the ratio of teeth (any text on differentials). So a servo goes as the carrier, and as the wheel between × its teeth ÷ the servo's wheel's."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.gear import BACKLASH_MM, BETWEEN, PRESSURE, TYPICAL
from karakuri.bodies.linkages.shared import Members, Row
from karakuri.frozen import Frozen
from karakuri.model.transmission import Bevel


class BevelWheel(Frozen, eq=False):
    """One servo of both: rows of the carrier's joint and of the wheel between; gain: servo turns for one of the wheel between, with its sign; radius m of
    the servo's wheel, slack m along its rim."""

    carrier: int
    wheel: int
    gain: float
    radius: float
    slack: float
    efficiency: float
    efficiency_bounds: tuple[float, float]
    even = True

    @property
    def reads(self) -> tuple[int, ...]:
        """Both rows."""
        return (self.carrier, self.wheel)

    def row(self, q: Array) -> Row:
        """Of poses (m, n) rad."""
        drive = q[self.carrier] + self.gain * q[self.wheel]
        one = np.ones(drive.shape)
        return Row(drive, np.stack([one, self.gain * one]), one, 0.5 * math.pi * one, one > 0)

    def members(self, q: Array) -> Members:
        """As of its row."""
        row = self.row(q)
        return Members(row.over, row.under)

    def play(self, q: Array) -> Array:
        """Slack over the servo's wheel, rad: what it bears is a torque."""
        return np.full(q.shape[1], self.slack / self.radius)

    def pulls(self, q: Array, member: Array) -> Array:
        """What presses the servo's shaft aside, N: torque ÷ radius by the pressure angle."""
        return np.abs(member) / self.radius / math.cos(PRESSURE)

    def mapped(self, place: Mapping[int, int]) -> BevelWheel:
        """For another numbering."""
        return replace(self, carrier=place[self.carrier], wheel=place[self.wheel])


def bevel_wheel(form: Bevel, carrier: int, wheel: int) -> BevelWheel:
    """SI of one servo of both, for rows of poses."""
    gain = form.between / form.side * (1.0 if form.turns == "same" else -1.0)
    slack = BACKLASH_MM if form.backlash_mm is None else form.backlash_mm
    known = form.efficiency
    bounds = BETWEEN if known is None else (known, known)
    radius = form.module_mm * form.side / 2e3
    return BevelWheel(carrier, wheel, gain, radius, slack / 1e3, TYPICAL if known is None else known, bounds)
