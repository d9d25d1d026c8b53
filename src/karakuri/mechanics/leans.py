"""How far a figure's weight can come to lie along a direction, over all its poses."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import complete as follow
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.ascent import carried
from karakuri.mechanics.kinematics import dot
from karakuri.mechanics.starts import corners_first
from karakuri.mechanics.statics import centre_of_mass
from karakuri.mechanics.tied import free_of, is_tied, tied_coordinate_ascent

STARTS = 4


def most_along(tree: Tree, ways: Array) -> tuple[Array, Array]:
    """The largest way · Σ m x (n,), kg·m, of ways (3, n) in the base's frame, and the poses (m, n) rad or m of it. What nothing drives may be
    anywhere it can reach: a chin, a hand or a bump moves it. Exact where nothing follows: each joint's best angle in turn, from a few starts."""
    tree = loose_of(tree)
    n, m, total = ways.shape[1], len(tree.ids), float(tree.mass.sum())
    every = np.repeat(ways, STARTS, axis=1)
    q = tree.low[:, None] + corners_first(m, n * STARTS, 0) * (tree.high - tree.low)[:, None]
    q[:, ::STARTS] = tree.rest[:, None]
    follow(tree.coupling, q)
    if is_tied(tree, tuple(range(m))):

        def along(many: Array) -> Array:
            out: Array = total * dot(np.tile(every, (1, many.shape[1] // every.shape[1])), centre_of_mass(tree, many))
            return out

        value = tied_coordinate_ascent(tree, along, free_of(tree, tuple(range(m))), q)
    else:
        whole, value = carried(tree, -1), np.full(n * STARTS, -np.inf)
        for _ in range(60):
            moments = whole.moments(q)
            now = dot(every, np.broadcast_to(moments[-1], every.shape))
            if np.all(now - value <= 1e-7 * (1e-6 + np.abs(now))):
                break
            value = now
            whole.descend(-1, every, moments, q)
    best = np.argmax(value.reshape(n, STARTS), axis=1) + np.arange(n) * STARTS
    return value[best], q[:, best]


@lru_cache(maxsize=16)
def loose_of(tree: Tree) -> Tree:
    """The tree with nothing that hangs and nothing strung: masses and ranges alone."""
    return replace(tree, loads=(), elements=(), coupling=replace(tree.coupling, hangs=()))
