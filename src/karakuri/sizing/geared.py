"""What lies between a joint and its servo, over the joint's wanted range: whether it closes, how far the servo turns, how it is set to the lever, what
its members bear and what play it adds."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Linkage
from karakuri.model.joint import Joint

PLACES = 241


@dataclass(frozen=True, eq=False)
class Geared:
    """At joint places (k,) rad over the wanted range: where the servo stands, (k,) rad, drive rad for joint rad with its sign, the transmission angle
    (k,) rad, whether it closes (k,), and how free the joint is, (k,) rad. `force` N, the most that its rod, teeth or belt bear while the figure stands
    still anywhere, where the joint is at `force_at` rad; `moving` N, what they bear at most in the wanted move: a bound."""

    linkage: Linkage
    places: Array
    drive: Array
    ratio: Array
    angle: Array
    closes: NDArray[np.bool_]
    slack: Array
    force: float
    force_at: float
    moving: float = 0.0

    @property
    def most(self) -> float:
        """The larger force, standing or moving, N."""
        return max(self.force, self.moving)

    def while_moving(self, torque: float) -> float:
        """What its members bear at most, N, while its servo gives a torque, N·m, with the joint anywhere in its range: all of that torque through them."""
        gain = np.abs(self.ratio) * self.linkage.efficiency
        return float(self.linkage.pulls(self.places, torque * gain).max())

    @property
    def shut(self) -> bool:
        """Whether it closes all over the wanted range."""
        return bool(self.closes.all())

    @property
    def open_at(self) -> float:
        """The first place, rad from the one that is nearest to 0 and closes, at which it does not."""
        off = np.abs(self.places[~self.closes])
        return float(self.places[~self.closes][int(off.argmin())])

    @property
    def turns_over(self) -> float | None:
        """The place, rad, of a dead point inside the range: there the lever could go either way; None where there is none."""
        k = np.flatnonzero(self.ratio[1:] * self.ratio[:-1] < 0)
        return float(self.places[k[0]]) if len(k) else None

    @property
    def travel(self) -> float:
        """How far the servo turns for the wanted range, rad."""
        return float(self.drive.max() - self.drive.min())

    @property
    def flattest(self) -> tuple[float, float]:
        """The least transmission angle and where, rad."""
        k = int(self.angle.argmin())
        return float(self.angle[k]), float(self.places[k])

    @property
    def ratios(self) -> tuple[float, float]:
        """The least and the largest ratio, without sign: drive for joint."""
        return float(np.abs(self.ratio).min()), float(np.abs(self.ratio).max())

    @property
    def play(self) -> tuple[float, float]:
        """The most that the joint is free while the servo stands, and where, rad."""
        k = int(self.slack.argmax())
        return float(self.slack[k]), float(self.places[k])


def geared(linkage: Linkage, joint: Joint, force: float, force_at: float) -> Geared:
    """A linkage over its joint's wanted range, N and rad as they were found."""
    low, high = joint.range_deg
    places = np.linspace(math.radians(low), math.radians(high), PLACES)
    there = linkage.inverse(places)
    return Geared(
        linkage, places, there.drive, there.ratio, there.angle, there.closes, linkage.play(places), force, force_at
    )
