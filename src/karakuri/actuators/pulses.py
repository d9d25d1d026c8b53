"""Angle of a joint and pulse of its servo: straight between three places, as calibrated or as the class usually has it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.model.drive import Actuator
from karakuri.model.joint import Joint
from karakuri.model.record import Calibration

NARROW_US, WIDE_US, WIDE_FROM_DEG = (1000.0, 1500.0, 2000.0), (500.0, 1500.0, 2500.0), 150.0


@dataclass(frozen=True)
class PulseMap:
    """angles (3,) rad rising, pulses (3,) µs rising or falling: low end, middle, high end. `calibrated` or an estimate."""

    angles: tuple[float, float, float]
    pulses: tuple[float, float, float]
    calibrated: bool

    def pulse(self, angle: Array) -> Array:
        """Pulses (n,) µs for angles (n,) rad; beyond the ends the end's own."""
        return np.interp(angle, self.angles, self.pulses)

    def angle(self, pulse: Array) -> Array:
        """Angles (n,) rad for pulses (n,) µs; beyond the ends the end's own."""
        order = slice(None) if self.pulses[0] < self.pulses[2] else slice(None, None, -1)
        return np.interp(pulse, self.pulses[order], self.angles[order])

    @property
    def us_per_rad(self) -> float:
        """Mean pulse per angle, µs/rad, of either sign."""
        return (self.pulses[2] - self.pulses[0]) / (self.angles[2] - self.angles[0])

    @property
    def least_us_per_rad(self) -> float:
        """The smaller of the pulses per angle of both halves, µs/rad: a step of pulse is never more angle than this makes it."""
        return min(abs((self.pulses[k + 1] - self.pulses[k]) / (self.angles[k + 1] - self.angles[k])) for k in (0, 1))

    def seen_from(self, gain: float, offset: float) -> PulseMap:
        """The same by another coordinate x, rad or m, of which its own angle is gain × x + offset; gain is not 0."""
        low, middle, high = ((angle - offset) / gain for angle in self.angles)
        if gain > 0:
            return PulseMap((low, middle, high), self.pulses, self.calibrated)
        return PulseMap((high, middle, low), (self.pulses[2], self.pulses[1], self.pulses[0]), self.calibrated)


def pulse_map(joint: Joint, actuator: Actuator, calibration: Calibration | None) -> PulseMap:
    """What is measured, else the usual: 1000 … 1500 … 2000 µs, from 150° of travel on 500 … 2500 µs (common practice, no source),
    spread over the servo's travel about the middle of the wanted range. Angles in rad, pulses in µs."""
    if calibration is not None:
        low, middle, high = (math.radians(a) for a in calibration.angles_deg)
        return PulseMap((low, middle, high), calibration.pulses_us, True)
    pulses = WIDE_US if actuator.travel_deg >= WIDE_FROM_DEG else NARROW_US
    centre, half = math.radians(sum(joint.range_deg) / 2), math.radians(actuator.travel_deg / 2)
    return PulseMap((centre - half, centre, centre + half), pulses, False)
