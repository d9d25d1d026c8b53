"""A cord that a hand or a chin pulls to turn a joint: opening against pull, force over the travel with what is lost where it runs over, slack
and dead places, and whether the joint comes back when it is let go."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of, way_of
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.statics import holding_torque_Nm
from karakuri.mechanics.tied import free_of
from karakuri.model.element import Cord
from karakuri.sizing.drag import Dragging, Returning, held_along, returning

RUBS = {"pulley": 0.03, "eye": 0.2, "tube": 0.1}
"""Friction of a cord over what guides it, as a coefficient at the cord: a pulley on its pin, a plain eye, a lined tube. From memory of general
tables for fishing line and cable housings; vary by a half."""
PULLEY_KEEPS = 0.92
"""Of its force a moving pulley keeps so much: common practice, no source."""
PLACES, POSES = 65, 8
SWEPT, AROUND, ALONG = 9, 32, 33
"""Places of one joint, poses of all, and places along a piece of cord, at which its way past a neck is looked at."""
DEAD_M = 5e-4
"""Below this arm, m, a cord pulls along what it should turn: common practice, no source."""


class CordFound(Frozen, eq=False):
    """Element i turns joint j from where it is drawn to the far end of its wanted range: angles (k,) rad, and there the hand's travel m and
    force N (k,), worst over postures and what carries it; arm (k,) m; wrap (k,) rad. `high`: the most force with what rubs at its highest. `own`:
    the angle, rad from where it is drawn, up to which it opens by itself, slack. `back` what brings it back, `drag` what it
    rubs with, `assumed` where nobody said anything of it. `near` m: how near it comes to the axis of its wearer's neck, None where nobody wears it."""

    i: int
    j: int
    angles: Array
    travel: Array
    force: Array
    arm: Array
    wrap: Array
    high: float
    own: float
    back: Returning | None
    drag: Dragging | None
    assumed: bool
    near: float | None = None

    @property
    def most_travel(self) -> float:
        return float(self.travel.max())

    @property
    def most_force(self) -> float:
        """N; infinity where it is dead on the way."""
        return float(self.force.max())

    @property
    def dead_at(self) -> float | None:
        """Where it no longer turns the joint, rad; None where it does all the way."""
        dead = np.flatnonzero(self.arm <= DEAD_M)
        return float(self.angles[dead[0]]) if len(dead) else None

    def opens(self, travel: float, force: float) -> float:
        """How far it opens with a hand that gives so many m and N, as a share of the way."""
        short = np.flatnonzero(
            (self.travel > travel * (1 + 1e-9)) | (self.force > force * (1 + 1e-9)) | (self.arm <= DEAD_M)
        )
        if not len(short):
            return 1.0
        way = abs(float(self.angles[-1] - self.angles[0]))
        return abs(float(self.angles[max(short[0] - 1, 0)] - self.angles[0])) / way

    @property
    def shuts(self) -> float:
        """What brings it back ÷ what it rubs with; infinity where nothing rubs, 0 or below where nothing brings it back."""
        if self.back is None:
            return math.inf
        if self.drag is None or self.drag.value <= 0:
            return math.inf if self.back.torque > 0 else min(self.back.torque, 0.0)
        return self.back.torque / self.drag.value


