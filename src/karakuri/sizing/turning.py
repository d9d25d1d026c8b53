"""A motor that turns on: what it must turn with all the way round, what it has there, how long a turn takes, where it stalls, what would balance it.

Virtual work: torque at the motor × its way = torque at the joint × that one's. A direct-current motor goes slower the more it must give, along a straight line;
a synchronous one keeps its turns until it falls out of step (any text on motors). A turn of the first takes the sum of way ÷ speed.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import of_form
from karakuri.bodies.linkages.crank import swung
from karakuri.bodies.linkages.lever import FourBar
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.model.assumptions import Assumptions
from karakuri.model.element import Motor
from karakuri.sizing.hand import off_axis
from karakuri.sizing.stroke import held_over

PLACES = 361
"""Of a turn."""


class Turns(Frozen):
    """What a motor has at its shaft: `usable` N·m before it stalls or falls out of step, `passing` and `lasting` the shares of it that it may give on the way
    and all the time, `free` rad/s with nothing on it; `even`: it keeps its speed under load."""

    usable: float
    passing: float
    lasting: float
    free: float
    even: bool


def turns_of(motor: Motor, assumptions: Assumptions) -> Turns:
    """By its label: turns by the mains it gets, or torque and turns by its volts; what is advertised is taken with the same share as of servos."""
    turns = motor.turns_per_min * math.pi / 30
    if motor.sort == "mains":
        return Turns(motor.torque_Nm * assumptions.stall_share, 1.0, 1.0, turns * motor.mains_Hz / motor.label_Hz, True)
    share = assumptions.held_share if motor.gears == "metal" else assumptions.held_share_plastic
    volts = motor.gets_V / motor.at_voltage_V
    return Turns(
        motor.torque_Nm * assumptions.stall_share * volts, assumptions.passing_share, share, turns * volts, False
    )


class TurnFound(Frozen, eq=False):
    """Element i, a motor, on joint j. Over what it goes through: `turned` (k,) rad at the motor, places (k,) rad of the joint, ratio (k,) joint for motor;
    highest, lowest (k,) N·m that must be held there whatever all else does; `rubs` N·m at the joint; `comes` what comes through. `angle` (k,) rad of a crank's
    rod to its lever, `closes` (k,). reach m from the axis to the farthest it carries; off (3,) kg·m what it carries is off its axis, with all else at rest."""

    i: int
    j: int
    turned: Array
    places: Array
    ratio: Array
    angle: Array
    closes: NDArray[np.bool_]
    highest: Array
    lowest: Array
    rubs: float
    comes: float
    reach: float
    off: Array
    crank: bool
    fro: bool

    @property
    def forth(self) -> Array:
        """What the motor must give while its joint goes the + way (of a crank: it itself), (k,) N·m."""
        return self._asked(1.0)

    @property
    def back(self) -> Array:
        """The other way round."""
        return self._asked(-1.0)

    def _asked(self, way: float) -> Array:
        ratio = self.ratio if self.crank else np.abs(self.ratio)
        both = np.stack([way * ratio * self.highest, way * ratio * self.lowest]).max(axis=0)
        return np.asarray((np.maximum(both, 0.0) + np.abs(self.ratio) * self.rubs) / self.comes)

    def ways(self, way: str) -> tuple[Array, ...]:
        """What it must give, (k,) N·m, each way that it goes."""
        if way == "either" or self.fro:
            return (self.forth, self.back)
        return (self.forth,) if way == "plus" else (self.back,)

    def hardest(self, way: str) -> tuple[float, int, Array]:
        """The most, N·m, its place's number, and all of that way."""
        asked = max(self.ways(way), key=lambda each: float(each.max()))
        k = int(asked.argmax())
        return float(asked[k]), k, asked

    def takes_s(self, asked: Array, has: Turns) -> float:
        """How long a turn, or one way between pins, takes, s; inf where it stalls."""
        speed = np.full(len(asked), has.free) if has.even else has.free * (1.0 - asked / max(has.usable, 1e-12))
        if asked.max() >= has.usable or (speed <= 0).any():
            return math.inf
        step = np.abs(np.diff(self.turned))
        return float((step * 0.5 * (1 / speed[:-1] + 1 / speed[1:])).sum())

    def lasting(self, asked: Array) -> float:
        """The root mean square over a turn, N·m."""
        return float(np.sqrt(np.mean(asked**2)))

    @property
    def swing(self) -> tuple[float, float]:
        """Between which places its joint goes, rad."""
        return float(self.places.min()), float(self.places.max())


def reserve(found: TurnFound, way: str, has: Turns) -> float:
    """What it has ÷ what it must give: on the way, and all the time; the smaller."""
    out = math.inf
    for asked in found.ways(way):
        peak, lasts = float(asked.max()), found.lasting(asked)
        out = min(
            out,
            has.passing * has.usable / peak if peak > 1e-12 else math.inf,
            has.lasting * has.usable / lasts if lasts > 1e-12 else math.inf,
        )
    return out


def turn_found(tree: Tree, i: int, j: int, motor: Motor, rubs: float, gravities: Array) -> TurnFound:
    """Element i, a motor on joint j that rubs with N·m, under gravities (p, 3) m/s²: right round, or between its pins."""
    linkage = of_form(motor.through)
    crank = isinstance(linkage, FourBar)
    fro = motor.pins_deg is not None and not crank
    if isinstance(linkage, FourBar):
        turned = np.linspace(0.0, 2 * math.pi, PLACES)
        there = swung(linkage, turned)
        places, ratio, angle, closes = there.joint, there.ratio, there.angle, there.closes
    else:
        pins = motor.pins_deg or (-180.0, 180.0)
        places = np.linspace(math.radians(pins[0]), math.radians(pins[1]), PLACES)
        gain = 1.0 if linkage is None else float(linkage.inverse(np.zeros(1)).ratio[0])
        turned, ratio = places * gain, np.full(PLACES, 1.0 / gain)
        angle, closes = np.full(PLACES, math.pi / 2), np.ones(PLACES, dtype=bool)
    at = np.unique(places)
    highest, lowest = held_over(tree, j, at, gravities)
    off, reach = off_axis(tree, j)
    return TurnFound(
        i, j, turned, places, ratio, angle, closes, np.interp(places, at, highest), np.interp(places, at, lowest), rubs,
        linkage.efficiency if linkage is not None else 1.0, reach, off, crank, fro,
    )  # fmt: skip
