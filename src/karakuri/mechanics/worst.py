"""The worst pose of a joint over all wanted ranges and postures: hold either way, tilting moment, side load."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.ascent import climb, held_torque_Nm
from karakuri.mechanics.kinematics import cross, dot
from karakuri.mechanics.statics import inertia_about_axis
from karakuri.mechanics.turn import turns

STARTS, QUICK_STARTS = 32, 4
FEW = 4
_PRIMES = (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53)


@dataclass(frozen=True, eq=False)
class Worst:
    """Torques N·m about the + axis; poses (m,) rad or m; postures by index; moment N·m across the axis; side N.

    `agreement` is the share of starts that came within 1e-6 of the best: how sure the search is.
    """

    hold: float
    pose: Array
    posture: int
    highest: float
    lowest: float
    moment: float
    moment_pose: Array
    moment_posture: int
    side: float
    agreement: float


def rest_pose(tree: Tree) -> Array:
    """The pose nearest to all zeros within the wanted ranges, (m,)."""
    return np.clip(np.zeros(len(tree.ids)), tree.low, tree.high)


def spread(count: int, which: int) -> Array:
    """(count,) values spread evenly over 0…1 (unit: share), another row for each `which`: Weyl's additive recurrence with square roots of primes."""
    root = math.sqrt(_PRIMES[which % len(_PRIMES)])
    out: Array = np.mod((np.arange(count) + 1.0 + which // len(_PRIMES)) * root, 1.0)
    return out


def _starts(tree: Tree, relevant: list[int], count: int, warm: tuple[Array, ...]) -> Array:
    q = np.repeat(rest_pose(tree)[:, None], count, axis=1)
    for i, k in enumerate(relevant):
        u = spread(count, i)
        u[: count // 2] = np.round(u[: count // 2])
        q[k] = tree.low[k] + u * (tree.high[k] - tree.low[k])
    q[:, 0] = rest_pose(tree)
    for i, pose in enumerate(warm[: count - 1]):
        if pose.shape == (len(tree.ids),):
            q[:, i + 1] = np.clip(pose, tree.low, tree.high)
    return q


def worst_pose(
    tree: Tree, j: int, gravities: Array, starts: int = STARTS, warm: tuple[Array, ...] = (), plain: bool = True
) -> Worst:
    """Search joint j (it must turn) over all wanted ranges and postures. gravities: (p, 3) m/s², base frame.

    Exact one-angle steps from `starts` starts; hold about one joint, and over single branches, is exact (see ascent).
    `plain` puts joints that do not matter back to rest in the pose reported.
    """
    relevant = [k for k in (*tree.chains[j], *tree.below[j]) if tree.low[k] < tree.high[k]]
    count = starts if len(relevant) > 1 else min(starts, 12)
    p = len(gravities)
    single = _starts(tree, relevant, count, warm)
    q = np.tile(single, (1, 3 * p))
    g = np.repeat(gravities, count, axis=0).T
    pull = np.concatenate([-g, g, g], axis=1)
    axis = tree.axis[j]
    e = np.repeat(axis[:, None], 3 * p * count, axis=1)
    free = np.zeros(3 * p * count, dtype=bool)
    free[2 * p * count :] = True
    e[:, free] = _across((axis[0], axis[1], axis[2]), p * count)
    tight = np.repeat([1e-8, 1e-8, 1e-6], p)
    value = climb(tree, j, pull, e, free, q, 3 * p, *((tight, 3) if count > FEW else (1e4 * tight, 6)))
    if count > FEW:
        best = np.argsort(-value.reshape(3 * p, count), axis=1)[:, :FEW] + np.arange(3 * p)[:, None] * count
        keep, count = best.ravel(), FEW
        q, e = q[:, keep], e[:, keep]
        free = free[keep]
        value = climb(tree, j, pull[:, keep], e, free, q, 3 * p, tight)
        g = g[:, :1].repeat(p * count, axis=1) if p == 1 else np.repeat(gravities, count, axis=0).T
    blocks = value.reshape(3, p * count)
    up, down, tilt = (int(np.argmax(block)) for block in blocks)
    highest, lowest = float(blocks[0, up]), -float(blocks[1, down])
    columns = q.reshape(len(tree.ids), 3, p * count)
    way = 0 if highest >= -lowest else 1
    at = up if way == 0 else down
    pose = columns[:, way, at].copy()
    if plain:
        pose = _plain(tree, j, pose, gravities[at // count])
    tilt_pose = columns[:, 2, tilt].copy()
    agreement = float(
        np.mean(blocks[way].reshape(p, count)[at // count] >= blocks[way, at] - 1e-6 * (1e-3 + abs(blocks[way, at])))
    )
    return Worst(
        highest if way == 0 else lowest,
        pose,
        at // count,
        highest,
        lowest,
        max(0.0, float(blocks[2, tilt])),
        tilt_pose,
        tilt // count,
        _side(tree, j, q, np.tile(g, 3)),
        agreement,
    )


@lru_cache(maxsize=256)
def _across(unit: tuple[float, float, float], n: int) -> Array:
    """Directions across a unit axis, spread evenly round it, (3, n)."""
    axis = np.array(unit)
    other = np.array([1.0, 0.0, 0.0]) if abs(axis[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    u = np.cross(axis, other)
    u /= np.linalg.norm(u)
    phi = np.arange(n) * 2.399963
    out: Array = np.outer(u, np.cos(phi)) + np.outer(np.cross(axis, u), np.sin(phi))
    return out


def _side(tree: Tree, j: int, q: Array, g: Array) -> float:
    """Largest side load, N, on joint j's support in the poses the search went through."""
    direction = g
    for k in tree.chains[j][:-1]:
        direction = turns(tree)[k].spin(-q[k], direction)
    mass = tree.mass[j] + sum(tree.mass[k] for k in tree.below[j])
    across = cross(np.repeat(tree.axis[j][:, None], q.shape[1], axis=1), direction)
    return float(mass * np.sqrt(dot(across, across)).max())


def _plain(tree: Tree, j: int, pose: Array, gravity: Array) -> Array:
    """The same worst pose with every joint that does not matter put back to rest."""
    m, rest = len(pose), rest_pose(tree)
    matter = {*tree.chains[j], *tree.below[j]}
    tries = np.repeat(pose[:, None], m + 1, axis=1)
    for k in range(m):
        tries[k, k] = rest[k]
    torque = held_torque_Nm(tree, j, tries, gravity)
    target, slack = torque[m], 1e-9 * (1e-6 + abs(torque[m]))
    idle = [k for k in range(m) if k not in matter or abs(torque[k] - target) <= slack]
    plain = pose.copy()
    plain[idle] = rest[idle]
    again = float(held_torque_Nm(tree, j, plain[:, None], gravity)[0])
    return plain if abs(again - target) <= slack else pose


def largest_inertia(tree: Tree, j: int, most: int = 729) -> float:
    """Largest inertia, kg·m², about joint j's axis over low, middle and high of everything it carries.

    Every combination up to `most` of them, else that many spread evenly.
    """
    below = [k for k in tree.below[j] if tree.low[k] < tree.high[k]]
    q = np.repeat(rest_pose(tree)[:, None], 1, axis=1)
    if below:
        levels = np.stack([tree.low, 0.5 * (tree.low + tree.high), tree.high])
        if 3 ** len(below) <= most:
            picks = np.stack(np.meshgrid(*[range(3)] * len(below), indexing="ij")).reshape(len(below), -1)
        else:
            picks = np.stack([(spread(most, i) * 3).astype(int) for i in range(len(below))])
        q = np.repeat(rest_pose(tree)[:, None], picks.shape[1], axis=1)
        for row, k in zip(picks, below, strict=True):
            q[k] = levels[row, k]
    return float(inertia_about_axis(tree, q, j).max())


def moment_curve(tree: Tree, j: int, pose: Array, gravity: Array, count: int = 91) -> tuple[Array, Array]:
    """Angles (count,) rad over joint j's wanted range and its holding torque (count,) N·m there, the others as in pose (m,) rad."""
    angles = np.linspace(tree.low[j], tree.high[j], count)
    q = np.repeat(pose[:, None], count, axis=1)
    q[j] = angles
    return angles, held_torque_Nm(tree, j, q, gravity)
