"""Holding torque, centre of mass and inertia of a figure standing still."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.kinematics import (
    Placed,
    carried_mass,
    carried_moment,
    cross,
    dot,
    each_column,
    place,
)
from karakuri.mechanics.loads import load_torques, loads_on
from karakuri.mechanics.turn import turns


def holding_torque_Nm(tree: Tree, q: Array, gravity: Array) -> Array:
    """What each drive must give about its joint's + axis to hold a pose.

    q: (m, n) rad or m; gravity: (3,) or (3, n) m/s², base frame. Returns (m, n), N·m (N for a slide).
    τ = −a · Σ (r − p) × m g over what the joint carries, less what loads turn it with: virtual work; any statics text. Gravity's own
    torque is the negative of it and is never printed.
    """
    g = gravity if gravity.ndim == 2 else gravity[:, None]
    out: Array = holding_torques_Nm(tree, q, (g,))[0]
    return out


def holding_torques_Nm(tree: Tree, q: Array, gravities: Iterable[Array]) -> Array:
    """The same for several gravities, (3, 1) or (3, n) m/s² each: (p, m, n) N·m."""
    placed = place(tree, q)
    mass, moment = carried_mass(tree), carried_moment(tree, placed)
    pulled = load_torques(tree, placed, q).sum(axis=0)
    out = []
    for g in gravities:
        torque = np.empty(q.shape)
        for j in range(len(q)):
            if tree.slides[j]:
                torque[j] = -dot(placed.axis[j], np.broadcast_to(g, moment[j].shape)) * mass[j]
            else:
                torque[j] = -dot(placed.axis[j], cross(moment[j] - mass[j] * placed.pivot[j], g))
        out.append(torque - pulled)
    return np.stack(out)


def wrench_on(tree: Tree, j: int, q: Array, gravity: Array) -> tuple[Array, Array]:
    """Force (3, n) N, and moment (3, n) N·m about joint j's pivot, on all that joint j carries, of weight and loads together, base frame.

    q: (m, n) rad or m; gravity (3,) or (3, n) m/s². What its support must bear is the opposite of both, across its axis.
    """
    placed = place(tree, q)
    g = each_column(gravity, q.shape[1])
    mass, first = carried_mass(tree)[j], carried_moment(tree, placed)[j]
    force, moment = loads_on(tree, placed, q, j)
    return mass * g + force, cross(first - mass * placed.pivot[j], g) + moment


def across_squared(tree: Tree, j: int, q: Array, vector: Array) -> Array:
    """The square (n,) of the part of vectors (3, n), base frame, across joint j's axis in poses q (m, n) rad or m; their unit squared."""
    along = dot(place(tree, q).axis[j], vector)
    return np.maximum(dot(vector, vector) - along * along, 0.0)


def loads_torque_Nm(tree: Tree, j: int, q: Array) -> Array:
    """What joint j's drive must give against all loads together, (n,) N·m about its + axis (N along it); q (m, n) rad or m."""
    if not tree.loaded[j]:
        return np.zeros(q.shape[1])
    placed = place(tree, q)
    force, moment = loads_on(tree, placed, q, j)
    out: Array = -dot(placed.axis[j], force if tree.slides[j] else moment)
    return out


def centre_of_mass(tree: Tree, q: Array) -> Array:
    """Of the whole figure in the base's frame, (3, n) m; zeros where nothing weighs anything."""
    placed = place(tree, q)
    total = tree.mass.sum()
    if total <= 0:
        return np.zeros((3, q.shape[1]))
    out: Array = np.einsum("k,kin->in", tree.mass, placed.com) / total
    return out


def carried_centre(tree: Tree, placed: Placed) -> Array:
    """Centre of mass of what each joint carries, (m, 3, n) m; its pivot where it carries nothing."""
    mass, moment = carried_mass(tree), carried_moment(tree, placed)
    safe = np.where(mass > 0, mass, 1.0)[:, None, None]
    out: Array = np.where(mass[:, None, None] > 0, moment / safe, placed.pivot)
    return out


def inertia_about_axis(tree: Tree, q: Array, j: int) -> Array:
    """Inertia (n,), kg·m², of what joint j carries about its axis, for q (m, n) rad or m; parallel-axis theorem.

    The axis and the way from joint j's pivot are taken outwards into each link's own frame: nothing nearer the base matters.
    """
    n = q.shape[1]
    frames = {j: np.concatenate([np.repeat(tree.axis[j][:, None], n, axis=1), np.zeros((3, n))], axis=1)}
    out = np.zeros(n)
    for k in (j, *tree.below[j]):
        if k != j:
            p = tree.parent[k]
            both = frames[p].copy()
            both[:, n:] += (tree.pivot[k] - tree.pivot[p])[:, None]
            if tree.slides[k]:
                both[:, n:] += tree.axis[k][:, None] * q[k]
            frames[k] = turns(tree)[k].spin(np.concatenate([-q[k], -q[k]]), both)
        axis, way = frames[k][:, :n], frames[k][:, n:]
        arm = cross(axis, way + (tree.com[k] - tree.pivot[k])[:, None])
        out += dot(axis, tree.inertia[k] @ axis) + tree.mass[k] * dot(arm, arm)
    return out


def source_arms(tree: Tree, q: Array, gravity: Array, j: int) -> Array:
    """What one of each source adds to what joint j's drive must hold: N·m a kilogram of a body, N·m of all of a load; (sources, n).

    q: (m, n) rad or m, complete; gravity: (3,) m/s². Zero for what the drive does not feel; what followers carry counts by virtual work.
    """
    out: Array = source_arms_each(tree, q, gravity[None, :], j)[0]
    return out


def source_arms_each(tree: Tree, q: Array, gravities: Array, j: int) -> Array:
    """The same for gravities (p, 3) m/s²: (p, sources, n) N·m/kg, N·m."""
    placed, bodies = place(tree, q), len(tree.body_mass)
    out = np.zeros((len(gravities), bodies + len(tree.loads), q.shape[1]))
    if tree.loads:
        pulled = load_torques(tree, placed, q)
        scale = np.array([load.scale for load in tree.loads])[:, None]
        for k, gain in tree.coupling.loads[j]:
            out[:, bodies:] -= gain * pulled[:, k] / scale
    for k, gain in tree.coupling.loads[j]:
        rows = np.flatnonzero(tree.rides[k])
        link = tree.body_link[rows]
        if tree.slides[k]:
            for p, g in enumerate(gravities):
                out[p, rows] -= gain * dot(placed.axis[k], g[:, None])
            continue
        way = np.einsum("bijn,bj->bin", placed.rotation[link], tree.body_at[rows] - tree.pivot[link])
        way += placed.pivot[link] - placed.pivot[k]
        for p, g in enumerate(gravities):
            out[p, rows] += gain * np.einsum("bin,in->bn", way, cross(placed.axis[k], g[:, None]))
    return out
