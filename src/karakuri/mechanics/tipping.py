"""Tipping: how far the figure could be tilted further, at its worst pose and posture, before it goes over an edge."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.outline import hull
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.ascent import carried
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import dot
from karakuri.mechanics.starts import corners_first, rest_pose
from karakuri.mechanics.statics import centre_of_mass
from karakuri.mechanics.tied import free_of, is_tied, tied_coordinate_ascent
from karakuri.model.stand import Base


class Tipping(Frozen, eq=False):
    """angle rad left before tipping (negative: it falls); distance m from centre of mass to the edge, height m above the floor."""

    angle: float
    pose: Array
    posture: int
    edge: int
    distance: float
    height: float
    lean: float


class Footing(Frozen, eq=False):
    """What a figure stands on: corners (k, 2) mm of the outline of its feet, and the height of the floor, mm."""

    outline_mm: tuple[tuple[float, float], ...]
    floor_mm: float


def footing(base: Base) -> Footing:
    """Outline and floor of a base, mm; nothing else of it matters to tipping."""
    return Footing(base.outline_mm, base.floor_mm)


def edges(on: Footing) -> tuple[Array, Array]:
    """A corner (k, 2) m and the inward unit normal (k, 2) of each edge of the support outline."""
    corners = np.array(hull(list(on.outline_mm))) / 1e3
    along = np.roll(corners, -1, axis=0) - corners
    along /= np.linalg.norm(along, axis=1)[:, None]
    return corners, np.stack([-along[:, 1], along[:, 0]], axis=1)


def worst_tipping(
    tree: Tree, on: Footing, gravities: Array, starts: int = 6, warm: Array | None = None
) -> Tipping | None:
    """The least angle to tip over all poses, postures and edges; None where nothing weighs anything. gravities (p, 3) m/s².

    Seen along an edge, tan(angle) = (d u_z − h u_n) ÷ (d u_n + h u_z): a ratio of two sums linear in the centre of mass, made
    smallest by Dinkelbach's method (Management Science 13, 1967, from memory), one round of exact one-angle steps each time.
    """
    total = float(tree.mass.sum())
    if total <= 0:
        return None
    corners, inward = edges(on)
    k, p, m = len(corners), len(gravities), len(tree.ids)
    n = k * p * starts
    edge, posture = np.repeat(np.arange(k), p * starts), np.tile(np.repeat(np.arange(p), starts), k)
    up = -gravities / np.linalg.norm(gravities, axis=1)[:, None]
    normal = np.zeros((3, n))
    normal[:2] = inward[edge].T
    u_n, u_z = dot(normal, up[posture].T), up[posture, 2]
    point = np.zeros((3, n))
    point[:2] = corners[edge].T
    point[2] = on.floor_mm / 1e3
    z = np.array([0.0, 0.0, 1.0])[:, None]
    top, bottom = normal * u_z - z * u_n, normal * u_n + z * u_z
    u = corners_first(m, n, 0)
    q = tree.low[:, None] + u * (tree.high - tree.low)[:, None]
    q[:, ::starts] = rest_pose(tree)[:, None]
    if warm is not None:
        q[:, starts - 1 :: starts] = np.clip(warm, tree.low, tree.high)[:, None]
    pulls = gravities[posture].T
    complete(tree, q, pulls)
    whole, tied = carried(tree, -1), is_tied(tree, tuple(range(m)))
    ratio = np.full(n, np.inf)
    for _ in range(60):
        moments = whole.moments(q)
        new = _ratio(moments[-1] / total - point, top, bottom)
        settled = float(np.min(ratio)) - float(np.min(new)) < (1e-6 if starts > 1 else 1e-4)
        ratio = new
        if settled or tied:
            break
        whole.descend(-1, ratio * bottom - top, moments, q)
    if tied:
        free = free_of(tree, tuple(range(m)))

        def over(many: Array) -> Array:
            at = centre_of_mass(tree, many) - np.tile(point, (1, many.shape[1] // n))
            out: Array = -_ratio(at, np.tile(top, (1, many.shape[1] // n)), np.tile(bottom, (1, many.shape[1] // n)))
            return out

        def hung(many: Array) -> Array:
            return complete(tree, many, np.tile(pulls, (1, many.shape[1] // n)))

        ratio = -tied_coordinate_ascent(tree, over, free, q, whole=hung)
    worst = int(np.argmin(ratio))
    at = centre_of_mass(tree, q[:, worst : worst + 1])[:, 0] - point[:, worst]
    d, h = float(at @ normal[:, worst]), float(at[2])
    lean = math.atan2(float(u_n[worst]), float(u_z[worst]))
    return Tipping(math.atan2(d, h) - lean, q[:, worst].copy(), int(posture[worst]), int(edge[worst]), d, h, lean)


def _ratio(at: Array, top: Array, bottom: Array) -> Array:
    under = dot(bottom, at)
    return np.where(under > 1e-6, dot(top, at) / np.where(under > 1e-6, under, 1.0), 1e6)


def margin_m(on: Footing, com: Array, gravity: Array) -> float:
    """Distance, m, from the centre of mass (3,) m, dropped along gravity (3,) onto the floor, to the nearest edge; negative outside."""
    if abs(gravity[2]) < 1e-9:
        return -math.inf
    corners, inward = edges(on)
    foot = com + gravity * ((on.floor_mm / 1e3 - com[2]) / gravity[2])
    return float(np.min(np.einsum("ki,ki->k", foot[:2] - corners, inward)))
