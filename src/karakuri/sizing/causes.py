"""Which body asks a drive for its torque at a moment of the score: weight and inertia of each, as a point at its own place."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.at_drive import asked_of, at_drive
from karakuri.mechanics.kinematics import cross, dot, place, place_points
from karakuri.motion.score_motion import ScoreMotion

STEP_S = 1e-4


def causes(tree: Tree, motion: ScoreMotion, j: int, at: float, gravities: Array) -> list[tuple[str, float]]:
    """Name and N·m, about joint j's axis as its drive meets it, of every body that it, or a drive that shares joints with it, carries at time `at`, s, the
    largest in the total's own direction first.

    gravities (p, 3) m/s²; the posture with the largest total counts. Accelerations by central differences of the places themselves.
    """
    q, _, _ = motion.state(np.array([at - STEP_S, at, at + STEP_S]))
    placed = place(tree, q)
    bodies = np.flatnonzero(tree.rides[list(asked_of(tree, j))].any(axis=0))
    if not len(bodies):
        return []
    points = np.empty((len(bodies), 3, 3))
    for k in set(tree.body_link[bodies].tolist()):
        rows = tree.body_link[bodies] == k
        points[rows] = place_points(tree, placed, k, tree.body_at[bodies[rows]])
    acceleration = (points[:, :, 0] - 2 * points[:, :, 1] + points[:, :, 2]).T / STEP_S**2
    mass = tree.body_mass[bodies]

    def asked(k: int) -> Array:
        lever = cross(placed.axis[k, :, 1:2], points[:, :, 1].T - placed.pivot[k, :, 1:2])
        carried = mass * tree.rides[k][bodies]
        return np.stack([carried * dot(lever, acceleration - g[:, None]) for g in gravities])[..., None]

    table = at_drive(tree, j, q[:, 1:2], asked)[..., 0]
    p = int(np.argmax(np.abs(table.sum(axis=1))))
    sign = np.sign(table[p].sum()) or 1.0
    return [(tree.bodies[bodies[k]].name, float(table[p, k])) for k in np.argsort(-sign * table[p])]
