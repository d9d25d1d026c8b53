"""A hand at a lever: how hard it must push or pull over the range, how far it goes, and what would balance it. Virtual work: force × its way = torque × the joint's."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.sizing.stroke import held_over

PLACES = 91


class HandFound(Frozen, eq=False):
    """Element i, a hand, on joint j. At places (k,) rad: highest and lowest (k,) N·m that must be held, whatever all else does; `rubs` N·m; gain m of the
    grip's way for one rad of the joint; reach m, and off (3,) kg·m what the joint carries is off its axis, with all else at rest."""

    i: int
    j: int
    places: Array
    highest: Array
    lowest: Array
    rubs: float
    gain: float
    reach: float
    off: Array

    @property
    def forces(self) -> Array:
        """How hard it is pushed or pulled to move on, (k,) N."""
        return np.asarray((np.maximum(np.abs(self.highest), np.abs(self.lowest)) + self.rubs) / self.gain)

    @property
    def held(self) -> float:
        """How hard it must be held at most, N, standing still."""
        return float(np.maximum(np.abs(self.highest), np.abs(self.lowest)).max()) / self.gain

    @property
    def most(self) -> tuple[float, float]:
        """The most, N, and where, rad."""
        k = int(self.forces.argmax())
        return float(self.forces[k]), float(self.places[k])

    @property
    def way(self) -> float:
        """How far the grip goes for all of the range, m."""
        return float(self.places[-1] - self.places[0]) * self.gain


def off_axis(tree: Tree, j: int) -> tuple[Array, float]:
    """What joint j carries × how far it is off its axis, (3,) kg·m, with all else at rest; and how far the farthest of it reaches across, m."""
    carried = [j, *tree.below[j]]
    off = (tree.mass[carried][:, None] * (tree.com[carried] - tree.pivot[j])).sum(axis=0)
    axis, rows = tree.axis[j], tree.rides[j]
    arms = tree.body_at[rows] - tree.pivot[j]
    across = arms - (arms @ axis)[:, None] * axis
    return off - (off @ axis) * axis, float(np.sqrt((across**2).sum(axis=1)).max()) if rows.any() else 0.0


def hand_found(
    tree: Tree, i: int, j: int, arm: float, turns: float, wanted: tuple[float, float], rubs: float, gravities: Array
) -> HandFound:
    """Element i, a hand at a lever of `arm` m that turns joint j `turns` times as far as itself, over the `wanted` range, rad; gravities (p, 3) m/s²."""
    places = np.linspace(*wanted, PLACES) if wanted[1] - wanted[0] > 1e-9 else np.array([wanted[0], wanted[0] + 1e-9])
    highest, lowest = held_over(tree, j, places, gravities)
    off, reach = off_axis(tree, j)
    gain = arm / max(abs(turns), 1e-6)
    assert math.isfinite(gain)
    return HandFound(i, j, places, highest, lowest, rubs, gain, reach, off)
