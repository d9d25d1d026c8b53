"""A wanted move, placed where it is worst: which start, which way, which pose of all other joints, which posture.

Placed once for a joint, with the drive it has; any other drive is then judged at the same places.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import Capability
from karakuri.bodies.coordinates import complete
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.starts import corners_first, rest_pose
from karakuri.mechanics.tied import free_of
from karakuri.model.joint import Joint, Move
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED, ProfileKind
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.least_time import TRIANGLE, Pull, least_time, on_profile
from karakuri.sizing.tries import PlacedMove, Tries

PLACES, KEPT = 5, 3
SPREAD, CORNERS, HUNG, BRANCHES = 8, 6, 4, 2
"""Other poses a move is tried in; more of them, and climbed from more, where something hangs, for it may hang in several ways."""
JUDGED = 512


class AskedMove(Frozen):
    """What a wanted move asks of a joint: by rad (of a slide m) in time s on a profile of `kind`, 'sudden' as fast as it goes, with its own
    number `shape`, against the joint's friction, N·m."""

    by: float
    time: float
    kind: ProfileKind
    shape: float
    friction: float

    @property
    def on(self) -> tuple[ProfileKind, float]:
        """The profile it is made on, and that one's number: one as fast as it goes is sped up half the way and braked the other."""
        return (self.kind, self.shape) if DESCRIBED[self.kind].timed else TRIANGLE

    def at(self, times: Array) -> tuple[Array, Array, Array]:
        """Way (n,) rad, speed rad/s and acceleration rad/s² from rest, at times (n,) s after it departs."""
        kind, shape = self.on
        takes, by, nothing, own = (np.full(len(times), value) for value in (self.time, self.by, 0.0, shape))
        return PROFILES[kind].run(times, takes, by, nothing, own)


class WantedMove(Frozen, eq=False):
    """by rad in `time` s against the least time s; where: start rad, way ±1, pose (m,), posture. At the given time: torque N·m and
    speed rad/s at their largest. inertia carried, as the move begins, and reflected, kg·m²; weight N·m, the largest on the way against the move.
    All but by and start as its drive meets them."""

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


def profile_of(joint: Joint, move: Move) -> tuple[ProfileKind, float]:
    """The profile a wanted move is judged with, and its own number: as written, else by what kind of joint it is."""
    kind: ProfileKind = move.profile or ("sudden" if joint.timed.quick else "minimum jerk")
    return kind, DEFAULT_SHAPE.get(kind, 0.0)


def asked_move(joint: Joint, move: Move, friction: float) -> AskedMove:
    """A wanted move of a joint against so much friction, N·m: rad (of a slide m) and s from its degrees (mm) and seconds."""
    return AskedMove(move.by * joint.measure.si, move.time_s, *profile_of(joint, move), friction)


def place_move(
    tree: Tree, j: int, move: AskedMove, can: Capability, reflected: float, gravities: Array,
    poses: tuple[Array, ...], settle: bool = True, drive: int | None = None,
) -> PlacedMove:  # fmt: skip
    """Place a wanted move of turning joint j, for its own drive or that of joint `drive`, which shares joints with it. `poses` (m,) rad are tried first; `settle` climbs on from the worst of all tried.

    gravities (p, 3) m/s²; reflected kg·m².
    """
    kind, shape, by = move.kind, move.shape, _within(tree, j, move.by)
    free = [f for f in free_of(tree, matter_to(tree, j)) if f != tree.coupling.leader[j]]
    q = _tries(tree, [*free, *tree.coupling.hangs], poses, settle)
    starts, ways = places_of(tree, j, by)
    tries = Tries(tree, j, j if drive is None else drive, gravities, can, reflected, move.friction, by, *move.on)  # fmt: skip
    found = tries.tried(q, starts, ways)
    if settle and free:
        columns = []
        for worst in np.argsort(-found.least.max(axis=0), kind="stable")[: BRANCHES if tree.coupling.hangs else 1]:
            k = int(found.least[:, worst].argmax())
            columns += [q[:, worst], tries.climbed(q[:, worst], free, float(starts[k]), float(ways[k]))]
        found = tries.tried(np.stack(columns, axis=1), starts, ways)
    return replace(_worst_of(*found.flat()), kind=kind, shape=shape, time=move.time, by=by)


