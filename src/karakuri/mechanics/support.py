"""What carries a joint while it and all others move: the force across its axis, and the moment that tilts it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.dynamics import borne_by, frames
from karakuri.mechanics.kinematics import carried_mass, carried_moment, place
from karakuri.mechanics.loads import drawn, loads_on, on_carried


def across_axes(
    tree: Tree, rows: Sequence[int], q: Array, qd: Array, qdd: Array, gravities: Iterable[Array]
) -> list[tuple[Array, Array]]:
    """Side load (r, n) N and tilting moment (r, n) N·m on the supports of joints `rows`, of weight, motion and what is strung to them, under each of the gravities (3,) m/s².

    q, qd, qdd: (m, n) rad, rad/s, rad/s² (m … for slides), complete.
    """
    placed, thrown, turned = place(tree, q), borne_by(tree, q, qd, qdd, np.zeros(3)), frames(tree)
    mass, first = carried_mass(tree), carried_moment(tree, placed)
    moving, ways = [], []
    for j in rows:
        way = np.einsum(
            "ki,jin->kjn", turned[j][:2], placed.rotation[j]
        )  # two directions across its axis, (2, 3, n), base frame
        both = thrown[j, :2].copy()
        if tree.loaded[j]:
            both -= np.stack([np.einsum("kjn,jn->kn", way, strung) for strung in loads_on(tree, placed, q, j)], axis=1)
        moving.append(both)
        ways.append(way)
    out = []
    for g in gravities:
        sides, tilts = [], []
        for j, both, way in zip(rows, moving, ways, strict=True):
            arm = first[j] - mass[j] * placed.pivot[j]
            turning = np.stack(
                [arm[1] * g[2] - arm[2] * g[1], arm[2] * g[0] - arm[0] * g[2], arm[0] * g[1] - arm[1] * g[0]]
            )
            side = both[:, 0] - mass[j] * np.einsum("kjn,j->kn", way, g)
            tilt = both[:, 1] - (way * turning).sum(axis=1)
            sides.append(np.sqrt(side[0] ** 2 + side[1] ** 2))
            tilts.append(np.sqrt(tilt[0] ** 2 + tilt[1] ** 2))
        out.append((np.stack(sides), np.stack(tilts)))
    return out


def may_add(tree: Tree, j: int, pose: Array, gravity: Array) -> tuple[float, float]:
    """By how much more, N·m and N, turning joint j's support may be tilted and pulled at from the side in a pose (m,) rad or m, complete, where all that is uncertain is at the bound that makes
    it most; gravity (3,) m/s²."""
    q = pose[:, None]
    placed = place(tree, q)
    axis, pivot, mass = placed.axis[j][:, 0], placed.pivot[j][:, 0], carried_mass(tree)[j]
    force, moment = loads_on(tree, placed, q, j)
    turned = _cross(carried_moment(tree, placed)[j][:, 0] - mass * pivot, gravity)
    whole = _across(mass * gravity + force[:, 0], axis), _across(turned + moment[:, 0], axis)
    rows = np.flatnonzero(tree.rides[j] & (tree.body_bound > 0))
    link, bound = tree.body_link[rows], tree.body_bound[rows]
    way = np.einsum("bij,bj->bi", placed.rotation[link, :, :, 0], tree.body_at[rows] - tree.pivot[link])
    way += placed.pivot[link, :, 0] - pivot
    moments = [*(bound[:, None] * np.stack([_cross(each, gravity) for each in way]))] if len(rows) else []
    forces = [each * gravity for each in bound]
    for load in tree.loaded[j]:
        if load.bound > 0 and not load.turns_joint:
            force, moment = on_carried(tree, j, load, drawn(tree, placed, load), placed)
            moments.append(load.bound * moment[:, 0])
            forces.append(load.bound * force[:, 0])
    return _adds(moments, whole[1], axis), _adds(forces, whole[0], axis)


def _cross(a: Array, b: Array) -> Array:
    return np.array([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


def _across(vector: Array, axis: Array) -> Array:
    return np.asarray(vector - axis * float(vector @ axis))


def _adds(each: list[Array], whole: Array, axis: Array) -> float:
    """What vectors at most add to the length of a whole across an axis, each the way that makes it more: along the whole, and aside of it."""
    if not each:
        return 0.0
    vectors = np.stack(each)
    vectors -= (vectors @ axis)[:, None] * axis
    squares, size = (vectors**2).sum(axis=1), math.sqrt(float(whole @ whole))
    if size < 1e-12:
        return float(np.sqrt(squares).sum())
    along = np.abs(vectors @ whole) / size
    aside = float(np.sqrt(np.maximum(squares - along**2, 0.0)).sum())
    return math.hypot(size + float(along.sum()), aside) - size
