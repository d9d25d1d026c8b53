"""How the energy of weight and loads grows along what hangs, and how that growth itself changes: first and second derivatives, in closed form.

A point carried by joint j moves with v = a × (p − pivot); of two joints on one chain the inner turns the outer's axis and arm along. So the
bends of weight are −[(a_j × a_k) · (r_k × g) + a_k · ((a_j × r_k) × g)], r_k the first moment that the outer joint k carries, and those of
a way of length L are T' dL_j dL_k + T d²L, with a straight piece's (d_j · d_k − (u · d_j)(u · d_k)) ÷ length + u · d_jk (any text on the
geometry of chains; tested against differences).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.elements.contract import Load
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.kinematics import Placed, carried_mass, carried_moment, cross, dot, place
from karakuri.mechanics.loads import KNOT_M, measured, way_of


@lru_cache(maxsize=64)
def _moving(tree: Tree) -> tuple[tuple[int, ...], NDArray[np.float64]]:
    """The joints that move with what hangs, and how much each of them does for each hanging coordinate, (joints, hanging)."""
    hangs = tree.coupling.hangs
    rows = tuple(sorted({k for h in hangs for k, leader in enumerate(tree.coupling.leader) if leader == h}))
    gains = np.zeros((len(rows), len(hangs)))
    for i, k in enumerate(rows):
        gains[i, hangs.index(tree.coupling.leader[k])] = tree.coupling.gain[k]
    return rows, gains


def slopes_and_bends(tree: Tree, q: Array, gravity: Array, placed: Placed | None = None) -> tuple[Array, Array]:
    """How the energy grows along each hanging coordinate, (h, n) N·m (N), what would have to hold it there; and the bends (n, h, h), how
    each of these grows with each. q (m, n) rad or m, complete; gravity (3, n) m/s², base frame; `placed` where that is known already."""
    rows, gains = _moving(tree)
    n, r = q.shape[1], len(rows)
    placed = placed or place(tree, q)
    slope, bend = np.zeros((r, n)), np.zeros((r, r, n))
    _of_weight(tree, placed, rows, gravity, slope, bend)
    for load in tree.loads:
        _of_load(tree, q, placed, rows, load, slope, bend)
    return _led(gains, slope, bend)


def load_slopes_and_bends(tree: Tree, q: Array, load: Load, placed: Placed) -> tuple[Array, Array]:
    """The same of one load of the tree by itself: (h, n) N·m (N) and (n, h, h) for poses q (m, n) rad or m, where all is `placed`."""
    rows, gains = _moving(tree)
    slope, bend = np.zeros((len(rows), q.shape[1])), np.zeros((len(rows), len(rows), q.shape[1]))
    _of_load(tree, q, placed, rows, load, slope, bend)
    return _led(gains, slope, bend)


def _led(gains: Array, slope: Array, bend: Array) -> tuple[Array, Array]:
    if gains.shape[0] == gains.shape[1]:  # nothing follows what hangs: each is its own
        return slope, bend.transpose(2, 0, 1)
    return gains.T @ slope, gains.T @ bend.transpose(2, 0, 1) @ gains


def _of_load(
    tree: Tree, q: Array, placed: Placed, rows: tuple[int, ...], load: Load, slope: Array, bend: Array
) -> None:
    if load.turns_joint:
        if load.joint in rows:
            i = rows.index(load.joint)
            slope[i] += load.scale * load.law.force(q[load.joint])
            bend[i, i] += load.scale * load.law.slope(q[load.joint])
    elif any(k in rows for k in tree.spanned(load)):
        _of_way(tree, placed, rows, load, slope, bend)


@lru_cache(maxsize=64)
def _pairs(tree: Tree, rows: tuple[int, ...]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of joints `rows` those pairs, by their places in it, of which the inner, a turning one, carries the outer, or is the same."""
    found = [
        (i, s)
        for i, k in enumerate(rows)
        for s, j in enumerate(rows[: i + 1])
        if j in tree.chains[k] and not tree.slides[j]
    ]
    both = np.array(found, dtype=np.int64).reshape(-1, 2)
    return both[:, 0], both[:, 1]


def _of_weight(tree: Tree, placed: Placed, rows: tuple[int, ...], g: Array, slope: Array, bend: Array) -> None:
    some = list(rows)
    mass, first = carried_mass(tree)[some, None, None], carried_moment(tree, placed)[some]
    slides = np.array(tree.slides)[some, None, None]
    axis = placed.axis[some].transpose(1, 0, 2)  # component first: (3, joints, n)
    arm = np.where(slides, mass * axis.transpose(1, 0, 2), first - mass * placed.pivot[some]).transpose(1, 0, 2)
    pull = g[:, None, :]
    weighed, slid = cross(arm, pull), slides[:, :, 0]
    slope -= np.where(slid, dot(arm, pull), dot(axis, weighed))
    outer, inner = _pairs(tree, rows)
    if not len(outer):
        return
    turns_it = cross(axis[:, inner], arm[:, outer])
    of_slide = -dot(turns_it, pull)
    of_turn = -dot(cross(axis[:, inner], axis[:, outer]), weighed[:, outer]) - dot(
        axis[:, outer], cross(turns_it, pull)
    )
    value = np.where(slid[outer], of_slide, of_turn)
    bend[outer, inner] += value
    bend[inner, outer] += np.where((outer == inner)[:, None], 0.0, value)


def _of_way(tree: Tree, placed: Placed, rows: tuple[int, ...], load: Load, slope: Array, bend: Array) -> None:
    points = way_of(tree, placed, load)
    r = len(rows)
    moved = np.zeros((r, *points.shape))  # of each point for each joint
    for i, k in enumerate(rows):
        for w, link in enumerate(load.links):
            if link >= 0 and k in tree.chains[link]:
                moved[i, w] = placed.axis[k] if tree.slides[k] else cross(placed.axis[k], points[w] - placed.pivot[k])
    pieces, by = points[1:] - points[:-1], moved[:, 1:] - moved[:, :-1]
    lengths, size = measured(pieces)
    along = pieces / size[:, None]
    longer = np.einsum("win,rwin->rwn", along, by)
    total = longer.sum(axis=1)
    length = lengths.sum(axis=0)
    pull, stiff = load.scale * load.law.force(length), load.scale * load.law.slope(length)
    slope += pull * total
    bend += stiff * total[:, None] * total[None]
    straight = (lengths > KNOT_M) / size
    bend += pull * (np.einsum("rwin,swin->rswn", by, by) / size - longer[:, None] * longer[None] * straight).sum(axis=2)
    for i, k in enumerate(rows):
        for s, j in enumerate(rows[: i + 1]):
            if j not in tree.chains[k] or tree.slides[j]:
                continue
            second = np.zeros_like(points)
            for w, link in enumerate(load.links):
                if link >= 0 and k in tree.chains[link]:
                    second[w] = cross(placed.axis[j], moved[i, w])
            value = pull * np.einsum("win,win->n", along, second[1:] - second[:-1])
            bend[i, s] += value
            if s != i:
                bend[s, i] += value
