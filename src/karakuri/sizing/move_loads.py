"""What each move of a channel asks of one joint's drive."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen


class MoveLoads(Frozen, eq=False):
    """For each of n moves, (n,) each: largest torque N·m and when s; where it is tightest, its reserve of time given to least time, the
    speeds wanted and left, rad/s, and when; its least time s."""

    torque: Array
    torque_at: Array
    reserve: Array
    wanted: Array
    left: Array
    reserve_at: Array
    least: Array

    @classmethod
    def of_nothing(cls, n: int) -> MoveLoads:
        """n moves that ask nothing."""
        zeros = [np.zeros(n) for _ in range(6)]
        return cls(zeros[0], zeros[1], np.full(n, np.inf), zeros[2], zeros[3], zeros[4], zeros[5])

    def take(self, moves: NDArray[np.int64], other: MoveLoads) -> None:
        """Keep of `other`, which is about those moves in that order, all that is worse than what is known; changed in place."""
        more = other.torque > self.torque[moves]
        rows = moves[more]
        self.torque[rows], self.torque_at[rows] = other.torque[more], other.torque_at[more]
        less = other.reserve < self.reserve[moves]
        rows = moves[less]
        self.reserve[rows], self.wanted[rows], self.left[rows] = (
            other.reserve[less],
            other.wanted[less],
            other.left[less],
        )
        self.reserve_at[rows], self.least[rows] = other.reserve_at[less], other.least[less]
