"""The largest side load on what carries a joint, over all wanted ranges and postures."""

from __future__ import annotations

import math
from functools import partial

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.envelope import largest_side_strung, strung_alone
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import spread_starts
from karakuri.mechanics.statics import across_squared, wrench_on
from karakuri.mechanics.tied import best_each, free_of, is_tied, of_degree, tied_coordinate_ascent
from karakuri.mechanics.turn import flattest_angle, inward, turns

FEW, SCREENED = 4, 16
"""So many poses are stepped on, the best of so many times as many, where something hangs."""


def largest_side(tree: Tree, j: int, gravities: Array) -> float:
    """Largest side load, N, on joint j's support over all ranges and postures, gravities (p, 3) m/s²: the weight carried, and what is strung
    to it, across its axis."""
    if strung_alone(tree, j) and not is_tied(replace(tree, loads=()), tree.chains[j]):
        return largest_side_strung(tree, j, gravities)
    if tree.loaded[j] or any(k in tree.coupling.hangs for k in tree.chains[j]):
        return _largest_side_loaded(tree, j, gravities)
    mass = float(tree.mass[j] + sum(tree.mass[k] for k in tree.below[j]))
    tied, chain = tree.coupling, tree.chains[j]
    leaders = sorted({tied.leader[k] for k in chain})
    numbers = (
        tree.axis[[*chain, *leaders]],
        tree.low[leaders],
        tree.high[leaders],
        tied.gain[list(chain)],
        tied.offset[list(chain)],
    )
    slides = tuple(tree.slides[k] for k in chain)
    key = (chain, tuple(leaders), slides, gravities.tobytes(), *(n.tobytes() for n in numbers))
    if key not in _SIDES:
        if len(_SIDES) > 500:
            _SIDES.clear()
        _SIDES[key] = _across_most(tree, j, gravities)
    return mass * _SIDES[key]


_SIDES: dict[tuple[object, ...], float] = {}
"""Kept by all the numbers it depends on: masses are not among them, so that a part in a dragging hand costs nothing."""


def _largest_side_loaded(tree: Tree, j: int, gravities: Array) -> float:
    """The same where loads pull at what joint j carries, or it rides on what hangs: by trying."""
    hangs = list(tree.coupling.hangs)
    pulled = (i for load in tree.loaded[j] for link in load.links if link >= 0 for i in tree.chains[link])
    matter = matter_to(tree, j) if hangs else tuple(sorted({*tree.chains[j], *pulled}))
    free, p = free_of(tree, matter) + hangs, len(gravities)
    begun = spread_starts(tree, free, 8 * SCREENED if hangs else 8 if free else 1, ())
    n = min(FEW if hangs else 8, begun.shape[1])

    def side(q: Array, way: Array) -> Array:
        return across_squared(tree, j, q, wrench_on(tree, j, q, np.tile(way, (1, q.shape[1] // way.shape[1])))[0])

    def hung(q: Array, way: Array) -> Array:
        return complete(tree, q, np.tile(way, (1, q.shape[1] // way.shape[1])))

    every, pulls = np.repeat(gravities.T, begun.shape[1], axis=1), np.repeat(gravities.T, n, axis=1)
    q = complete(tree, np.tile(begun, (1, p)), every)
    q = best_each(q, side(q, every), n, p)
    value = partial(side, way=pulls)
    most = tied_coordinate_ascent(tree, value, free, q, of_degree(tree, value, 2), whole=partial(hung, way=pulls))
    return math.sqrt(float(most.max()))


def _across_most(tree: Tree, j: int, gravities: Array) -> float:
    """The largest part of gravity, m/s², across joint j's axis over the ranges of what carries it: where least of it lies along."""
    chain = tree.chains[j][:-1]
    free = free_of(tree, chain)
    tied = is_tied(tree, chain)

    def across(q: Array, g: Array) -> Array:
        along = _along(tree, j, chain, q, g)
        return np.asarray(np.maximum(float(g @ g) - along * along, 0.0))

    most = 0.0
    for g in gravities:
        q = complete(tree, spread_starts(tree, free, 8 if free else 1, ()), g)
        if tied:
            value = partial(across, g=g)
            most = max(most, float(tied_coordinate_ascent(tree, value, free, q, of_degree(tree, value, 2)).max()))
        else:
            _least_along(tree, j, chain, q, g)
            most = max(most, float(across(q, g).max()))
    return math.sqrt(most)


def _along(tree: Tree, j: int, chain: tuple[int, ...], q: Array, g: Array) -> Array:
    """The part (n,) of gravity along joint j's axis in poses q (m, n)."""
    return np.asarray(tree.axis[j] @ inward(tree, chain, np.repeat(g[:, None], q.shape[1], axis=1), q))


def _least_along(tree: Tree, j: int, chain: tuple[int, ...], q: Array, g: Array) -> None:
    """Set the chain's angles in q (m, n), one exactly after the other, so that as little of gravity as can be lies along joint j's axis."""
    every = turns(tree)
    turning = [k for k in chain if not tree.slides[k]]
    slack = 1e-9 * float(np.linalg.norm(g))
    best = np.abs(_along(tree, j, chain, q, g))
    for _ in range(30):
        if not turning or float(best.min()) <= slack:
            return
        rights = [np.repeat(tree.axis[j][:, None], q.shape[1], axis=1)]
        for k in reversed(turning[1:]):
            rights.append(every[k].spin(q[k], rights[-1]))
        left = np.repeat(g[:, None], q.shape[1], axis=1)
        for k, right in zip(turning, reversed(rights), strict=True):
            turn = every[k]
            if turn.moves:
                a = np.einsum("in,in->n", left, turn.across @ right)
                b = np.einsum("in,in->n", left, turn.skew @ right)
                c = np.einsum("in,in->n", left, turn.along @ right)
                q[k] = flattest_angle(a, b, c, turn.low, turn.high, q[k])
            left = turn.spin(-q[k], left)
        now = np.abs(_along(tree, j, chain, q, g))
        if np.all(best - now <= 1e-9 * (1e-6 + best)):
            return
        best = now
