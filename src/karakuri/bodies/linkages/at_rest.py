"""A drive that shares joints, seen from its own joint with all others at rest: for where its middle is set, and for drawings. No verdict rests on it."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.coordinates import Coupling, complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Reached
from karakuri.bodies.linkages.shared import Row, Shared, kept_off
from karakuri.frozen import Frozen

SMALL = 1e-5


class AtRest(Frozen, eq=False):
    """shared: the drive; own: its joint's row; tied: what goes along with it; rest (m,) rad or m."""

    shared: Shared
    own: int
    tied: Coupling
    rest: Array

    @property
    def even(self) -> bool:
        """Whether its ratio is the same everywhere."""
        return self.shared.even

    @property
    def efficiency(self) -> float:
        """What comes through, 0 … 1."""
        return self.shared.efficiency

    @property
    def efficiency_bounds(self) -> tuple[float, float]:
        """Between these it may be."""
        return self.shared.efficiency_bounds

    def poses(self, q: Array) -> Array:
        """The own joint at places (n,) rad, as poses (m, n)."""
        out = np.repeat(self.rest[:, None], len(q), axis=1)
        out[self.own] = q
        return self.whole(out)

    def whole(self, q: Array) -> Array:
        """Poses (m, n) rad or m with every follower in its place."""
        return complete(self.tied, q)

    def _ratio(self, row: Row) -> Array:
        gains = dict(self.tied.loads[self.own])
        over = sum(
            (gains.get(k, 0.0) * row.over[r] for r, k in enumerate(self.shared.reads)), np.zeros(row.drive.shape)
        )
        ratio = over / kept_off(row.under, row.over)
        return np.asarray(np.where(ratio < 0, -1.0, 1.0) * np.clip(np.abs(ratio), LEAST, 1.0 / LEAST))

    def inverse(self, q: Array) -> Reached:
        """Where the drive stands for joint places (n,) rad."""
        row = self.shared.row(self.poses(q))
        ahead, behind = (self._ratio(self.shared.row(self.poses(q + way * SMALL))) for way in (1.0, -1.0))
        return Reached(row.drive, self._ratio(row), (ahead - behind) / (2 * SMALL), row.angle, row.closes)

    def forward(self, u: Array, near: Array) -> Array:
        """Joint places (n,) rad for drive places (n,) rad, the one next to `near`."""
        q = near.copy()
        for _ in range(24):
            there = self.inverse(q)
            q = q - np.clip((there.drive - u) / there.ratio, -0.3, 0.3)
        return q

    def play(self, q: Array) -> Array:
        """How far the joint is free, rad."""
        row = self.shared.row(self.poses(q))
        gives = np.abs(self._ratio(row)) * np.maximum(np.abs(row.under), 1e-12)
        return np.asarray(self.shared.play(self.poses(q)) / gives)

    def pulls(self, q: Array, torque: Array) -> Array:
        """What its member bears of a torque (n,) N·m at the joint, N, were it to bear all of it."""
        poses = self.poses(q)
        row = self.shared.row(poses)
        return self.shared.pulls(poses, torque / np.maximum(np.abs(self._ratio(row) * row.under), 1e-12))
