"""A move tried in many poses of the other joints, and from one of them on to where it takes longest."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.tied import tied_coordinate_ascent
from karakuri.mechanics.worst import drive_inertia
from karakuri.model.profiles import ProfileKind
from karakuri.sizing.least_time import Pull, joined, least_time
from karakuri.sizing.pulls import pull_of

SWEEPS, ENDLESS = 2, 1e9


class PlacedMove(Frozen, eq=False):
    """Where a move was tried, a column each (n,): what it pulls against, start and distance rad, poses (m, n), postures (n,).

    by rad in time s on a profile of `kind`, 'sudden' as fast as it goes. `of`: the row of the joint that moves.
    """

    pull: Pull
    start: Array
    distance: Array
    poses: Array
    postures: NDArray[np.int64]
    by: float
    time: float
    kind: ProfileKind
    shape: float
    of: int = 0


class Tried(Frozen, eq=False):
    """least (k, n): the worst posture's; each posture's columns with their own least times (k × n,)."""

    least: Array
    columns: list[PlacedMove]
    times: list[Array]

    def flat(self) -> tuple[PlacedMove, Array]:
        """All columns in one, and their least times, s."""
        first = self.columns[0]
        placed = replace(
            first, pull=joined([c.pull for c in self.columns]), start=np.concatenate([c.start for c in self.columns]), distance=np.concatenate([c.distance for c in self.columns]),
            poses=np.concatenate([c.poses for c in self.columns], axis=1), postures=np.concatenate([c.postures for c in self.columns]),
        )  # fmt: skip
        return placed, np.concatenate(self.times)


class Tries(Frozen, eq=False):
    """Tries a move of joint j in many poses, for the drive of joint `drive`."""

    tree: Tree
    j: int
    drive: int
    gravities: Array
    can: Capability
    reflected: float
    friction: float
    by: float
    kind: ProfileKind
    shape: float

    def tried(self, q: Array, starts: Array, ways: Array) -> Tried:
        """Least times (places, n), the worst posture's, of poses q (m, n) with each of the starts and ways."""
        n, k = q.shape[1], len(starts)
        ends = self._ends()
        columns, times, worst = [], [], np.full((k, n), -np.inf)
        p = len(self.gravities)
        wide, way = np.repeat(starts, n), np.repeat(ways, n)
        swept = self.tree.coupling.hangs or self.tree.group(self.j) is not None
        inertia = None if swept else np.tile(drive_inertia(self.tree, q, self.j), p)
        wide_q, g = np.tile(q, (1, p)), np.repeat(self.gravities.T, n, axis=1)
        every = pull_of(self.tree, self.j, wide_q, g, self.friction, ends, inertia, self.drive)
        for i in range(p):
            pull = every.columns(np.arange(i * n, (i + 1) * n)).repeated(k)
            with_servo = replace(pull, reflected=self.reflected)
            least = least_time(with_servo, wide, way * self.by, self.kind, self.shape, self.can)
            worst = np.maximum(worst, least.reshape(k, n))
            times.append(least)
            columns.append(
                PlacedMove(pull=pull, start=wide, distance=way * self.by, poses=np.concatenate([q] * k, axis=1), postures=np.full(n * k, i, dtype=np.int64), by=self.by, time=1.0, kind=self.kind, shape=self.shape, of=self.j)
            )  # fmt: skip
        return Tried(worst, columns, times)

    def climbed(self, pose: Array, free: list[int], start: float, way: float) -> Array:
        """From a pose (m,) to one in which the move from `start` rad takes longest, by steps along the free coordinates, rad or m."""
        starts, ways = np.array([start]), np.array([way])

        def value(many: Array) -> Array:
            out: Array = np.minimum(self.tried(many, starts, ways).least.max(axis=0), ENDLESS)
            return out

        q = pose[:, None].copy()
        tied_coordinate_ascent(self.tree, value, free, q, sweeps=SWEEPS)
        out: Array = q[:, 0]
        return out

    def _ends(self) -> tuple[float, float]:
        """What the joint passes: its range, or more where the move is wider."""
        low, high = float(self.tree.low[self.j]), float(self.tree.high[self.j])
        out = max(0.0, (self.by - (high - low)) / 2)
        return low - out, high + out
