"""What turns on by itself while a score runs: a motor that goes right round, to and fro between pins, or by a crank; at the turns it has with nothing on it."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import of_form
from karakuri.bodies.linkages.crank import swung
from karakuri.bodies.linkages.lever import FourBar
from karakuri.frozen import Frozen
from karakuri.model.element import Motor
from karakuri.model.figure import Figure

GRID = 720


class Running(Frozen, eq=False):
    """The joint in a row goes through `places` (k,) rad, the last the first again, in `period` s, from the first on; or, where there are none, right round in it,
    the + way where that is above 0."""

    row: int
    period: float
    places: Array

    def at(self, times: Array) -> tuple[Array, Array, Array]:
        """Place, speed and acceleration (n,) rad, rad/s, rad/s² at times (n,) s."""
        if not len(self.places):
            turned = 2 * math.pi * times / self.period
            speed = np.full(times.shape, 2 * math.pi / self.period)
            return turned - 2 * math.pi * np.rint(turned / (2 * math.pi)), speed, np.zeros(times.shape)
        n = len(self.places) - 1
        step = self.period / n
        k = np.floor(times / step).astype(np.int64)
        share = times / step - k
        before, here, after, then = (self.places[(k + way) % n] for way in (-1, 0, 1, 2))
        bend = (1 - share) * (after - 2 * here + before) + share * (then - 2 * after + here)
        return here + share * (after - here), (after - here) / step, bend / step**2


def running(figure: Figure, ids: tuple[str, ...]) -> tuple[Running, ...]:
    """Of all motors that turn on; the joints `ids` are the rows. A motor that starts either way goes the + way, rad and s."""
    return tuple(_running(each, ids.index(each.joint)) for each in figure.elements if isinstance(each, Motor))


def _running(motor: Motor, row: int) -> Running:
    turns = motor.turns_per_min * math.pi / 30
    turns *= motor.mains_Hz / motor.label_Hz if motor.sort == "mains" else motor.gets_V / motor.at_voltage_V
    way, linkage = -1.0 if motor.way == "minus" else 1.0, of_form(motor.through)
    if isinstance(linkage, FourBar):
        places = swung(linkage, way * np.linspace(0.0, 2 * math.pi, GRID + 1)).joint
        return Running(row, 2 * math.pi / turns, places)
    turns /= 1.0 if linkage is None else abs(float(linkage.inverse(np.zeros(1)).ratio[0]))
    if motor.pins_deg is None:
        return Running(row, way * 2 * math.pi / turns, np.zeros(0))
    low, high = (math.radians(end) for end in motor.pins_deg)
    middle = 0.5 * (low + high)
    first = middle + np.array([0.0, 1.0, 0.0, -1.0, 0.0]) * way * 0.5 * (high - low)
    return Running(row, 2 * max(high - low, 1e-9) / turns, first)
