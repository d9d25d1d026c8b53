"""Drives that share joints: what one of them does turns several joints, or several of them turn one. The contract of one such drive, and a group of them.

Of a drive by what its member (a rod, teeth, its shaft) bears: a force, or torque, f in it turns joint k with over_k × f and loads the drive with
under × f. By virtual work the loads τ of all joints that drives turn are A^T f, so f = A^-T τ, and each drive gives under × f.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import NamedTuple, Protocol, Self

import numpy as np
from msgspec.structs import replace
from numpy import bool_
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Linkage, Through
from karakuri.frozen import Frozen

HAIR = 1e-5
"""So far, s, a motion is looked at either way for how its ratios change."""


class Row(Frozen, eq=False):
    """Of poses (m, n): where the drive stands, rad; over (r, n), for each joint it reads, and under (n,), see above; `angle` rad, 0 … π/2, how the
    rod stands to the way its ball goes with the drive's own joint; and whether it closes there at all: where it does not, all are those of where it
    nearly does, never NaN."""

    drive: Array
    over: Array
    under: Array
    angle: Array
    closes: NDArray[bool_]


class Members(NamedTuple):
    """Of a row, over (r, n) and under (n,) alone: all that loads need."""

    over: Array
    under: Array


class Shared(Through, Protocol):
    """A drive that shares joints, by numbers only. `reads` are the rows of poses on which its place depends."""

    @property
    def reads(self) -> tuple[int, ...]:
        """Rows of poses."""

    def row(self, q: Array) -> Row:
        """Of poses (m, n) rad or m."""

    def members(self, q: Array) -> Members:
        """Of the same what loads need."""

    def play(self, q: Array) -> Array:
        """How far its member is free while the drive stands, in rad or m of what `over` is of, (n,) whole width."""

    def pulls(self, q: Array, member: Array) -> Array:
        """The force, N, at the drive's shaft, and in a rod, where its member bears (n,) N or N·m."""

    def mapped(self, place: Mapping[int, int]) -> Self:
        """The same with rows of poses by other numbers."""


class Own(Frozen, eq=False):
    """A drive in a group that turns its own joint alone, itself or through a linkage."""

    joint: int
    linkage: Linkage | None

    @property
    def reads(self) -> tuple[int, ...]:
        """Its joint's row."""
        return (self.joint,)

    @property
    def even(self) -> bool:
        """Whether its ratio is the same everywhere."""
        return self.linkage is None or self.linkage.even

    @property
    def efficiency(self) -> float:
        """That of what lies between."""
        return 1.0 if self.linkage is None else self.linkage.efficiency

    @property
    def efficiency_bounds(self) -> tuple[float, float]:
        """That of what lies between."""
        return (1.0, 1.0) if self.linkage is None else self.linkage.efficiency_bounds

    def row(self, q: Array) -> Row:
        """Its member is its own shaft: over is the ratio, under 1; rad."""
        own = q[self.joint]
        one = np.ones(own.shape)
        if self.linkage is None:
            return Row(own.copy(), one[None], one, 0.5 * np.pi * one, one > 0)
        there = self.linkage.inverse(own)
        return Row(there.drive, there.ratio[None], one, there.angle, there.closes)

    def members(self, q: Array) -> Members:
        """As of its row."""
        row = self.row(q)
        return Members(row.over, row.under)

    def play(self, q: Array) -> Array:
        """As seen at its shaft, rad."""
        if self.linkage is None:
            return np.zeros(q.shape[1])
        return self.linkage.play(q[self.joint]) * np.abs(self.linkage.inverse(q[self.joint]).ratio)

    def pulls(self, q: Array, member: Array) -> Array:
        """N of (n,) N·m at its shaft."""
        if self.linkage is None:
            return np.zeros(q.shape[1])
        return self.linkage.pulls(q[self.joint], member * self.linkage.inverse(q[self.joint]).ratio)

    def mapped(self, place: Mapping[int, int]) -> Own:
        """For another numbering."""
        return Own(place[self.joint], self.linkage)


