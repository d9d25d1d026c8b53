"""Where every joint is in a pose, and what hangs beyond it. Arrays are component-first, (3, n) for n samples."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.turn import beside

_NEXT, _AFTER = np.array([1, 2, 0]), np.array([2, 0, 1])
_UPRIGHT = np.eye(3)[:, :, None]


class Placed(Frozen, eq=False):
    """rotation (m, 3, 3, n) from the rest frame to the base's; pivot, axis (m, 3, n); com (m+1, 3, n) of each link, m."""

    rotation: Array
    pivot: Array
    axis: Array
    com: Array


def cross(a: Array, b: Array) -> Array:
    """a × b for (3, n) arrays, or (3, 1) against (3, n)."""
    out: Array = a[_NEXT] * b[_AFTER] - a[_AFTER] * b[_NEXT]
    return out


def dot(a: Array, b: Array) -> Array:
    """Inner product over the first axis of arrays (3, n)."""
    out: Array = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return out


def each_column(vector: Array, n: int) -> Array:
    """A vector (3,), or one for each column (3, n) already, as (3, n). Not to be written to."""
    return vector if vector.ndim == 2 else np.broadcast_to(vector[:, None], (3, n))


def place(tree: Tree, q: Array) -> Placed:
    """Forward kinematics. q: (m, n), radians or metres about/along each joint's + axis. Frame: the base's."""
    m, n = q.shape
    rotation, pivot, axis = np.empty((m, 3, 3, n)), np.empty((m, 3, n)), np.empty((m, 3, n))
    com = np.empty((m + 1, 3, n))
    com[m] = tree.com[m][:, None]
    for j in range(m):
        p = tree.parent[j]
        if p < 0:
            above, origin = (
                np.broadcast_to(_UPRIGHT, (3, 3, n)),
                np.broadcast_to(tree.pivot[j][:, None], (3, n)),
            )
        else:
            above = rotation[p]
            origin = pivot[p] + (tree.pivot[j] - tree.pivot[p]) @ above
        if tree.slides[j]:
            axis[j] = tree.axis[j] @ above
            rotation[j], pivot[j] = above, origin + axis[j] * q[j]
        else:
            # the frame above times along + across cos q + skew sin q, the axis beside them: one call instead of three
            turned = beside(*tree.axis[j].tolist()) @ above
            rotation[j] = turned[:, :3] + turned[:, 3:6] * np.cos(q[j]) + turned[:, 6:9] * np.sin(q[j])
            axis[j], pivot[j] = turned[:, 9], origin
        com[j] = pivot[j] + (tree.com[j] - tree.pivot[j]) @ rotation[j]
    return Placed(rotation, pivot, axis, com)


def place_points(tree: Tree, placed: Placed, link: int, points: Array) -> Array:
    """Points (k, 3) m, at rest, riding on a link, in the pose: (k, 3, n)."""
    if link < 0:
        n = placed.com.shape[-1]
        out: Array = np.repeat(points[:, :, None], n, axis=2)
        return out
    moved: Array = placed.pivot[link] + np.einsum("ijn,kj->kin", placed.rotation[link], points - tree.pivot[link])
    return moved


def place_bodies(tree: Tree, placed: Placed) -> Array:
    """Where every body is, (k, 3, n) m."""
    link = tree.body_link
    if not len(tree.parent):
        return np.repeat(tree.body_at[:, :, None], placed.com.shape[-1], axis=2)
    moved = np.einsum("bijn,bj->bin", placed.rotation[link], tree.body_at - tree.pivot[link])
    out: Array = np.where((link < 0)[:, None, None], tree.body_at[:, :, None], placed.pivot[link] + moved)
    return out


def carried_mass(tree: Tree) -> Array:
    """Mass (m,) kg that turns with each joint."""
    out = tree.mass[:-1].copy()
    for j in reversed(range(len(out))):
        if tree.parent[j] >= 0:
            out[tree.parent[j]] += out[j]
    return out


def carried_moment(tree: Tree, placed: Placed) -> Array:
    """First moment (m, 3, n) kg·m, of what each joint carries, from the datum."""
    out: Array = tree.mass[:-1, None, None] * placed.com[:-1]
    for j in reversed(range(len(out))):
        if tree.parent[j] >= 0:
            out[tree.parent[j]] += out[j]
    return out