def cord_found(
    tree: Tree,
    i: int,
    cord: Cord,
    j: int,
    wanted: tuple[float, float],
    drag: Dragging | None,
    gravities: Array,
    assumed: bool = False,
) -> CordFound | None:
    """Element i, a cord, on joint j with its `wanted` range, rad, under gravities (p, 3) m/s². None where the range leaves it no way."""
    load, drawn = tree.loads[i], float(tree.rest[j])
    at_rest = tree.rest[:, None]
    step = 1e-4
    both = np.repeat(at_rest, 2, axis=1)
    both[j] += [-step, step]
    low, high = length_of(tree, place(tree, both), both, load)
    ends = sorted(wanted, key=lambda end: (end - drawn) * (low - high))  # the last: where the cord gets shorter
    end = ends[-1]
    if abs(end - drawn) < 1e-4:
        end = ends[0]
    if abs(end - drawn) < 1e-4:
        return None
    angles: Array = np.linspace(drawn, end, PLACES)
    way = math.copysign(1.0, end - drawn)
    carriers = [k for k in free_of(tree, tree.chains[j]) if k != j]
    poses = with_corners(tree, carriers, POSES)
    times, keeps = {"none": (1.0, 1.0), "jaw": (2.0, 0.5 / PULLEY_KEEPS), "hand": (0.5, 2.0 / PULLEY_KEEPS)}[
        cord.moving
    ]
    q, pulls, count = held_along(tree, j, poses, gravities, angles)
    placed = place(tree, q)
    length = length_of(tree, placed, q, load).reshape(count, PLACES)
    arms = -way * np.asarray(np.gradient(length, angles, axis=1))
    around = (_wrapped(way_of(tree, placed, load)) + math.radians(cord.bends_deg)).reshape(count, PLACES)
    asked = (way * holding_torque_Nm(tree, q, pulls)[j]).reshape(count, PLACES)
    lost = np.exp(RUBS[cord.guided] * around) * keeps
    turns = arms > DEAD_M

    def pulled(rubs: float) -> Array:
        out: Array = np.where(turns, np.maximum(asked + rubs, 0.0) / np.maximum(arms, DEAD_M) * lost, math.inf)
        return out

    travel = np.maximum(0.0, ((length[:, :1] - length) * times).max(axis=0))
    force = pulled(drag.value if drag else 0.0).max(axis=0)
    strongest = float(pulled(drag.high if drag else 0.0).max())
    arm, wrap = arms.min(axis=0), np.maximum(0.0, around.max(axis=0))
    held = asked + (drag.low if drag else 0.0) > 0
    first = np.where(held.any(axis=1), np.abs(angles[held.argmax(axis=1)] - drawn), abs(end - drawn))
    own = float(first.min())
    back = returning(tree, j, (drawn, end), gravities)
    return CordFound(i, j, angles, travel, force, arm, wrap, strongest, own, back, drag, assumed)


def nearest(tree: Tree, i: int, foot: Array, top: Array) -> float:
    """How near the way of load i comes to the straight line from foot to top (3,) m, base frame, over all that its anchors' joints can do: at
    rest, at corners and places all over their ranges, and each by itself from end to end; m."""
    load = tree.loads[i]
    moving = free_of(tree, tuple({j for link in load.links if link >= 0 for j in tree.chains[link]}))
    moving += [
        h for h in tree.coupling.hangs if h not in moving
    ]  # a hand or a bump takes those anywhere they can reach
    alone = np.repeat(tree.rest[:, None], SWEPT * len(moving), axis=1)
    for k, j in enumerate(moving):
        alone[j, k * SWEPT : (k + 1) * SWEPT] = np.linspace(float(tree.low[j]), float(tree.high[j]), SWEPT)
    q = complete(tree.coupling, np.concatenate([with_corners(tree, moving, AROUND), alone], axis=1))
    points = way_of(tree, place(tree, q), load)
    shares = np.linspace(0.0, 1.0, ALONG)[:, None, None, None]
    every = points[:-1] + shares * (points[1:] - points[:-1])
    line = top - foot
    away = every - foot[:, None]
    at = np.clip(np.einsum("swin,i->swn", away, line) / max(float(line @ line), 1e-12), 0.0, 1.0)
    off = away - at[:, :, None] * line[:, None]
    return float(np.sqrt(np.einsum("swin,swin->swn", off, off).min()))


def _wrapped(points: Array) -> Array:
    """By how much in all a way (w, 3, n) bends at its guides, (n,) rad."""
    pieces = np.diff(points, axis=0)
    size = np.maximum(np.sqrt(np.einsum("win,win->wn", pieces, pieces)), 1e-9)
    along = pieces / size[:, None]
    turns = np.clip(np.einsum("win,win->wn", along[:-1], along[1:]), -1.0, 1.0)
    out: Array = np.arccos(turns).sum(axis=0)
    return out
