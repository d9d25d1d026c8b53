"""The search where coordinates are tied: followers move with their leader, so no branch decouples and no step is exact.

Each free coordinate in turn is tried at many places over its range, fine enough for what turns fastest with it, and then closed in on.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree

STEP_RAD, MOST_LEVELS, SWEEPS, ZOOM = math.radians(10.0), 181, 8, 9


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
    tree: Tree, value: Callable[[Array], Array], free: list[int], q: Array, sweeps: int = SWEEPS, zooms: int = 2
) -> Array:
    """Make value(q), (n,), as large as steps along the free coordinates can from each column of q (m, n), changed in place."""
    best = value(complete(tree.coupling, q))
    for sweep in range(sweeps):
        before = best.copy()
        for f in free:
            places = levels(tree, f)
            width = (places[1] - places[0]) if len(places) > 1 else 0.0
            best = _tried(tree, value, q, f, np.repeat(places[:, None], q.shape[1], axis=1), best)
            for _ in range(zooms + sweep):
                spots = q[f] + np.linspace(-width, width, ZOOM)[:, None]
                best = _tried(tree, value, q, f, np.clip(spots, tree.low[f], tree.high[f]), best)
                width /= (ZOOM - 1) / 2
        if np.all(best - before <= 1e-9 * (1e-6 + np.abs(best))):
            break
    return best


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