class Group(Frozen, eq=False):
    """joints: rows of the joints whose drives these are, in order; drives: one of each; loads: for each joint (row, gain) of what moves with it, as in the
    coupling; sense: for each drive +1 or −1, which way it goes for its own joint's + way with the figure at rest. `bears`: the number of a drive that is told
    by what its member bears instead of by what it gives, −1 none."""

    joints: tuple[int, ...]
    drives: tuple[Shared, ...]
    loads: tuple[tuple[tuple[int, float], ...], ...]
    sense: tuple[float, ...]
    bears: int = -1

    @cached_property
    def reads(self) -> frozenset[int]:
        """Rows of poses on which any of its drives' places depend."""
        return frozenset(k for drive in self.drives for k in drive.reads)

    @property
    def even(self) -> bool:
        """Whether all ratios are the same everywhere."""
        return all(drive.even for drive in self.drives)

    def number(self, j: int) -> int:
        """Which of the drives is that of the joint in row j. Raises ValueError."""
        return self.joints.index(j)

    def of(self, j: int) -> Shared:
        """The drive of the joint in row j."""
        return self.drives[self.number(j)]

    def over(self, rows: Sequence[Row | Members]) -> Array:
        """A (n, drives, joints): what each member turns each joint with, all that moves with a joint among it."""
        n = rows[0].under.shape[0]
        out = np.zeros((n, len(self.drives), len(self.joints)))
        for d, (drive, row) in enumerate(zip(self.drives, rows, strict=True)):
            for r, k in enumerate(drive.reads):
                for c, loads in enumerate(self.loads):
                    out[:, d, c] += sum(gain for i, gain in loads if i == k) * row.over[r]
        return out

    def rows(self, q: Array) -> tuple[Row, ...]:
        """Of all its drives, in poses (m, n) rad or m."""
        return tuple(drive.row(q) for drive in self.drives)

    def weights(self, j: int, q: Array) -> Array:
        """(joints, n): what the drive of joint j gives for one newton metre at each of the joints, N·m, in the joint's sense; q (m, n) rad or m."""
        rows, d = [drive.members(q) for drive in self.drives], self.number(j)
        member = column_of_inverse(self.over(rows), d)  # f = A^-T τ: row d of A^-T is column d of A^-1
        if d == self.bears:
            return np.asarray(member)
        return np.asarray(self.sense[d] * rows[d].under * member / self.drives[d].efficiency)

    def motion(self, j: int, q: Array, qd: Array, qdd: Array) -> tuple[Array, Array]:
        """How fast the drive of joint j goes, (n,) rad/s in the joint's sense, and how fast that grows, rad/s², in motion q, qd, qdd (m, n); with how its
        ratios change on the way, by small steps either way."""
        d, n = self.number(j), q.shape[1]
        row = self.drives[d].row(np.concatenate([q, q + HAIR * qd, q - HAIR * qd], axis=1))
        reads = list(self.drives[d].reads)
        ratios = (self.sense[d] * row.over / kept_off(row.under, row.over)).reshape(len(reads), 3, n)
        now, ahead, behind = np.einsum("rkn,rn->kn", ratios, qd[reads])
        return now, np.einsum("rn,rn->n", ratios[:, 0], qdd[reads]) + (ahead - behind) / (2 * HAIR)

    def mapped(self, place: Mapping[int, int]) -> Group:
        """The same with rows of poses by other numbers; what has none there is left out."""
        return replace(
            self,
            joints=tuple(place[j] for j in self.joints),
            drives=tuple(drive.mapped(place) for drive in self.drives),
            loads=tuple(tuple((place[k], gain) for k, gain in loads if k in place) for loads in self.loads),
        )


def kept_off(under: Array, over: Array) -> Array:
    """`under` (n,) kept off nothing, by what is usual of `over` (r, n): at a dead point a drive goes as fast as ratios are told."""
    least = LEAST * np.maximum(np.abs(over).max(axis=0, initial=0.0), 1e-9)
    return np.asarray(np.where(under < 0, -1.0, 1.0) * np.maximum(np.abs(under), least))


def inverted(over: Array) -> Array:
    """The inverses of (n, k, k); where there is none, where all hold is lost, of one next to it that has one."""
    size = np.maximum(np.abs(over).max(axis=(1, 2)), 1e-12)
    scaled = over / size[:, None, None]
    lost = np.abs(np.linalg.det(scaled)) < LEAST ** (1 if over.shape[1] == 1 else 2)
    if lost.any():
        left, values, right = np.linalg.svd(scaled[lost])
        scaled[lost] = np.einsum("nij,nj,njk->nik", left, np.maximum(values, LEAST), right)
    return np.asarray(np.linalg.inv(scaled) / size[:, None, None])


def column_of_inverse(over: Array, d: int) -> Array:
    """Column d (k, n) of the inverses of (n, k, k), as inverted() has them."""
    if over.shape[1] == 2:
        det = over[:, 0, 0] * over[:, 1, 1] - over[:, 0, 1] * over[:, 1, 0]
        size = np.abs(over).max(axis=(1, 2))
        if (np.abs(det) >= LEAST**2 * np.maximum(size, 1e-12) ** 2).all():  # by Cramer's rule, which is what two need
            one, other = (over[:, 1, 1], -over[:, 1, 0]) if d == 0 else (-over[:, 0, 1], over[:, 0, 0])
            return np.stack([one / det, other / det])
    return np.asarray(inverted(over)[:, :, d].T)
