"""What carries a joint while it and all others move: the force across its axis, and the moment that tilts it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.dynamics import borne_by, frames
from karakuri.mechanics.kinematics import carried_mass, carried_moment, place, place_points
from karakuri.mechanics.loads import drawn, loads_on, on_carried
from karakuri.mechanics.statics import wrench_on


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
    axis, pivot = placed.axis[j][:, 0], placed.pivot[j][:, 0]
    whole = [_across(each[:, 0], axis) for each in wrench_on(tree, j, q, gravity)]
    moments, forces = [], []
    for b in np.flatnonzero(tree.rides[j] & (tree.body_bound > 0)):
        at = place_points(tree, placed, int(tree.body_link[b]), tree.body_at[b : b + 1])[0][:, 0] - pivot
        moments.append(tree.body_bound[b] * np.cross(at, gravity))
        forces.append(tree.body_bound[b] * gravity)
    for load in tree.loaded[j]:
        if load.bound > 0 and not load.turns_joint:
            force, moment = on_carried(tree, j, load, drawn(tree, placed, load), placed)
            moments.append(load.bound * moment[:, 0])
            forces.append(load.bound * force[:, 0])
    return _adds(moments, whole[1], axis), _adds(forces, whole[0], axis)


def _across(vector: Array, axis: Array) -> Array:
    return np.asarray(vector - axis * float(vector @ axis))


def _adds(each: list[Array], whole: Array, axis: Array) -> float:
    """What vectors at most add to the length of a whole across an axis, each the way that makes it more: along the whole, and aside of it."""
    size = float(np.linalg.norm(whole))
    lengths = [float(np.linalg.norm(_across(one, axis))) for one in each]
    if size < 1e-12:
        return sum(lengths)
    along = [abs(float(one @ whole)) / size for one in each]
    aside = sum(math.sqrt(max(length**2 - part**2, 0.0)) for length, part in zip(lengths, along, strict=True))
    return math.hypot(size + sum(along), aside) - size
