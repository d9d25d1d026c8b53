"""Two servos on two joints, for drawings: how far they reach together, and what they hold together: |share of one| + |share of the other| within what each
gives, a diamond in the plane of both torques, and lines on it where one of them works alone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.worst import joint_torque_Nm

CELLS, BESIDE = 25, 0.5
"""Cells each way of the map of what is reached, which goes beyond the wanted ranges by so much of them."""


class Diamond(Frozen, eq=False):
    """In the plane of two joints' torques, N·m: the corners (4, 2) of what both servos hold for long; for each servo the way (2,), unit, along which it works
    alone, the other idle; what is asked now (2,), and all over both ranges (n, 2)."""

    corners: Array
    alone: Array
    now: Array
    asked: Array


def diamond(
    tree: Tree, pair: tuple[int, int], pose: Array, gravity: Array, gives: tuple[float, float]
) -> Diamond | None:
    """At a pose (m,) under gravity (3,) m/s², of the joints of two rows whose servos hold so much for long, N·m; None where they do not share, or lose all hold."""
    group = tree.group(pair[0])
    if group is None or len(group.joints) != 2 or set(group.joints) != set(pair):
        return None
    order = [group.joints.index(j) for j in pair]
    q = complete(tree, pose[:, None].copy(), gravity)
    weights = np.stack([group.weights(j, q)[order, 0] for j in pair])
    if abs(np.linalg.det(weights)) < 1e-9:
        return None
    back = np.linalg.inv(weights)
    corners = np.array([back @ (a * gives[0], b * gives[1]) for a, b in ((1, 1), (1, -1), (-1, -1), (-1, 1))])
    alone = back.T / np.maximum(np.linalg.norm(back.T, axis=1, keepdims=True), 1e-12)
    axes = np.meshgrid(*(np.linspace(tree.low[j], tree.high[j], 5) for j in pair))
    many = np.repeat(pose[:, None], axes[0].size, axis=1)
    for j, values in zip(pair, axes, strict=True):
        many[j] = values.ravel()
    many = complete(tree, many, np.repeat(gravity[:, None], many.shape[1], axis=1))
    asked = np.stack([joint_torque_Nm(tree, j, many, gravity) for j in pair], axis=1)
    return Diamond(corners, alone, np.array([float(joint_torque_Nm(tree, j, q, gravity)[0]) for j in pair]), asked)


class Reach(Frozen, eq=False):
    """Places (k,) rad of the one joint and of the other, and which of all pairs both servos reach, (k, k), the one along the first."""

    one: Array
    other: Array
    reached: NDArray[np.bool_]


def reach(
    tree: Tree, pair: tuple[int, int], pose: Array, middles: tuple[float, float], travels: tuple[float, float]
) -> Reach | None:
    """Of the joints of two rows, the rest as in a pose (m,), whose servos turn so far, rad, about their middles, rad; None where they do not share."""
    group = tree.group(pair[0])
    if group is None or not set(pair) <= set(group.joints):
        return None
    ends = []
    for j in pair:
        more = BESIDE * max(float(tree.high[j] - tree.low[j]), 0.01)
        ends.append(np.linspace(tree.low[j] - more, tree.high[j] + more, CELLS))
    axes = np.meshgrid(*ends, indexing="ij")
    q = np.repeat(pose[:, None], axes[0].size, axis=1)
    for j, values in zip(pair, axes, strict=True):
        q[j] = values.ravel()
    rows = group.rows(q)
    good = np.all([row.closes for row in rows], axis=0)
    for j, middle, travel in zip(pair, middles, travels, strict=True):
        good &= np.abs(rows[group.number(j)].drive - middle) <= travel / 2 + 1e-9
    return Reach(ends[0], ends[1], good.reshape(CELLS, CELLS))
