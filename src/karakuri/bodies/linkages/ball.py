"""A horn and a rod with ball ends, anywhere in space: |S + h (cos u e₁ + sin u e₂) − P(q)| = L, S the shaft, e₁ where the horn points as it is screwed on,
e₂ across it, P the far ball as all joints between carry it. So A cos u + B sin u = K, in two ways, of which the one next to how the horn is screwed
on is the builder's (any text on spatial linkages: the RSSR chain). A force f along the rod turns joint k with f × rod · ∂P/∂q_k and the horn with
f × h × rod · (its hole's way).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cached_property

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Reached
from karakuri.bodies.linkages.lever import BETWEEN, SLACK_MM, TYPICAL
from karakuri.bodies.linkages.shared import Members, Row, kept_off
from karakuri.frozen import Frozen
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.part import BASE
from karakuri.model.transmission import Ball

Three = tuple[float, float, float]
SMALL = 1e-5
"""By so much, rad, a joint is turned either way for how its ratio changes."""


class Carried(Frozen):
    """One joint between the servo's body and the far ball: its row, unit axis, pivot m, whether it slides; way +1 where it carries the ball, −1
    where it carries the servo."""

    row: int
    axis: Three
    pivot: Three
    slides: bool
    way: float

    @cached_property
    def columns(self) -> tuple[Array, Array, Array]:
        """Axis (3, 1), pivot (3, 1) m, and the matrix (3, 3) that makes axis × v of v; all counted its way."""
        x, y, z = (self.way * each for each in self.axis)
        across = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
        return self.way * np.array(self.axis)[:, None], np.array(self.pivot)[:, None], across


class BallEnds(Frozen, eq=False):
    """m, with every joint at 0, as the servo's body has it: shaft, e1, e2 (units), horn, rod, ball; side +1 or −1, which of both ways it is put together;
    begins rad, where the horn then stands; path from the ball to the servo's body; own: the row of the drive's joint; slack m of the rod."""

    shaft: Three
    e1: Three
    e2: Three
    horn: float
    rod: float
    ball: Three
    side: float
    begins: float
    path: tuple[Carried, ...]
    own: int
    slack: float
    efficiency: float
    efficiency_bounds: tuple[float, float]
    even = False

    @cached_property
    def columns(self) -> tuple[Array, Array, Array]:
        """Shaft m and both units, (3, 1) each."""
        return np.array(self.shaft)[:, None], np.array(self.e1)[:, None], np.array(self.e2)[:, None]

    @cached_property
    def reads(self) -> tuple[int, ...]:
        """The rows of all joints between."""
        return tuple(each.row for each in self.path)

    def row(self, q: Array) -> Row:
        """Of poses (m, n) rad or m."""
        u, closes, ways, rod, (over, under) = self._closed(q)
        mine = ways[self.reads.index(self.own)] if self.own in self.reads else np.zeros_like(rod)
        along = np.abs(np.einsum("in,in->n", rod, mine)) / np.maximum(np.sqrt(np.einsum("in,in->n", mine, mine)), 1e-9)
        turned = u - self.begins
        turned = turned - 2 * math.pi * np.rint(turned / (2 * math.pi))
        return Row(turned, over, under, np.arcsin(np.clip(along, 0.0, 1.0)), closes)

    def members(self, q: Array) -> Members:
        """Of poses (m, n) rad or m."""
        return self._closed(q)[-1]

    def _closed(self, q: Array) -> tuple[Array, NDArray[np.bool_], Array, Array, Members]:
        """Where the horn stands, (n,) rad from e1; whether it closes; how the ball goes with each joint, (r, 3, n); the rod's way (3, n), unit; what loads need."""
        ball, ways = self.carried(q)
        u, closes = self._stands(ball)
        shaft, e1, e2 = self.columns
        cos, sin = self.horn * np.cos(u), self.horn * np.sin(u)
        rod = shaft + e1 * cos + e2 * sin - ball
        rod /= np.maximum(np.sqrt(np.einsum("in,in->n", rod, rod)), 1e-9)
        goes = e2 * cos - e1 * sin
        return u, closes, ways, rod, Members(np.einsum("in,rin->rn", rod, ways), np.einsum("in,in->n", rod, goes))

    def carried(self, q: Array) -> tuple[Array, Array]:
        """Where the far ball is, (3, n) m as the servo's body has it, and how it goes with each joint between, (r, 3, n) m/rad or 1, in poses q (m, n)."""
        n = q.shape[1]
        at = np.repeat(np.array(self.ball)[:, None], n, axis=1)[None]
        for each in self.path:
            axis, pivot, across = each.columns
            if each.slides:
                at = np.concatenate([at, np.repeat(axis, n, axis=1)[None]])
                at[0] += axis * q[each.row]
                continue
            at[0] -= pivot
            at = _turned(across, at, q[each.row])
            own = across @ at[0]
            at[0] += pivot
            at = np.concatenate([at, own[None]])
        return at[0], at[1:]

    def _stands(self, ball: Array) -> tuple[Array, NDArray[np.bool_]]:
        """Where the horn stands, (n,) rad from e1, for places of the ball (3, n) m; and whether it closes."""
        towards, aside, closes = self._from_middle(ball)
        return towards + self.side * aside, closes

    def _from_middle(self, ball: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
        """Which way the ball lies, and how far off it to either side the horn stands, (n,) rad; and whether it closes."""
        shaft, e1, e2 = self.columns
        off = ball - shaft
        a, b = e1[:, 0] @ off, e2[:, 0] @ off
        k = (np.einsum("in,in->n", off, off) + self.horn**2 - self.rod**2) / (2 * self.horn)
        share = k / np.maximum(np.hypot(a, b), 1e-9)
        closes: NDArray[np.bool_] = np.abs(share) <= 1.0
        return np.arctan2(b, a), np.arccos(np.clip(share, -1.0, 1.0)), closes

    def play(self, q: Array) -> Array:
        """The rod's slack, m: what a member bears is a force."""
        return np.full(q.shape[1], self.slack)

    def pulls(self, q: Array, member: Array) -> Array:
        """What the rod bears pulls at the shaft: N."""
        return np.abs(member)

    def mapped(self, place: Mapping[int, int]) -> BallEnds:
        """For another numbering."""
        path = tuple(replace(each, row=place[each.row]) for each in self.path)
        return replace(self, path=path, own=place[self.own])


class BallAlone(Frozen, eq=False):
    """The same where nothing but the drive's own joint lies between: a linkage."""

    ends: BallEnds
    even = False

    @property
    def efficiency(self) -> float:
        """What comes through, 0 … 1."""
        return self.ends.efficiency

    @property
    def efficiency_bounds(self) -> tuple[float, float]:
        """Between these it may be."""
        return self.ends.efficiency_bounds

    def inverse(self, q: Array) -> Reached:
        """Where the horn stands for joint places (n,) rad; the bend from places a little either way."""
        row, n, most = self.ends.row(np.concatenate([q, q + SMALL, q - SMALL])[None]), len(q), 1.0 / LEAST
        ratio, ahead, behind = _ratio(row).reshape(3, n)
        bend = np.clip((ahead - behind) / (2 * SMALL), -most, most)
        return Reached(row.drive[:n], ratio, bend, row.angle[:n], row.closes[:n])

    def forward(self, u: Array, near: Array) -> Array:
        """Joint places (n,) rad for horn places (n,) rad, the one next to `near`: by following the ratio there."""
        q = near.copy()
        for _ in range(24):
            row = self.ends.row(q[None])
            q = q - np.clip((row.drive - u) / _ratio(row), -0.3, 0.3)
        return q

    def play(self, q: Array) -> Array:
        """What the rod's slack lets the joint go, rad."""
        return np.asarray(
            self.ends.slack / np.maximum(np.abs(self.ends.row(q[None]).over[0]), 1e-9 + LEAST * self.ends.horn)
        )

    def pulls(self, q: Array, torque: Array) -> Array:
        """What the rod bears, N, of a torque (n,) N·m at the joint."""
        return np.asarray(
            np.abs(torque) / np.maximum(np.abs(self.ends.row(q[None]).over[0]), 1e-9 + LEAST * self.ends.horn)
        )


def _ratio(row: Row) -> Array:
    over = row.over[0]
    ratio = over / kept_off(row.under, row.over)
    return np.asarray(np.where(ratio < 0, -1.0, 1.0) * np.clip(np.abs(ratio), LEAST, 1.0 / LEAST))


def _turned(across: Array, vectors: Array, angle: Array) -> Array:
    """Vectors (i, 3, n) turned by angles (n,) rad about the unit axis of which `across` (3, 3) makes axis × v (Rodrigues)."""
    off = across @ vectors
    out: Array = vectors + off * np.sin(angle) + (across @ off) * (1 - np.cos(angle))
    return out


def between(figure: Figure, drive: Drive, form: Ball) -> tuple[tuple[Joint, float], ...]:
    """The joints between a servo's body and its far ball, from the ball on: +1 those that carry the ball, −1 those that carry the servo."""
    out, up = _chain(figure, form.ball_on or drive.joint), _chain(figure, figure.mounted_on(drive))
    both = {joint.id for joint in out} & {joint.id for joint in up}
    there = [(joint, 1.0) for joint in reversed(out) if joint.id not in both]
    return (*there, *((joint, -1.0) for joint in up if joint.id not in both))


def _chain(figure: Figure, link: str) -> list[Joint]:
    """The joints from the base out to what carries a thing."""
    out: list[Joint] = []
    while link != BASE:
        out.append(figure.joint(link))
        link = out[-1].rides_on
    return out[::-1]


def ball_ends(form: Ball, path: tuple[tuple[Joint, float], ...], own: int, rows: Mapping[str, int]) -> BallEnds:
    """SI of horn, rod and balls, with the joints between, whose rows are known by their ids."""
    axis = _unit(form.shaft_axis)
    to = np.array(form.horn_to) - np.dot(form.horn_to, axis) * axis
    e1 = _unit(tuple(to.tolist()))
    e2 = np.cross(axis, e1)
    shaft, ball, horn = np.array(form.shaft_mm) / 1e3, np.array(form.ball_mm) / 1e3, form.horn_mm / 1e3
    off = shaft + horn * e1 - ball
    rod = form.rod_mm / 1e3 if form.rod_mm is not None else max(float(np.sqrt(off @ off)), 1e-6)
    known = form.efficiency
    steps = tuple(
        Carried(
            rows[joint.id], _three(_unit(joint.axis)), _three(np.array(joint.at_mm) / 1e3), joint.kind == "slide", way
        )
        for joint, way in path
    )
    made = BallEnds(
        _three(shaft), _three(e1), _three(e2), horn, rod, _three(ball), 1.0, 0.0, steps, own,
        (SLACK_MM if form.slack_mm is None else form.slack_mm) / 1e3, TYPICAL if known is None else known,
        BETWEEN if known is None else (known, known),
    )  # fmt: skip
    towards, aside, _ = made._from_middle(ball[:, None])
    ways = ((side, math.remainder(float(towards[0]) + side * float(aside[0]), 2 * math.pi)) for side in (1.0, -1.0))
    side, begins = min(ways, key=lambda each: abs(each[1]))
    return replace(made, side=side, begins=begins)


def rod_m(form: Ball) -> float:
    """The rod's length, ball to ball, m: as written, else such that the horn stands as it is screwed on."""
    return ball_ends(form, (), 0, {}).rod


def _unit(direction: tuple[float, float, float]) -> Array:
    size = math.hypot(*direction)
    return np.array(direction) / size


def _three(values: Array) -> Three:
    x, y, z = (float(v) for v in values)
    return x, y, z
