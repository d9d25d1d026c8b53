"""Crank and rocker: a horn that turns all the way round and rocks a lever, the planar four-bar seen from the crank (Norton, Design of Machinery, ch. 4;
Grashof 1883, from memory): it turns right round where the rod closes at every angle of the crank, and not else."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST
from karakuri.bodies.linkages.lever import FourBar
from karakuri.frozen import Frozen


class Swung(Frozen, eq=False):
    """Of crank places (n,) rad: where the joint is, (n,) rad; joint rad for crank rad; the transmission angle (n,) rad; whether the rod closes there."""

    joint: Array
    ratio: Array
    angle: Array
    closes: NDArray[np.bool_]


def swung(bar: FourBar, u: Array) -> Swung:
    """Of a horn that has turned by u (n,) rad from where it stands with the joint at 0, put together as it is there."""
    side = _side(bar)
    horn = bar.begins + u
    lever, closes = _lever(bar, horn, side)
    rod_x = bar.horn * np.cos(horn) - bar.apart - bar.lever * np.cos(lever)
    rod_y = bar.horn * np.sin(horn) - bar.lever * np.sin(lever)
    on_lever = rod_y * np.cos(lever) - rod_x * np.sin(lever)
    on_horn = rod_y * np.cos(horn) - rod_x * np.sin(horn)
    under = bar.lever * on_lever
    tiny = LEAST * bar.lever * bar.rod
    safe = np.where(np.abs(under) < tiny, np.where(under < 0, -tiny, tiny), under)
    angle = np.arcsin(np.clip(np.abs(on_lever) / bar.rod, 0.0, 1.0))
    off = lever - bar.stands
    return Swung(off - 2 * math.pi * np.rint(off / (2 * math.pi)), bar.horn * on_horn / safe, angle, closes)


def _lever(bar: FourBar, horn: Array, side: float) -> tuple[Array, NDArray[np.bool_]]:
    """The lever's angle for the horn's (n,) rad, on one side of the line from its pivot to the horn's hole."""
    x, y = bar.horn * np.cos(horn) - bar.apart, bar.horn * np.sin(horn)
    far = np.maximum(np.hypot(x, y), 1e-9)
    share = (bar.lever**2 + far**2 - bar.rod**2) / (2 * bar.lever * far)
    closes: NDArray[np.bool_] = np.abs(share) <= 1.0
    return np.arctan2(y, x) + side * np.arccos(np.clip(share, -1.0, 1.0)), closes


def _side(bar: FourBar) -> float:
    """+1 or −1: on which side the lever stands with the joint at 0."""
    at = np.array([bar.begins])
    off = {
        side: abs(math.remainder(float(_lever(bar, at, side)[0][0]) - bar.stands, 2 * math.pi)) for side in (1.0, -1.0)
    }
    return min(off, key=lambda side: off[side])
