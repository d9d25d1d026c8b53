"""A wanted move, placed where it is worst: which start, which way, which pose of all other joints, which posture.

Placed once for a joint, with the drive it has; any other drive is then judged at the same places.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.coordinates import complete
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.tied import free_of, tied_coordinate_ascent
from karakuri.mechanics.worst import low_discrepancy, rest_pose
from karakuri.model.joint import Joint, Move
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED, ProfileKind
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.least_time import Pull, least_time
from karakuri.sizing.pulls import inertia_of, pull_of

PLACES, CLIMBED, KEPT = 5, 1, 3
JUDGED = 512


@dataclass(frozen=True)
class AskedMove:
    """What a wanted move asks of a turning joint: by rad in time s on a profile of `kind`, 'sudden' as fast as it goes, with its own
    number `shape`, against the joint's friction, N·m."""

    by: float
    time: float
    kind: ProfileKind
    shape: float
    friction: float


@dataclass(frozen=True, eq=False)
class PlacedMove:
    """Where a move was tried, a column each (n,): what it pulls against, start and distance rad, poses (m, n), postures (n,).

    by rad in time s on a profile of `kind`, 'sudden' as fast as it goes.
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


@dataclass(frozen=True, eq=False)
class WantedMove:
    """by rad in `time` s against the least time s; where: start rad, way ±1, pose (m,), posture. At the given time: torque N·m and
    speed rad/s at their largest. inertia carried and reflected, kg·m²; weight N·m, the largest on the way against the move."""

    by: float
    time: float
    least: float
    kind: ProfileKind
    start: float
    way: float
    pose: Array
    posture: int
    torque: float
    speed: float
    inertia: float
    reflected: float
    weight: float
    friction: float

    @property
    def reserve(self) -> float:
        """Time given ÷ least time; 0 where no time is long enough."""
        return self.time / self.least if self.least > 0 else math.inf


_TRIANGLE: tuple[ProfileKind, float] = ("trapezoid", 0.5)
"""What a move as fast as it goes is tried as: a triangle of speed."""


def profile_of(joint: Joint, move: Move) -> tuple[ProfileKind, float]:
    """The profile a wanted move is judged with, and its own number: as written, else by what kind of joint it is."""
    kind: ProfileKind = move.profile or ("sudden" if joint.timed.quick else "minimum jerk")
    return kind, DEFAULT_SHAPE.get(kind, 0.0)


def asked_move(joint: Joint, move: Move) -> AskedMove:
    """A wanted move of a joint: rad and s from its degrees and seconds, N·m of friction."""
    return AskedMove(math.radians(move.by), move.time_s, *profile_of(joint, move), joint.friction_Nm)


def place_move(
    tree: Tree, j: int, move: AskedMove, can: Capability, reflected: float, gravities: Array,
    poses: tuple[Array, ...], settle: bool = True,
) -> PlacedMove:  # fmt: skip
    """Place a wanted move of turning joint j. `poses` (m,) rad are tried first; `settle` climbs on from the worst of all tried.

    gravities (p, 3) m/s²; reflected kg·m².
    """
    kind, shape, by = move.kind, move.shape, move.by
    free = [f for f in free_of(tree, matter_to(tree, j)) if f != tree.coupling.leader[j]]
    q = _tries(tree, free, poses, settle)
    starts, ways = _places(tree, j, by)
    drive = _Drive(tree, j, gravities, can, reflected, move.friction, by, *(_TRIANGLE if not DESCRIBED[kind].timed else (kind, shape)))  # fmt: skip
    found = drive.tried(q, starts, ways)
    if settle and free:
        worst = np.argsort(-found.least.max(axis=0))[:CLIMBED]
        more = q[:, worst].copy()
        at = found.least[:, worst].argmax(axis=0)
        for c in range(more.shape[1]):
            one = more[:, c : c + 1]

            def value(many: Array, k: int = int(at[c])) -> Array:
                out: Array = np.minimum(drive.tried(many, starts[k : k + 1], ways[k : k + 1]).least.max(axis=0), 1e9)
                return out

            tied_coordinate_ascent(tree, value, free, one, sweeps=2)
            more[:, c] = one[:, 0]
        q = np.concatenate([q[:, worst], more], axis=1)
        found = drive.tried(q, starts, ways)
    return replace(_worst_of(*found.flat()), kind=kind, shape=shape, time=move.time, by=by)


@lru_cache(maxsize=JUDGED)
def judge(placed: PlacedMove, can: Capability, reflected: float, friction: float) -> WantedMove:
    """What a drive makes of a placed move: the column whose least time, s, is longest. reflected kg·m², friction N·m.

    Remembered: where a move is placed anew only when something it depends on changed, most studies ask the same again.
    """
    pull = replace(placed.pull, inertia=placed.pull.inertia + reflected, friction=friction)
    least = least_time(pull, placed.start, placed.distance, placed.kind, placed.shape, can)
    share = np.linspace(0.0, 1.0, 33)[:, None]
    weights = np.where(placed.distance >= 0, 1.0, -1.0) * pull.weight(placed.start + placed.distance * share)
    heaviest = np.abs(weights).max(axis=0)
    k = int(np.argmax(np.where(np.isfinite(least), least, 1e12 + heaviest)))
    way = 1.0 if placed.distance[k] >= 0 else -1.0
    peak_speed, peak_acceleration = _peaks(placed.kind, placed.shape)
    speed, acceleration = peak_speed * placed.by / placed.time, peak_acceleration * placed.by / placed.time**2
    weight = float(weights[np.abs(weights[:, k]).argmax(), k])
    torque = max(abs(weight) + friction, float(pull.inertia[k]) * acceleration + max(weight, 0.0) + friction)
    return WantedMove(
        by=placed.by, time=placed.time, least=float(least[k]), kind=placed.kind, start=float(placed.start[k]), way=way, pose=placed.poses[:, k],
        posture=int(placed.postures[k]), torque=torque, speed=speed, inertia=float(placed.pull.inertia[k]), reflected=reflected, weight=weight, friction=friction,
    )  # fmt: skip


def _peaks(kind: ProfileKind, shape: float) -> tuple[float, float]:
    """v T ÷ D and a T² ÷ D at their largest; as fast as it goes counts as a triangle of speed."""
    kind, shape = (kind, shape) if DESCRIBED[kind].timed else _TRIANGLE
    return PROFILES[kind].peak_speed(shape), PROFILES[kind].peak_acceleration(shape)


def _tries(tree: Tree, free: list[int], poses: tuple[Array, ...], settle: bool) -> Array:
    """Poses (m, n) to begin with: those known to be bad, rest, and a spread of others."""
    known = [p for p in poses if p.shape == (len(tree.ids),)]
    columns = [rest_pose(tree), *known]
    q = np.stack(columns, axis=1)
    if settle and free:
        more = np.repeat(rest_pose(tree)[:, None], 8, axis=1)
        for i, f in enumerate(free):
            u = low_discrepancy(8, i)
            u[:6] = np.round(u[:6])
            more[f] = tree.low[f] + u * (tree.high[f] - tree.low[f])
        q = np.concatenate([q, more], axis=1)
    return complete(tree.coupling, np.clip(q, tree.low[:, None], tree.high[:, None]))


def _places(tree: Tree, j: int, by: float) -> tuple[Array, Array]:
    """Starts (k,) rad and ways (k,) ±1: along the whole range, both ways; a move wider than the range lies about its middle."""
    low, high = float(tree.low[j]), float(tree.high[j])
    lows = np.linspace(low, high - by, PLACES) if high - by > low else np.array([0.5 * (low + high - by)])
    return np.concatenate([lows, lows + by]), np.concatenate([np.ones(len(lows)), -np.ones(len(lows))])


def _worst_of(placed: PlacedMove, least: Array) -> PlacedMove:
    """The few columns that are worst for this drive: by its least times s (n,), and, for drives of other strength, by weight and by
    inertia."""
    share = np.linspace(0.0, 1.0, 9)[:, None]
    weight = (
        np.where(placed.distance >= 0, 1.0, -1.0) * placed.pull.weight(placed.start + placed.distance * share)
    ).max(axis=0)
    orders = [
        np.argsort(-np.where(np.isfinite(x), x, 1e12))[:KEPT]
        for x in (np.minimum(least, 1e9 + weight), weight, placed.pull.inertia)
    ]
    k = np.unique(np.concatenate(orders)).astype(np.int64)
    return replace(
        placed, pull=placed.pull.columns(k), start=placed.start[k], distance=placed.distance[k], poses=placed.poses[:, k], postures=placed.postures[k],
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Tried:
    """least (k, n): the worst posture's; each posture's columns with their own least times (k × n,)."""

    least: Array
    columns: list[PlacedMove]
    times: list[Array]

    def flat(self) -> tuple[PlacedMove, Array]:
        """All columns in one, and their least times, s."""
        pulls = [c.pull for c in self.columns]
        a, b, c, inertia = (np.concatenate([getattr(p, n) for p in pulls]) for n in ("a", "b", "c", "inertia"))
        tables = [p.table for p in pulls if p.table is not None]
        table = np.concatenate(tables, axis=1) if tables else None
        joined = Pull(a, b, c, inertia, pulls[0].friction, table, pulls[0].low, pulls[0].step)
        first = self.columns[0]
        placed = replace(
            first, pull=joined, start=np.concatenate([c.start for c in self.columns]), distance=np.concatenate([c.distance for c in self.columns]),
            poses=np.concatenate([c.poses for c in self.columns], axis=1), postures=np.concatenate([c.postures for c in self.columns]),
        )  # fmt: skip
        return placed, np.concatenate(self.times)


@dataclass(frozen=True, eq=False)
class _Drive:
    """Tries a move in many poses."""

    tree: Tree
    j: int
    gravities: Array
    can: Capability
    reflected: float
    friction: float
    by: float
    kind: ProfileKind
    shape: float

    def tried(self, q: Array, starts: Array, ways: Array) -> _Tried:
        """Least times (places, n), the worst posture's, of poses q (m, n) with each of the starts and ways."""
        n, k = q.shape[1], len(starts)
        ends = self._ends()
        inertia = inertia_of(self.tree, self.j, q, ends)
        columns, times, worst = [], [], np.full((k, n), -np.inf)
        for p, g in enumerate(self.gravities):
            pull = pull_of(self.tree, self.j, q, g, inertia, self.friction, ends)
            wide = pull.repeated(k)
            start, way = np.repeat(starts, n), np.repeat(ways, n)
            with_servo = replace(wide, inertia=wide.inertia + self.reflected)
            least = least_time(with_servo, start, way * self.by, self.kind, self.shape, self.can)
            worst = np.maximum(worst, least.reshape(k, n))
            times.append(least)
            columns.append(
                PlacedMove(pull=wide, start=start, distance=way * self.by, poses=np.concatenate([q] * k, axis=1), postures=np.full(n * k, p, dtype=np.int64), by=self.by, time=1.0, kind=self.kind, shape=self.shape)
            )  # fmt: skip
        return _Tried(worst, columns, times)

    def _ends(self) -> tuple[float, float]:
        """What the joint passes: its range, or more where the move is wider."""
        low, high = float(self.tree.low[self.j]), float(self.tree.high[self.j])
        out = max(0.0, (self.by - (high - low)) / 2)
        return low - out, high + out
