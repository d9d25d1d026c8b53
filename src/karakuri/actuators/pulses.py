"""Angle of a joint and pulse of its servo: straight between three places, as calibrated or as the class usually has it; through a linkage a curve
of up to 16."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.through import KNOTS, middle_of, reach, travelled
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import linkage_of
from karakuri.bodies.linkages.at_rest import AtRest
from karakuri.bodies.linkages.contract import Linkage
from karakuri.frozen import Frozen
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint

NARROW_US, WIDE_US, WIDE_FROM_DEG = (1000.0, 1500.0, 2000.0), (500.0, 1500.0, 2500.0), 150.0
BESIDE, APART = math.radians(3.0), math.radians(0.1)
"""A curve goes on beyond the wanted range by so much, rad; its ends lie at least so far from its middle."""


class PulseMap(Frozen):
    """angles (k,) rad rising, pulses (k,) µs rising or falling, 3 to 16 of them from the low end to the high end; `middle` is the number of the
    middle one. `calibrated` or an estimate. `turns` µs/rad, the least pulse for an angle of the servo itself, where that is not the joint's."""

    angles: tuple[float, ...]
    pulses: tuple[float, ...]
    calibrated: bool
    middle: int = 1
    turns: float | None = None

    @property
    def three(self) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
        """Low end, middle and high end: angles rad and pulses µs."""
        (a, b, c), (x, y, z) = ((many[0], many[self.middle], many[-1]) for many in (self.angles, self.pulses))
        return (a, b, c), (x, y, z)

    def pulse(self, angle: Array) -> Array:
        """Pulses (n,) µs for angles (n,) rad; beyond the ends the end's own."""
        return np.interp(angle, self.angles, self.pulses)

    def angle(self, pulse: Array) -> Array:
        """Angles (n,) rad for pulses (n,) µs; beyond the ends the end's own."""
        order = slice(None) if self.pulses[0] < self.pulses[-1] else slice(None, None, -1)
        return np.interp(pulse, self.pulses[order], self.angles[order])

    @property
    def us_per_rad(self) -> float:
        """Mean pulse per angle, µs/rad, of either sign."""
        return (self.pulses[-1] - self.pulses[0]) / (self.angles[-1] - self.angles[0])

    @property
    def least_us_per_rad(self) -> float:
        """The least pulse for an angle of the servo, µs/rad, between two places: a step of pulse is never more of its angle than this makes it."""
        if self.turns is not None:
            return self.turns
        return _least(self.angles, self.pulses)

    def seen_from(self, gain: float, offset: float) -> PulseMap:
        """The same by another coordinate x, rad or m, of which its own angle is gain × x + offset; gain is not 0."""
        places = tuple((angle - offset) / gain for angle in self.angles)
        if gain > 0:
            return replace(self, angles=places)
        return replace(self, angles=places[::-1], pulses=self.pulses[::-1], middle=len(places) - 1 - self.middle)


def _least(angles: Sequence[float], pulses: Sequence[float]) -> float:
    steps = zip(pairwise(pulses), pairwise(angles), strict=True)
    return min(abs((q - p) / (b - a)) for (p, q), (a, b) in steps)


def own_pulses(figure: Figure, drive: Drive) -> PulseMap:
    """Of a servo that shares joints with others by its own angle, rad: as measured with those at rest, else the usual, its middle set to the middle of all
    that it is asked for. Pulses in µs."""
    linkage, calibration = linkage_of(figure, drive), figure.calibration_of(drive.id)
    if calibration is not None and linkage is not None:
        places = np.radians([angle for angle, _ in calibration.curve])
        drives, pulses = linkage.inverse(places).drive, np.array([pulse for _, pulse in calibration.curve])
        order = np.argsort(drives)
        middle = int(np.flatnonzero(order == [a for a, _ in calibration.curve].index(calibration.angles_deg[1]))[0])
        return PulseMap(
            tuple(drives[order].tolist()), tuple(pulses[order].tolist()), True, min(max(middle, 1), len(places) - 2)
        )
    low, high = travelled(figure, drive)
    half, centre = math.radians(drive.actuator.travel_deg / 2), 0.5 * (low + high)
    usual = WIDE_US if drive.actuator.travel_deg >= WIDE_FROM_DEG else NARROW_US
    return PulseMap((centre - half, centre, centre + half), usual, False)


