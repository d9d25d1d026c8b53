"""What a joint alone works against in given poses of all others: weight over its angle, and inertia."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.at_drive import at_drive
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.equilibrium import complete, pendulums
from karakuri.mechanics.tied import is_tied
from karakuri.mechanics.worst import drive_inertia, joint_torque_Nm
from karakuri.sizing.least_time import Pull

TABLE = 33


def _swings(tree: Tree, j: int) -> bool:
    """Whether more than joint j's own angle changes, or more than weight pulls, while it moves."""
    return bool(tree.coupling.hangs) or is_tied(tree, (j,))


def pull_of(
    tree: Tree, j: int, q: Array, gravity: Array, friction: float, ends: tuple[float, float], inertia: Array | None = None, drive: int | None = None
) -> Pull:  # fmt: skip
    """What joint j pulls against in poses q (m, n) rad or m under gravity (3,) or (3, n) m/s²; friction N·m.

    In its own angle the weight is a cos θ + b sin θ + c; where others follow it, or more than weight pulls, a table over `ends` rad, and the
    inertia, kg·m², is the largest there. `inertia` (n,) where it is known already. Where its drive shares joints, what joint j's motion asks of the
    drive of joint `drive`, its own where none is said, all in a table at that drive.
    """
    n = q.shape[1]
    if tree.group(j) is not None:
        return _shared(tree, j, j if drive is None else drive, q, gravity, friction, ends)
    if _swings(tree, j):
        swept = _swept(tree, j, q, gravity, ends)
        g = np.tile(gravity, (1, TABLE)) if gravity.ndim == 2 else gravity
        table = joint_torque_Nm(tree, j, swept, g).reshape(TABLE, n)
        most = drive_inertia(tree, swept, j).reshape(TABLE, n).max(axis=0)
        zero = np.zeros(n)
        step = (ends[1] - ends[0]) / (TABLE - 1)
        return Pull(zero, zero, zero, most, friction, table, ends[0], step, linkage=tree.linkage(j))
    three = np.concatenate((q, q, q), axis=1)
    three[j] = np.repeat([0.0, math.pi / 2, math.pi], n)
    at = joint_torque_Nm(tree, j, three, np.tile(gravity, (1, 3)) if gravity.ndim == 2 else gravity).reshape(3, n)
    c = 0.5 * (at[0] + at[2])
    inertia = drive_inertia(tree, q, j) if inertia is None else inertia
    return Pull(0.5 * (at[0] - at[2]), at[1] - c, c, inertia, friction, linkage=tree.linkage(j))


def _shared(
    tree: Tree, j: int, drive: int, q: Array, gravity: Array, friction: float, ends: tuple[float, float]
) -> Pull:
    """What joint j's motion alone asks of the drive of joint `drive`, over `ends` rad: by inverse dynamics for one rad/s² and for one rad/s."""
    group, n = tree.group(j), q.shape[1]
    assert group is not None
    swept = _swept(tree, j, q, gravity, ends)
    still, one = np.zeros_like(swept), np.zeros_like(swept)
    tied = tree.coupling
    for k, leader in enumerate(tied.leader):
        if leader == tied.leader[j] and tied.gain[j] != 0.0:
            one[k] = tied.gain[k] / tied.gain[j]
    one[j] = 1.0

    g, twice = np.tile(gravity, (1, TABLE)) if gravity.ndim == 2 else gravity, np.tile(swept, (1, 2))
    two = inverse_dynamics(tree, twice, np.hstack([still, one]), np.hstack([one, still]), np.zeros(3))
    moving = two.reshape(len(swept), 2, -1)  # for one rad/s², for one rad/s

    def asked(k: int) -> Array:
        inertia, square = sum((gain * moving[i] for i, gain in tied.loads[k]), np.zeros(moving.shape[1:]))
        rubs = np.full(swept.shape[1], float(k == j))
        return np.stack([joint_torque_Nm(tree, k, swept, g), inertia, square, rubs])

    table = np.stack([*at_drive(tree, drive, swept, asked), *group.motion(drive, swept, one, still)]).reshape(
        6, TABLE, n
    )
    zero, step = np.zeros(n), (ends[1] - ends[0]) / (TABLE - 1)
    most = np.abs(table[1]).max(axis=0)
    return Pull(zero, zero, zero, most, friction, None, ends[0], step, shared=table)


def _swept(tree: Tree, j: int, q: Array, gravity: Array, ends: tuple[float, float]) -> Array:
    """The poses with joint j itself at TABLE places between the ends, (m, TABLE × n), all else where it then stands or hangs."""
    places = np.linspace(*ends, TABLE)
    if not tree.coupling.hangs or pendulums(tree):  # a pendulum hangs the same way whichever way it came
        many = np.concatenate([q] * TABLE, axis=1)
        put(tree.coupling, many, j, np.repeat(places, q.shape[1]))
        return complete(tree, many, np.tile(gravity, (1, TABLE)) if gravity.ndim == 2 else gravity)
    out, now = [], q.copy()
    for place in places.tolist():  # what hangs goes along from where it hung the moment before
        put(tree.coupling, now, j, np.full(now.shape[1], place))
        out.append(complete(tree, now, gravity).copy())
    return np.concatenate(out, axis=1)
