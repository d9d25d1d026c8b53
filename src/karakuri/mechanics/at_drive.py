"""What a joint's load is at its drive: the one place where a linkage comes between both. By virtual work, torque × joint's way = torque × drive's
way, and what its loss takes on top; as if it lost while it holds too, which no verdict credits it otherwise. A drive that shares joints with others
gives a share of what each of these joints asks."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.linkages.shared import kept_off
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen


def asked_of(tree: Tree, j: int) -> tuple[int, ...]:
    """The joints whose loads joint j's drive gives a share of: its own, and those of drives that share joints with it."""
    group = tree.group(j)
    return (j,) if group is None else group.joints


def at_drive(tree: Tree, j: int, q: Array, of_joint: Callable[[int], Array]) -> Array:
    """What joint j's drive gives, N·m in the joint's sense, where of_joint(k), (…, n) N·m, is asked at joint k, in poses q (m, n) rad or m."""
    group = tree.group(j)
    if group is None:
        linkage = tree.linkage(j)
        asked = of_joint(j)
        return asked if linkage is None else np.asarray(asked / gain_of(linkage, q[j]))
    weights = group.weights(j, q)
    return np.asarray(sum((w * of_joint(k) for w, k in zip(weights, group.joints, strict=True)), 0.0))


def gain_of(linkage: Linkage, q: Array) -> Array:
    """By what a torque at a joint is divided to be the torque at its drive, at joint places (n,) rad: |ratio| × what comes through."""
    out: Array = np.abs(linkage.inverse(q).ratio) * linkage.efficiency
    return out


def bears_N(tree: Tree, j: int, q: Array, torque: Array) -> Array:
    """What rod, teeth or belt between joint j and its drive bear, N, (n,), where a torque (n,) N·m comes to the drive through them, in poses q (m, n) rad or m; 0 where its own shaft
    turns it. What the drive itself weighs does not go through them."""
    group = tree.group(j)
    if group is None:
        linkage = tree.linkage(j)
        return np.zeros(q.shape[1]) if linkage is None else linkage.pulls(q[j], torque * gain_of(linkage, q[j]))
    d = group.number(j)
    drive = group.drives[d]
    if d == group.bears:
        return drive.pulls(q, torque)
    members = drive.members(q)
    return drive.pulls(q, torque * drive.efficiency / np.abs(kept_off(members.under, members.over)))


def comes_through(tree: Tree, j: int) -> tuple[float, tuple[float, float]]:
    """What comes through between joint j and its drive, 0 … 1, and between which bounds; 1 where the drive turns it itself."""
    group = tree.group(j)
    there = tree.linkage(j) if group is None else group.of(j)
    return (1.0, (1.0, 1.0)) if there is None else (there.efficiency, there.efficiency_bounds)


class Driven(Frozen, eq=False):
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


def drive_motion(tree: Tree, j: int, q: Array, qd: Array, qdd: Array) -> tuple[Array, Array]:
    """How fast joint j's drive goes, (n,) rad/s, and how fast that grows, rad/s², in the joint's sense, in motion q, qd, qdd (m, n)."""
    group = tree.group(j)
    if group is not None:
        return group.motion(j, q, qd, qdd)
    through = driven(tree.linkage(j), q[j])
    if through is None:
        return qd[j], qdd[j]
    return through.speed * qd[j], through.speed * qdd[j] + through.curve * qd[j] ** 2
