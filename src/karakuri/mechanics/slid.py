"""The most and the least that a slide must be held with, over all that its figure can do."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import spread_starts
from karakuri.mechanics.tied import free_of, of_degree, tied_coordinate_ascent
from karakuri.mechanics.worst import joint_torque_Nm

FROM, QUICKLY = 12, 3
"""From so many poses it is climbed, and while a hand drags."""


class Along(Frozen, eq=False):
    """highest, lowest N (N·m) along + of joint j, and for each the pose (m,) rad or m and the posture by its number."""

    highest: float
    lowest: float
    pose: Array
    posture: int
    low_pose: Array
    low_posture: int

    @property
    def most(self) -> float:
        """The larger size of both."""
        return max(abs(self.highest), abs(self.lowest))

    @property
    def worst(self) -> tuple[Array, int]:
        """Where that is: the pose and the posture."""
        high = abs(self.highest) >= abs(self.lowest)
        return (self.pose, self.posture) if high else (self.low_pose, self.low_posture)


def along(tree: Tree, j: int, gravities: Array, starts: int = FROM) -> Along:
    """Joint j, slid or turned, over all wanted ranges and postures, gravities (p, 3) m/s²: with what follows it and what is strung to it."""
    free = free_of(tree, matter_to(tree, j))
    hangs, p = list(tree.coupling.hangs), len(gravities)
    begun = spread_starts(tree, [*free, *hangs], starts, ())
    q, one = np.tile(begun, (1, 2 * p)), np.repeat(gravities.T, begun.shape[1], axis=1)
    pulls, ways = np.tile(one, (1, 2)), np.repeat([1.0, -1.0], one.shape[1])

    def held(many: Array) -> Array:
        again = many.shape[1] // len(ways)
        return np.tile(ways, again) * joint_torque_Nm(tree, j, many, np.tile(pulls, (1, again)))

    def hung(many: Array) -> Array:
        return complete(tree, many, np.tile(pulls, (1, many.shape[1] // len(ways))))

    value = tied_coordinate_ascent(tree, held, free, hung(q), of_degree(tree, held, 1), whole=hung)
    n = begun.shape[1]
    up, down = int(value[: n * p].argmax()), int(value[n * p :].argmax()) + n * p
    return Along(
        float(value[up]), -float(value[down]), q[:, up].copy(), up // n, q[:, down].copy(), (down - n * p) // n
    )