def pulse_map(figure: Figure, joint: Joint, drive: Drive) -> PulseMap:
    """What is measured, else the usual: 1000 … 1500 … 2000 µs, from 150° of travel on 500 … 2500 µs (common practice, no source),
    spread over the servo's travel about the middle of what the wanted range asks of it. Angles in rad, pulses in µs; of a servo that shares joints with
    others, with these at rest."""
    linkage, actuator, calibration = linkage_of(figure, drive), drive.actuator, figure.calibration_of(drive.id)
    if isinstance(linkage, AtRest):
        own = own_pulses(figure, drive)
        a, b = joint.range_deg
        low, middle, high = (
            math.radians(end) for end in (calibration.angles_deg if calibration is not None else (a, (a + b) / 2, b))
        )
        return _curve(linkage, low, middle, high, (np.array(own.angles), np.array(own.pulses)), own.calibrated)
    if calibration is not None:
        low, middle, high = (math.radians(a) for a in calibration.angles_deg)
        ends = (low, middle, high)
        measured = tuple(math.radians(a) for a, _ in calibration.curve)
        pulses_at = tuple(p for _, p in calibration.curve)
        where = measured.index(middle)
        if linkage is None:
            return PulseMap(measured, pulses_at, True, where)
        drives = linkage.inverse(np.array(measured)).drive
        order = np.argsort(drives)
        known = drives[order], np.array(pulses_at)[order]
        if linkage.even:
            return PulseMap(measured, pulses_at, True, where, _least(*map(tuple, known)))
        return _curve(linkage, *ends, known, True)
    pulses = WIDE_US if actuator.travel_deg >= WIDE_FROM_DEG else NARROW_US
    half = math.radians(actuator.travel_deg / 2)
    if linkage is None:
        centre = math.radians(sum(joint.range_deg) / 2)
        return PulseMap((centre - half, centre, centre + half), pulses, False)
    centre, _ = middle_of(joint, linkage)
    low, middle, high = reach(joint, 2 * half, linkage)
    told = np.array([centre - half, centre, centre + half]), np.array(pulses)
    if linkage.even:
        at = np.array([low, middle, high])
        there = tuple(np.interp(linkage.inverse(at).drive, *told).tolist())
        return PulseMap((low, middle, high), there, False, turns=_least(*map(tuple, told)))
    wanted = tuple(math.radians(end) for end in joint.range_deg)
    return _curve(linkage, max(low, wanted[0] - BESIDE), middle, min(high, wanted[1] + BESIDE), told, False)


def _curve(
    linkage: Linkage, low: float, middle: float, high: float, known: tuple[Array, Array], calibrated: bool
) -> PulseMap:
    """From low over middle to high, rad, as straight pieces; pulses from drive places rad and µs that are known."""
    below = np.linspace(low, middle, KNOTS // 2) if middle - low > APART else np.array([middle - APART, middle])
    above = np.linspace(middle, high, KNOTS // 2 + 1) if high - middle > APART else np.array([middle, middle + APART])
    at = np.concatenate([below, above[1:]])
    pulses = _apart(np.interp(linkage.inverse(at).drive, *known))
    turns = _least(*(tuple(many.tolist()) for many in known))
    return PulseMap(tuple(at.tolist()), tuple(pulses.tolist()), calibrated, len(below) - 1, turns)


def _apart(pulses: Array) -> Array:
    """Pulses (k,) µs that rise or fall all the way: where a linkage turns over they stay behind one another by a hair."""
    way = 1.0 if pulses[-1] >= pulses[0] else -1.0
    steps = np.maximum(way * np.diff(pulses), 1e-3)
    return np.concatenate([pulses[:1], pulses[0] + way * np.cumsum(steps)])
