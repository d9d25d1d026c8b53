"""What a joint's load is at its drive: the one place where a linkage comes between both. By virtual work, torque × joint's way = torque × drive's
way, and what its loss takes on top; as if it lost while it holds too, which no verdict credits it otherwise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.tree import Tree


def lightened(tree: Tree, j: int, q: Array) -> Array | float:
    """By what a torque at joint j in poses q (m, n) rad is divided to be the torque at its drive, (n,): |ratio| × what comes through."""
    linkage = tree.linkage(j)
    return 1.0 if linkage is None else gain_of(linkage, q[j])


def gain_of(linkage: Linkage, q: Array) -> Array:
    """The same for joint places (n,) rad."""
    out: Array = np.abs(linkage.inverse(q).ratio) * linkage.efficiency
    return out


@dataclass(frozen=True, eq=False)
class Driven:
    """A joint's motion as its drive makes it, in the direction in which the joint moves: torque, inertia and motion per drive. `speed` is drive rad
    for joint rad, `gain` what torques are divided by; `curve` d speed ÷ d joint place, 1/rad, along the joint's + way."""

    speed: Array
    gain: Array
    curve: Array


def driven(linkage: Linkage | None, q: Array) -> Driven | None:
    """How a drive goes with its joint at places q (k, n) rad, or any other shape; None where it is the joint itself."""
    if linkage is None:
        return None
    there = linkage.inverse(q.ravel())
    speed = np.abs(there.ratio)
    curve = np.where(there.ratio < 0, -1.0, 1.0) * there.bend
    return Driven(speed.reshape(q.shape), (speed * linkage.efficiency).reshape(q.shape), curve.reshape(q.shape))
