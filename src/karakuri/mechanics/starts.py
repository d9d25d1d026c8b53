"""Where searches begin: rest, and places spread evenly over the ranges, corners first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree

_PRIMES = (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53)


def rest_pose(tree: Tree) -> Array:
    """The pose nearest to all zeros within the ranges, (m,); what follows stands where its leader puts it."""
    return tree.rest.copy()


def _weyl(count: int, which: int) -> Array:
    """(count,) values spread evenly over 0 … 1, others for each `which`: Weyl's additive recurrence with square roots of primes."""
    root = math.sqrt(_PRIMES[which % len(_PRIMES)])
    out: Array = np.mod((np.arange(count) + 1.0 + which // len(_PRIMES)) * root, 1.0)
    return out


def with_corners(tree: Tree, joints: Sequence[int], count: int) -> Array:
    """Rest, and where there are any of `joints` also `count` poses with these at corners of their ranges first: (m, n) rad or m."""
    poses = np.repeat(tree.rest[:, None], 1 + (count if joints else 0), axis=1)
    low, high = tree.low[list(joints), None], tree.high[list(joints), None]
    poses[list(joints), 1:] = low + corners_first(len(joints), poses.shape[1] - 1, count) * (high - low)
    return poses


@lru_cache(maxsize=256)
def corners_first(rows: int, count: int, corners: int) -> Array:
    """(rows, count) values spread evenly over 0 … 1, a row for each coordinate (unit: share of its range), the first `corners` columns all at an end of it.
    Shared: not to be written to."""
    out = np.stack([_weyl(count, i) for i in range(rows)]) if rows else np.zeros((0, count))
    out[:, :corners] = np.round(out[:, :corners])
    return out


def spread_starts(tree: Tree, relevant: list[int], count: int, warm: tuple[Array, ...]) -> Array:
    """Poses (m, count), rad or m, to begin from: rest, those known, and the `relevant` joints spread over their ranges, half of them at ends."""
    q = np.repeat(rest_pose(tree)[:, None], count, axis=1)
    low, high = tree.low[relevant, None], tree.high[relevant, None]
    q[relevant] = low + corners_first(len(relevant), count, count // 2) * (high - low)
    q[:, 0] = rest_pose(tree)
    for i, pose in enumerate(warm[: count - 1]):
        if pose.shape == (len(tree.ids),):
            q[:, i + 1] = np.clip(pose, tree.low, tree.high)
    return q


def across_axis(axis: Array, n: int) -> Array:
    """Directions across a unit axis (3,), spread evenly round it, (3, n), unit length."""
    return _around((float(axis[0]), float(axis[1]), float(axis[2])), n)


@lru_cache(maxsize=256)
def _around(unit: tuple[float, float, float], n: int) -> Array:
    axis = np.array(unit)
    other = np.array([1.0, 0.0, 0.0]) if abs(axis[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    u = np.cross(axis, other)
    u /= np.linalg.norm(u)
    phi = np.arange(n) * 2.399963
    out: Array = np.outer(u, np.cos(phi)) + np.outer(np.cross(axis, u), np.sin(phi))
    return out
