"""Whatever pulls besides gravity: springs, elastic, struts, pads. Torques by virtual work, named by which load they come from.

A load draws its way shorter with a force T; what it turns joint j with is −T × dL/dq_j, and dL/dq_j is seen at the points of the way that
the joint carries: force there, times lever about the axis.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.elements.contract import Load
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import Placed, cross, dot, place_points

KNOT_M = 1e-4
"""Nearer to each other than this, m, two points of a way are a knot: the pull between them fades evenly to nothing where they meet."""


class Drawn(Frozen, eq=False):
    """A load in n poses: s (n,), m (rad where it turns a joint); points (w, 3, n) m of its way and force (w, 3, n) N on each of them."""

    s: Array
    points: Array
    force: Array


def length_of(tree: Tree, placed: Placed, q: Array, load: Load) -> Array:
    """How long its way is, (n,) m; the angle, rad, of the joint it turns. q (m, n) rad or m."""
    if load.turns_joint:
        angle: Array = q[load.joint]
        return angle
    points = way_of(tree, placed, load)
    out: Array = measured(np.diff(points, axis=0))[0].sum(axis=0)
    return out


def measured(pieces: Array) -> tuple[Array, Array]:
    """The lengths (w, n) m of straight pieces (w, 3, n) m, and by what their directions are divided, m."""
    length = np.sqrt(np.einsum("win,win->wn", pieces, pieces))
    return np.where(length < KNOT_M, 0.5 * (length * length / KNOT_M + KNOT_M), length), np.maximum(length, KNOT_M)


def way_of(tree: Tree, placed: Placed, load: Load) -> Array:
    """Where the points of its way are, (w, 3, n) m, in the base's frame."""
    return np.concatenate(
        [place_points(tree, placed, k, load.points[i : i + 1]) for i, k in enumerate(load.links)], axis=0
    )


def drawn(tree: Tree, placed: Placed, load: Load) -> Drawn:
    """A load that runs along a way, in the poses that are placed, m and N. Where two points of it meet, that piece pulls nowhere."""
    points = way_of(tree, placed, load)
    pieces = np.diff(points, axis=0)
    lengths, size = measured(pieces)
    along, length = pieces / size[:, None], lengths.sum(axis=0)
    pull = load.scale * load.law.force(length)
    force = np.zeros_like(points)
    force[:-1] += along * pull
    force[1:] -= along * pull
    return Drawn(length, points, force)


def load_torques(tree: Tree, placed: Placed, q: Array) -> Array:
    """What each load turns each joint with, (loads, m, n) N·m about its + axis (N along it for a slide). q (m, n) rad or m."""
    out = np.zeros((len(tree.loads), *q.shape))
    for i, load in enumerate(tree.loads):
        if load.turns_joint:
            out[i, load.joint] = -load.scale * load.law.force(q[load.joint])
            continue
        at = drawn(tree, placed, load)
        for j in tree.spanned(load):
            out[i, j] = _about(tree, placed, j, *on_carried(tree, j, load, at, placed))
    return out


def loads_on(tree: Tree, placed: Placed, q: Array, j: int) -> tuple[Array, Array]:
    """Force (3, n) N, and moment (3, n) N·m about joint j's pivot, of all loads together on what joint j carries, in the base's frame."""
    n = q.shape[1]
    force, moment = np.zeros((3, n)), np.zeros((3, n))
    for load in tree.loaded[j]:
        if load.turns_joint:
            moment -= placed.axis[j] * (load.scale * load.law.force(q[j]))
        else:
            f, about = on_carried(tree, j, load, drawn(tree, placed, load), placed)
            force, moment = force + f, moment + about
    return force, moment


def load_energy(tree: Tree, placed: Placed, q: Array) -> Array:
    """Stored in all loads together, (n,) J; q (m, n) rad or m."""
    out = np.zeros(q.shape[1])
    for load in tree.loads:
        out += load.scale * load.law.energy(length_of(tree, placed, q, load))
    return out


def on_carried(tree: Tree, j: int, load: Load, at: Drawn, placed: Placed) -> tuple[Array, Array]:
    """Force (3, n) N, and moment (3, n) N·m about joint j's pivot, of one load that is drawn so on what joint j carries, in the base's frame."""
    rows = [i for i, link in enumerate(load.links) if link >= 0 and j in tree.chains[link]]
    force = at.force[rows].sum(axis=0)
    moment = sum((cross(at.points[i] - placed.pivot[j], at.force[i]) for i in rows), np.zeros_like(force))
    return force, moment


def _about(tree: Tree, placed: Placed, j: int, force: Array, moment: Array) -> Array:
    return dot(placed.axis[j], force if tree.slides[j] else moment)
