"""A linear actuator between two places: the joint's angle over its stroke, what it must push and pull, how fast, and where it goes dead.

Virtual work: force × how its length grows with the joint = what the joint must be held with; speed of the joint = speed ÷ the same.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import put
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.envelope import envelope, strung_alone
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of
from karakuri.mechanics.slid import along
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.statics import holding_torque_Nm
from karakuri.mechanics.tied import is_tied
from karakuri.model.element import Linear
from karakuri.model.figure import Figure
from karakuri.motion.track import Track
from karakuri.sizing.drag import held_along
from karakuri.sizing.page import BIN_S

FRAME_S = 0.02
PLACES, POSES, DEAD_M = 65, 16, 5e-4
"""So short an arm turns nothing any more: common practice, no source."""


class StrokeFound(Frozen, eq=False):
    """Actuator i on joint j over its wanted range: places (k,) rad (m), length (k,) m, arm (k,) m (1) how its length grows with the joint;
    highest and lowest (k,) N·m (N) that must be held there, whatever all else does, with `rubs` N·m (N) besides. short and long m: how it
    may stand."""

    i: int
    j: int
    places: Array
    length: Array
    arm: Array
    highest: Array
    lowest: Array
    rubs: float
    short: float
    long: float
    force: float
    speed: float

    @property
    def dead_at(self) -> float | None:
        """Where it turns the joint no more, rad; None where it does all the way."""
        turned = np.flatnonzero((np.abs(self.arm) <= DEAD_M) | (np.sign(self.arm) != np.sign(self.arm[0])))
        return float(self.places[turned[0]]) if len(turned) else None

    @property
    def pushes(self) -> Array:
        """The most it must push at each place, (k,) N; below 0: it is only pulled at there."""
        return self._along(1.0)

    @property
    def pulls(self) -> Array:
        """The most it must pull at each place, (k,) N."""
        return self._along(-1.0)

    def _along(self, way: float) -> Array:
        arm = np.where(np.abs(self.arm) > DEAD_M, self.arm, np.inf)
        both = np.stack([way * (self.highest + self.rubs) / arm, way * (self.lowest - self.rubs) / arm])
        return np.asarray(both.max(axis=0))

    @property
    def asked(self) -> float:
        """The largest of both, N."""
        return float(max(self.pushes.max(), self.pulls.max(), 0.0))

    @property
    def covered(self) -> float:
        """The share of the wanted range that its stroke reaches."""
        inside = (self.length >= self.short - 1e-9) & (self.length <= self.long + 1e-9)
        return float(inside.mean())

    @property
    def needs(self) -> float:
        """The stroke it takes for all of the range, m."""
        return float(self.length.max() - self.length.min())

    @property
    def slowest(self) -> float:
        """The least speed of the joint on the way, rad/s (m/s)."""
        return self.speed / max(float(np.abs(self.arm).max()), 1e-9)

    @property
    def whole_s(self) -> float:
        """How long the whole range takes, s."""
        return float(np.abs(np.diff(self.length)).sum()) / self.speed

    def takes_s(self, by: float) -> float:
        """How long a move by so much takes where it takes longest, s; by rad or m."""
        wide = abs(float(self.places[-1] - self.places[0]))
        steps = max(1, min(PLACES - 1, round(abs(by) / wide * (PLACES - 1)))) if wide > 0 else 1
        gone = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(self.length)))])
        longest = float((gone[steps:] - gone[:-steps]).max())
        return longest * (abs(by) / (wide * steps / (PLACES - 1)) if wide > 0 else 1.0) / self.speed


class Pace(Frozen):
    """How fast the score asks actuator i to go at most, m/s, and when, s; and with what force, N, what speeds up and all else that moves with
    it, and when: `effort` N·m (N) over its arm, m (1), there."""

    i: int
    speed: float
    at: float
    force: float = 0.0
    force_at: float = 0.0
    effort: float = 0.0
    arm: float = 0.0


def pace(
    found: StrokeFound, track: Track, gain: float, offset: float, length: float, effort: Array | None = None
) -> Pace:
    """Over a track of the joint it drives, gain × the track + offset rad (m), s of the score up to its length: frame by frame. effort (bins,)
    N·m (N): the most the joint is asked in each BIN_S of it, over the least arm it has meanwhile."""
    times = np.arange(0.0, length + FRAME_S, FRAME_S)
    at = gain * track.at(times)[0] + offset
    speed = np.abs(np.diff(np.interp(at, found.places, found.length))) / FRAME_S
    k = int(speed.argmax()) if len(speed) else 0
    most, when = (float(speed[k]), float(times[k])) if len(speed) else (0.0, 0.0)
    if effort is None or found.dead_at is not None:
        return Pace(found.i, most, when)
    edges = np.arange(len(effort) + 1) * BIN_S
    arms = np.abs(np.interp(gain * track.at(np.minimum(edges, length))[0] + offset, found.places, found.arm))
    least = np.maximum(np.minimum(arms[:-1], arms[1:]), DEAD_M)
    k = int((effort / least).argmax())
    return Pace(found.i, most, when, float(effort[k] / least[k]), float(edges[k]), float(effort[k]), float(least[k]))


def driven_by(tree: Tree, i: int) -> int | None:
    """The one joint that element i turns or slides; None where it spans none, or several."""
    spanned = tree.spanned(tree.loads[i])
    return spanned[0] if len(spanned) == 1 else None


def pushed_by_actuators(figure: Figure, tree: Tree) -> frozenset[int]:
    """The joints that a linear actuator drives."""
    found = (driven_by(tree, i) for i, each in enumerate(figure.elements) if isinstance(each, Linear))
    return frozenset(j for j in found if j is not None)


def stroke_found(tree: Tree, i: int, it: Linear, wanted: tuple[float, float], rubs: float, gravities: Array) -> StrokeFound | None:  # fmt: skip
    """Element i, a linear actuator, over the `wanted` range of what it drives, rad (m), that rubs with N·m (N), under gravities (p, 3) m/s².
    None where it spans nothing or several joints, or the range has no width."""
    j = driven_by(tree, i)
    if j is None or wanted[1] - wanted[0] < 1e-9:
        return None
    places = np.linspace(*wanted, PLACES)
    q = np.repeat(tree.rest[:, None], PLACES, axis=1)
    put(tree.coupling, q, j, places)
    length = length_of(tree, place(tree, q), q, tree.loads[i])
    arm = np.asarray(np.gradient(length, places))
    highest, lowest = held_over(tree, j, places, gravities)
    short = it.short_mm / 1e3
    return StrokeFound(i, j, places, length, arm, highest, lowest, rubs, short, short + it.stroke_mm / 1e3, it.force_N * it.count, it.speed_mmps / 1e3)  # fmt: skip


def held_over(tree: Tree, j: int, places: Array, gravities: Array) -> tuple[Array, Array]:
    """The most and the least joint j must be held with at its places (k,), N·m (N): exact where nothing is tied, else with all else at the
    corners of its ranges and where the most and the least anywhere are."""
    bare = replace(tree, loads=())
    if not tree.slides[j] and not is_tied(bare, matter_to(tree, j)) and (strung_alone(tree, j) or not tree.loaded[j]):
        found = envelope(tree, j, places, gravities, tilting=False)
        return found.highest, found.lowest
    others = [k for k in range(len(tree.ids)) if k != j and tree.coupling.leader[k] == k and tree.low[k] < tree.high[k]]
    worst = along(tree, j, gravities)
    poses = np.column_stack([with_corners(tree, others, POSES), worst.pose, worst.low_pose])
    q, pulls, count = held_along(tree, j, poses, gravities, places)
    torque = sum(gain * holding_torque_Nm(tree, q, pulls)[k] for k, gain in tree.coupling.loads[j])
    held = np.asarray(torque).reshape(count, len(places))
    return held.max(axis=0), held.min(axis=0)


def flattened(found: StrokeFound, forces: Array) -> float:
    """What is asked of it at most, N, with something beside it that pulls with forces (k,) N along the same way, below 0: pushes."""
    helped = replace(found, highest=found.highest - forces * -found.arm, lowest=found.lowest - forces * -found.arm)
    return helped.asked if math.isfinite(helped.asked) else math.inf
