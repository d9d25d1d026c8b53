"""The least time in which a drive can make a move: what every verdict about time rests on.

Along the way the drive must give, in the direction of the move, inertia × acceleration + weight + friction (which is never credited when it brakes), and has at a speed
min(share in passing, usable × (1 − speed ÷ free speed)) to push with and the share in passing to brake with. A fixed profile is
stretched until that holds at every sample: with x = 1 ÷ time, speed goes with x and acceleration with x² (time scaling of a path:
Hollerbach, ASME J. Dyn. Sys. 106, 1984, from memory), so each sample gives the largest x in closed form. 'As fast as it goes' is the
time-optimal law of a path under such limits, all it has up to the switch, all its brake after it (Bobrow, Dubowsky & Gibson, Int. J.
Robotics Res. 4, 1985, from memory). Where weight and friction alone are more than it has, no time is long enough.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import Linkage
from karakuri.frozen import Frozen
from karakuri.mechanics.at_drive import driven
from karakuri.model.profiles import DESCRIBED, ProfileKind
from karakuri.motion.profiles import PROFILES

SAMPLES, STEPS = 65, 64
TRIANGLE: tuple[ProfileKind, float] = ("trapezoid", 0.5)
"""What a move as fast as it goes is tried as: a triangle of speed."""


class Met(Frozen, eq=False):
    """What a move meets at its drive, sample by sample (k, n), all along the joint's + way: torque = weight + inertia × q″ + square × q′², friction against
    the motion, N·m; the drive goes speed × q′, which grows with speed × q″ + curve × q′²."""

    weight: Array
    inertia: Array | float
    square: Array | float
    friction: Array | float
    speed: Array | float
    curve: Array | float


SHARED = ("weight", "inertia", "square", "friction", "speed", "curve")
"""What is tabled of a drive that shares joints with others, in this order; friction for one newton metre at the joint that moves."""


class Pull(Frozen, eq=False):
    """What a joint alone works against, the others standing still: weight a cos θ + b sin θ + c, N·m about its + axis, and inertia
    kg·m², each (n,); `friction` N·m against the motion. All at the joint, which a drive of `reflected` kg·m² turns through `linkage`; or, of a drive
    that shares joints, all at that drive, in `shared` (6, l, n) by SHARED, at the places of `table`, and `inertia` its largest."""

    a: Array
    b: Array
    c: Array
    inertia: Array
    friction: float
    table: Array | None = None
    low: float = 0.0
    step: float = 1.0
    reflected: float = 0.0
    linkage: Linkage | None = None
    shared: Array | None = None

    def met(self, angle: Array) -> Met:
        """At angles (k, n) rad, without what the drive itself weighs."""
        if self.shared is not None:
            rows = _between(self.shared, angle, self.low, self.step)
            found = dict(zip(SHARED, rows, strict=True))
            return Met(**(found | {"friction": self.friction * np.abs(found["friction"])}))
        through = driven(self.linkage, angle)
        if through is None:
            return Met(self.weight(angle), self.inertia, 0.0, self.friction, 1.0, 0.0)
        gain = through.gain
        return Met(
            self.weight(angle) / gain, self.inertia / gain, 0.0, self.friction / gain, through.speed, through.curve
        )

    def weight(self, angle: Array) -> Array:
        """Holding torque, N·m, at angles (k, n) rad; where others follow, from a table (l, n) at low + step × l rad."""
        out: Array = self.a * np.cos(angle) + self.b * np.sin(angle) + self.c
        table = self.table if self.shared is None else self.shared[0]
        if table is not None:
            out = out + _between(table[None], angle, self.low, self.step)[0]
        return out

    def repeated(self, times: int) -> Pull:
        """The columns one after the other so many times."""
        return joined([self] * times)

    def columns(self, k: NDArray[np.int64]) -> Pull:
        """Some columns k (i,) alone: rad, N·m and kg·m² as they are."""
        table = self.table[:, k] if self.table is not None else None
        shared = self.shared[:, :, k] if self.shared is not None else None
        a, b, c, inertia = (x[k] for x in (self.a, self.b, self.c, self.inertia))
        return replace(self, a=a, b=b, c=c, inertia=inertia, table=table, shared=shared)


def joined(pulls: list[Pull]) -> Pull:
    """The columns of all, N·m and kg·m², one after the other."""
    first = pulls[0]
    a, b, c, inertia = (np.concatenate([getattr(p, n) for p in pulls]) for n in ("a", "b", "c", "inertia"))
    tables = [p.table for p in pulls if p.table is not None]
    shared = [p.shared for p in pulls if p.shared is not None]
    return replace(
        first, a=a, b=b, c=c, inertia=inertia, table=np.concatenate(tables, axis=1) if tables else None,
        shared=np.concatenate(shared, axis=2) if shared else None,
    )  # fmt: skip


def _between(tables: Array, angle: Array, low: float, step: float) -> Array:
    """Values (i, k, n) at angles (k, n) rad of tables (i, l, n) at low + step × l rad, straight between them."""
    at = np.clip((angle - low) / max(step, 1e-12), 0.0, tables.shape[1] - 1.0)
    k = np.minimum(at.astype(int), tables.shape[1] - 2)
    columns = np.arange(angle.shape[-1])
    lower = tables[:, k, columns]
    return np.asarray(lower + (at - k) * (tables[:, k + 1, columns] - lower))


def all_it_has(can: Capability) -> Capability:
    """The same drive, torques N·m, with its stall torque in place of the share in passing: what it can do at all, for the score's times;
    how much of that a drive should use is a verdict of its own."""
    return replace(can, intermittent=can.stall)


def fastest_rate(moving: Array, standing: Array, friction: Array | float, speed: Array, can: Capability) -> Array:
    """How many times faster each sample may go: the largest x ≥ 0, (k, n) or any other shape, with moving x² + standing + friction within what the drive
    has at speed × x, which is never beyond its free speed.

    moving, standing: N·m in the direction of the move (against it: negative); friction N·m, never credited where it would help to
    brake; speed: rad/s ≥ 0. 0 where standing is too much alone.
    """
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        push, brake = can.intermittent - standing - friction, can.intermittent + standing
        capped = np.where(moving > 0, np.sqrt(np.maximum(push, 0.0) / moving), np.inf)
        braked = np.where(moving < 0, np.sqrt(np.maximum(brake, 0.0) / -moving), np.inf)
        slope, room = can.stall * speed / can.free_speed, can.stall - standing - friction
        square = slope * slope + 4.0 * moving * room
        # moving x² + slope x − room ≤ 0; written so that nothing cancels where moving is small
        line = np.where(square < 0, np.inf, 2.0 * room / (slope + np.sqrt(np.maximum(square, 0.0))))
        ends = np.where(speed > 0, can.free_speed / speed, np.inf)
    x = np.fmin(np.fmin(capped, braked), np.fmin(line, ends))
    return np.where((push < 0) | (brake < 0), 0.0, np.maximum(x, 0.0))


def of_profile(pull: Pull, start: Array, distance: Array, kind: ProfileKind, shape: float, can: Capability) -> Array:
    """Least time, s (n,), of moves from start (n,) rad by distance (n,) rad on a profile; inf where no time is long enough."""
    far, asked = np.abs(distance), on_profile(pull, start, distance, kind, shape)
    rate = fastest_rate(asked.moving, asked.standing, asked.friction, asked.speed, can).min(axis=0)
    with np.errstate(divide="ignore"):
        return np.where(far > 1e-12, np.where(rate > 0, 1.0 / rate, np.inf), 0.0)


class Asked(Frozen, eq=False):
    """What moves in one second ask of their drive, sample by sample (k, n), in their own direction: moving, standing, friction N·m, speed rad/s, with the joint at `places` rad. In
    t seconds moving is 1 ÷ t² times that, speed 1 ÷ t times."""

    moving: Array
    standing: Array
    friction: Array | float
    speed: Array
    places: Array


def on_profile(pull: Pull, start: Array, distance: Array, kind: ProfileKind, shape: float) -> Asked:
    """Moves from start (n,) rad by distance (n,) rad on a profile, at their drive. Through a linkage whose ratio changes on the way the drive speeds
    up where the joint does not: u″ = r q″ + r′ q′². A drive that goes the other way is asked in its own."""
    x, v, acc = _sampled(kind, shape)
    way, far = np.where(distance >= 0, 1.0, -1.0), np.abs(distance)
    speed, faster = way * far * v[:, None], way * far * acc[:, None]
    places = start + distance * x[:, None]
    met = pull.met(places)
    goes = np.where(met.speed * way < 0, -1.0, 1.0)
    moving = met.inertia * faster + met.square * speed**2 + pull.reflected * (met.speed * faster + met.curve * speed**2)
    return Asked(goes * moving, goes * met.weight, met.friction, np.abs(met.speed * speed), places)


@lru_cache(maxsize=64)
def _sampled(kind: ProfileKind, shape: float) -> tuple[Array, Array, Array]:
    """Offset, speed and acceleration (k,) of a profile over one unit in one second, both sides of where its acceleration leaps."""
    edges = PROFILES[kind].edges(shape)
    at = np.array([*np.linspace(0.0, 1.0, SAMPLES) * (1 - 1e-9), *(e + d for e in edges for d in (-1e-7, 1e-7))])
    ones = np.ones(len(at))
    return PROFILES[kind].run(at, ones, ones, 0 * ones, shape * ones)


def at_once(pull: Pull, start: Array, distance: Array, can: Capability) -> Array:
    """Least time, s (n,), from rest to rest with all the drive has in passing; inf where it cannot get there. Of a drive that shares joints, which go
    together, as a triangle of speed: a bound from above."""
    if pull.shared is not None:
        return of_profile(pull, start, distance, *TRIANGLE, can)
    way, far = np.where(distance >= 0, 1.0, -1.0), np.abs(distance)
    share = 0.5 - 0.5 * np.cos(np.linspace(0.0, math.pi, STEPS + 1))  # finer at both ends, where it starts and stops
    angle = start + way * far * share[:, None]
    standing, friction = way * pull.weight(angle), pull.friction * np.ones_like(angle)
    step = far * np.diff(share)[:, None]
    inertia = np.maximum(pull.inertia + pull.reflected, 1e-12) * np.ones_like(angle)
    through = driven(pull.linkage, angle)
    if through is not None:  # all along the drive's own way
        standing, friction = standing / through.gain, friction / through.gain
        inertia = np.maximum(pull.inertia / (through.gain * through.speed) + pull.reflected, 1e-12)
        step = 0.5 * (through.speed[:-1] + through.speed[1:]) * step
    push = np.maximum(standing[:-1] + friction[:-1], standing[1:] + friction[1:])
    brake = can.intermittent + np.minimum(standing[:-1], standing[1:])
    gain = 2.0 * step / inertia[1:]  # what one newton metre adds to the square of the speed
    slowed = np.flip(np.cumsum(np.flip(np.maximum(brake, 0.0) * 2.0 * step, 0), axis=0), 0) / inertia[:-1]
    speeds = np.zeros((STEPS + 1, len(start)))
    speeds[1:] = _sped_up(push, gain, can, inertia[:-1] / inertia[1:])
    speeds[:-1] = np.minimum(speeds[:-1], np.sqrt(slowed))
    speeds[STEPS] = 0.0
    mean = 0.5 * (speeds[:-1] + speeds[1:])
    stuck = (push > can.intermittent).any(axis=0) | (brake < 0).any(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        took = np.where(step > 0, step / mean, 0.0).sum(axis=0)
    return np.where(far <= 1e-12, 0.0, np.where(stuck | ~np.isfinite(took), np.inf, took))


def _sped_up(push: Array, gain: Array, can: Capability, kept: Array) -> Array:
    """The speed, rad/s, after each step, from rest, with all there is against `push` (steps, n) N·m; `gain` (steps, n) rad²/s²/(N·m):
    along the straight torque-speed line, the share in passing its cap. `kept` (steps, n): of the speed's square over a step, while inertia changes.

    On the line speed nears its end exponentially, so that no step is too long: the larger of two bounds is never taken. Weight that helps
    never drives it beyond its free speed, as on a profile: otherwise a heavier load, or a weaker drive, would arrive sooner.
    """
    ends = (can.free_speed * np.clip(1.0 - push / can.stall, 0.0, 1.0)) ** 2
    capped = np.maximum(can.intermittent - push, 0.0) * gain
    still, slope = (can.stall - push) * gain, can.stall / can.free_speed * gain
    speed, square = np.zeros(push.shape[1]), np.zeros(push.shape[1])
    out = np.empty_like(push)
    for i in range(len(push)):
        square = square * kept[i]
        most = np.minimum(square + capped[i], ends[i])
        free = square + np.maximum(still[i] - slope[i] * speed, 0.0)
        middle = 0.5 * (speed + np.sqrt(np.minimum(most, free)))
        free = square + np.maximum(still[i] - slope[i] * middle, 0.0)
        square = np.minimum(most, free)
        out[i] = speed = np.sqrt(square)
    return out


def least_time(pull: Pull, start: Array, distance: Array, kind: ProfileKind, shape: float, can: Capability) -> Array:
    """Least time, s (n,), of either law; a kind that takes no time of its own is as fast as it goes."""
    if not DESCRIBED[kind].timed:
        return at_once(pull, start, distance, can)
    return of_profile(pull, start, distance, kind, shape, can)