@lru_cache(maxsize=JUDGED)
def judge(placed: PlacedMove, can: Capability, reflected: float, friction: float) -> WantedMove:
    """What a drive makes of a placed move: the column whose least time, s, is longest. reflected kg·m², friction N·m.

    Remembered: where a move is placed anew only when something it depends on changed, most studies ask the same again.
    """
    pull = replace(placed.pull, reflected=reflected, friction=friction)
    least = least_time(pull, placed.start, placed.distance, placed.kind, placed.shape, can)
    share = np.linspace(0.0, 1.0, 33)[:, None]
    places = placed.start + placed.distance * share
    met = pull.met(places)  # as its drive meets it
    speeds = np.broadcast_to(met.speed, places.shape)
    weights = np.where(placed.distance * speeds >= 0, 1.0, -1.0) * met.weight
    inertia = np.abs(np.broadcast_to(met.inertia, places.shape)[0]) / np.maximum(np.abs(speeds[0]), LEAST)
    heaviest = np.abs(weights).max(axis=0)
    k = int(np.argmax(np.where(np.isfinite(least), least, 1e12 + heaviest)))
    way = 1.0 if placed.distance[k] >= 0 else -1.0
    hardest = int(np.abs(weights[:, k]).argmax())
    weight = float(weights[hardest, k])
    rubs = float(np.broadcast_to(met.friction, places.shape)[hardest, k])
    speed, torque = _at_most(pull, placed, k, weight)
    return WantedMove(
        by=placed.by, time=placed.time, least=float(least[k]), kind=placed.kind, start=float(placed.start[k]), way=way, pose=placed.poses[:, k],
        posture=int(placed.postures[k]), torque=torque, speed=speed, inertia=float(inertia[k]), reflected=reflected, weight=weight, friction=rubs,
    )  # fmt: skip


def _at_most(pull: Pull, placed: PlacedMove, k: int, weight: float) -> tuple[float, float]:
    """The largest speed, rad/s, and torque, N·m, of move k at its drive in the time it is given; of a servo on its joint a bound of both."""
    kind, shape = (placed.kind, placed.shape) if DESCRIBED[placed.kind].timed else TRIANGLE
    if pull.linkage is not None or pull.shared is not None:
        one = np.array([k])
        asked = on_profile(pull.columns(one), placed.start[one], placed.distance[one], kind, shape)
        torque = np.abs(asked.moving / placed.time**2 + asked.standing) + asked.friction
        return float(asked.speed.max()) / placed.time, float(torque.max())
    peak_speed, peak_acceleration = _peaks(kind, shape)
    speed, acceleration = peak_speed * placed.by / placed.time, peak_acceleration * placed.by / placed.time**2
    inertia, friction = float(pull.inertia[k]) + pull.reflected, pull.friction
    return speed, max(abs(weight) + friction, inertia * acceleration + max(weight, 0.0) + friction)


def at_joint(placed: PlacedMove, rubs: float) -> float:
    """The most a placed move asks about its turning joint, N·m, in the time it is given, against rubs N·m: what goes through its last member. A bound, for where it is thrown most and
    where it weighs most need not be one place."""
    _, most = _peaks(*((placed.kind, placed.shape) if DESCRIBED[placed.kind].timed else TRIANGLE))
    places = placed.start + placed.distance * np.linspace(0.0, 1.0, 33)[:, None]
    thrown = float(placed.pull.inertia.max()) * most * abs(placed.by) / placed.time**2
    return thrown + float(np.abs(placed.pull.weight(places)).max()) + rubs


def _peaks(kind: ProfileKind, shape: float) -> tuple[float, float]:
    """v T ÷ D and a T² ÷ D at their largest, of a profile that takes a time."""
    return PROFILES[kind].peak_speed(shape), PROFILES[kind].peak_acceleration(shape)


def _tries(tree: Tree, free: list[int], poses: tuple[Array, ...], settle: bool) -> Array:
    """Poses (m, n) to begin with: those known to be bad, rest, and a spread of others."""
    known = [p for p in poses if p.shape == (len(tree.ids),)]
    columns = [rest_pose(tree), *known]
    q = np.stack(columns, axis=1)
    if settle and free:
        spread = SPREAD * (HUNG if tree.coupling.hangs else 1)
        more = np.repeat(rest_pose(tree)[:, None], spread, axis=1)
        low, high = tree.low[free, None], tree.high[free, None]
        more[free] = low + corners_first(len(free), spread, CORNERS) * (high - low)
        q = np.concatenate([q, more], axis=1)
    return complete(tree.coupling, np.clip(q, tree.low[:, None], tree.high[:, None]))


def _within(tree: Tree, j: int, by: float) -> float:
    """How far it goes, rad: never past its range where something lies between joint and drive, which beyond it need not reach."""
    span = float(tree.high[j] - tree.low[j])
    return min(by, span) if span > 0 and (tree.linkage(j) is not None or tree.group(j) is not None) else by


def places_of(tree: Tree, j: int, by: float, count: int = PLACES) -> tuple[Array, Array]:
    """Starts (k,) rad (of a slide m) and ways (k,) ±1, `count` of each way: along the whole range, both ways; a move wider than the range lies about its middle."""
    low, high = float(tree.low[j]), float(tree.high[j])
    lows = np.linspace(low, high - by, count) if high - by > low else np.array([0.5 * (low + high - by)])
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
    k = np.array(sorted(set(np.concatenate(orders).tolist())), dtype=np.int64)  # np.unique reads all of numpy.ma first
    return replace(
        placed, pull=placed.pull.columns(k), start=placed.start[k], distance=placed.distance[k], poses=placed.poses[:, k], postures=placed.postures[k],
    )  # fmt: skip
