"""The search where coordinates are tied: followers move with their leader, so no branch decouples and no step is exact.

A coordinate that nothing follows still has its best place in closed form: a torque is a sine of it, a torque's square twice one. Of
the others each in turn is tried at many places over its range, fine enough for what turns fastest with it, and then closed in on.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.turn import best_angle

STEP_RAD, MOST_LEVELS, SWEEPS, ZOOM = math.radians(10.0), 181, 8, 33
WAVES_ACROSS, CLOSER = 49, 2


def is_tied(tree: Tree, joints: tuple[int, ...]) -> bool:
    """Whether any of these joints follows another, or carries a follower's load."""
    tied = tree.coupling
    return any(tied.leader[k] != k or len(tied.loads[k]) > 1 for k in joints)


def free_of(tree: Tree, joints: tuple[int, ...]) -> list[int]:
    """The free coordinates that move these joints, those of no range left out."""
    leaders = sorted({tree.coupling.leader[k] for k in joints})
    return [k for k in leaders if tree.low[k] < tree.high[k]]


def levels(tree: Tree, f: int) -> Array:
    """Places (l,) over the range of free joint f, rad or m."""
    tied = tree.coupling
    fastest = max((abs(tied.gain[k]) for k, j in enumerate(tied.leader) if j == f and not tree.slides[k]), default=1.0)
    wide = (tree.high[f] - tree.low[f]) * (fastest if not tree.slides[f] else max(fastest, 1.0))
    count = min(MOST_LEVELS, 3 + 2 * math.ceil(wide / STEP_RAD / 2)) if not tree.slides[f] or fastest > 1 else 5
    out: Array = np.linspace(tree.low[f], tree.high[f], count)
    return out


def tied_coordinate_ascent(
    tree: Tree, value: Callable[[Array], Array], free: list[int], q: Array, waves: int = 0, sweeps: int = SWEEPS
) -> Array:  # fmt: skip
    """Make value(q), (n,), as large as steps along the free coordinates can from each column of q (m, n), changed in place.

    `waves` is the degree of value as a trigonometric polynomial of a turning coordinate that nothing follows: 1 a torque, 2 a torque's
    square, 0 where it is none; and then, along a slide that nothing follows, it is largest at an end.
    """
    best = value(complete(tree.coupling, q))
    alone = [f for f in free if waves and all(j != f or k == f for k, j in enumerate(tree.coupling.leader))]
    for sweep in range(sweeps):
        before = best.copy()
        for f in free:
            if f in alone:
                best = _stepped(tree, value, q, f, waves, best)
                continue
            places = levels(tree, f)
            width = (places[1] - places[0]) if len(places) > 1 else 0.0
            best = _tried(tree, value, q, f, np.repeat(places[:, None], q.shape[1], axis=1), best)
            for _ in range(1 + (sweep + 1) // 2):
                spots = q[f] + np.linspace(-width, width, ZOOM)[:, None]
                best = _tried(tree, value, q, f, np.clip(spots, tree.low[f], tree.high[f]), best)
                width /= (ZOOM - 1) / 2
        if np.all(best - before <= 1e-9 * (1e-6 + np.abs(best))):
            break
    return best


@lru_cache(maxsize=8)
def _fit(waves: int) -> tuple[Array, Array]:
    """Angles (k,) rad at which a trigonometric polynomial is looked at, and what (k, k) makes its coefficients of the values there:
    constant, then cosine and sine of each degree."""
    count = 2 * waves + 1
    at = np.array([2 * math.pi * k / count for k in range(count)])
    return at, np.asarray(np.linalg.inv(_waves(at, waves)), dtype=float)


def _waves(angle: Array, waves: int) -> Array:
    """1, cos, sin, cos 2, sin 2 … of angles (…,) rad, as the last axis."""
    each = [np.ones_like(angle)]
    for k in range(1, waves + 1):
        each += [np.cos(k * angle), np.sin(k * angle)]
    out: Array = np.stack(each, axis=-1)
    return out


def _stepped(tree: Tree, value: Callable[[Array], Array], q: Array, f: int, waves: int, best: Array) -> Array:
    """The best place of coordinate f, which nothing follows, column by column, where it is better than what was."""
    low, high, n = float(tree.low[f]), float(tree.high[f]), q.shape[1]
    if tree.slides[f]:
        return _tried(tree, value, q, f, np.repeat([[low], [high]], n, axis=1), best)
    at, solve = _fit(waves)
    many = np.concatenate([q] * len(at), axis=1)
    many[f] = np.repeat(at, n)
    coefficients = solve @ value(many).reshape(len(at), n)
    if waves == 1:
        place = best_angle(coefficients[1], coefficients[2], low, high, q[f])
    else:
        places = np.repeat(np.linspace(low, high, WAVES_ACROSS)[:, None], n, axis=1)
        width = (high - low) / (WAVES_ACROSS - 1)
        for closer in range(1 + CLOSER):
            found = np.einsum("lnk,kn->ln", _waves(places, waves), coefficients)
            place = places[found.argmax(axis=0), np.arange(n)]
            if closer < CLOSER:
                places = np.clip(place + np.linspace(-width, width, ZOOM)[:, None], low, high)
                width /= (ZOOM - 1) / 2
    return _tried(tree, value, q, f, place[None, :], best)


def _tried(tree: Tree, value: Callable[[Array], Array], q: Array, f: int, places: Array, best: Array) -> Array:
    """Column by column the best of the places (l, n) for coordinate f, where it is better than what was."""
    n, count = q.shape[1], len(places)
    many = np.tile(q, (1, count))
    many[f] = places.ravel()
    found = value(complete(tree.coupling, many)).reshape(count, n)
    k = found.argmax(axis=0)
    top = found[k, np.arange(n)]
    better = top > best
    q[f, better] = places[k, np.arange(n)][better]
    complete(tree.coupling, q)
    return np.where(better, top, best)
