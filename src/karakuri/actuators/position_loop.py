"""A position loop that turns a load through gears that give and have play: what it does after it is told to move.

Two inertias, motor and gears (as seen at the output) and load, with a spring of both sides' give and the play between them. The motor gives
T = stall × (u − ω ÷ free speed): the straight torque-speed line, both ways, so that it brakes where u is 0 (Hughes, Electric Motors and Drives,
ch. 3, from memory). A hobby servo's u grows from 0 at the rim of its dead band to full at `band` beyond it (common practice, no source); a
loop of one's own switches u full on for a while and off for a while, outside its dead zone. The sensor sits where the gears' give ends and the
horn's begins. In the linear case, stiff gears: a second-order system with ω² = stall ÷ band ÷ J and 2 ζ ω = stall ÷ free speed ÷ J
(Ogata, Modern Control Engineering). Between two looks at the regions every stretch is linear and stepped exactly, by exponentials.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen

STEPS_S = (1e-3, 2e-3)
"""A step: the longer where it swings slowly."""
QUICK_HZ = 10.0
FRAME_S = 0.02
REST_S = 0.08
"""At rest where nothing moved for so long."""
STILL, DIES = 1e-4, 0.9
"""What lost a tenth of its swing from one second to the next dies away."""
LONGEST_S = 3.0
LEAST_SHARE = 1e-3
"""An inertia of nothing beside another counts as this share of it."""


class Pulsed(Frozen):
    """Full on for `on` s, off for `off` s, while the sensor shows more than `dead` rad away; a count of the sensor is `count` rad, and it
    flickers by one."""

    on: float
    off: float
    dead: float
    count: float


class Train(Frozen):
    """stall N·m, free rad/s; motor and load kg·m²; stiff N·m/rad of all that gives; `outside`: the share of the give that lies beyond the
    sensor; play rad, whole; dead rad, half of the dead band; band rad; rubs N·m at the motor and at the load; `pulls` N·m on the load; `loss`: how
    the give damps what swings on it, as a ζ."""

    stall: float
    free: float
    motor: float
    load: float
    stiff: float
    outside: float
    play: float
    dead: float
    band: float
    rubs_motor: float = 0.0
    rubs_load: float = 0.0
    pulls: float = 0.0
    loss: float = 0.0
    pulsed: Pulsed | None = None

    @property
    def natural_Hz(self) -> float:
        """Swings a second of motor and load together on the loop's stiffness, with the horn's give behind it: an estimate."""
        loop = self.stall / self.band
        k = 1.0 / (1.0 / loop + self.outside / self.stiff)
        return math.sqrt(k / (self.motor + self.load)) / (2 * math.pi)

    @property
    def damping(self) -> float:
        """ζ of the same: below 1 it runs past."""
        return self.stall / self.free / (2 * math.sqrt(self.stall / self.band * (self.motor + self.load)))


class Answer(Frozen, eq=False):
    """places (n,) rad: where the load is, each `step` s, from where it stood; `way` ±1 it was sent; `ends` rad where it comes to rest, or about
    what it swings; `rests` or not, and if not whether it `dies` away; `swing` rad, end to end, of what goes on at the end; `starts` a second of its motor then; `top` rad/s."""

    places: Array
    step: float
    way: float
    ends: float
    rests: bool
    dies: bool
    swing: float
    starts: float
    top: float

    @property
    def past(self) -> float:
        """How far it runs beyond where it comes to rest, rad."""
        return max(float((self.way * (self.places - self.ends)).max()), 0.0)

    def rested(self, within: float) -> float:
        """From when it stays within so many rad of where it comes to rest, s; infinity where it never does."""
        if not self.rests:
            return math.inf
        outside = np.flatnonzero(np.abs(self.places - self.ends) > within)
        return float(outside[-1] + 1) * self.step if len(outside) else 0.0


def answer(train: Train, told: Array, longest: float = LONGEST_S) -> Answer:
    """From rest where it is told 0 rad, told (k,) rad frame by frame, the last for good; until it rests, or `longest` s after the last.

    What its weight makes it sag by at rest is no movement: places count from there."""
    dt = step_of(train)
    per, (m, load) = round(FRAME_S / dt), _inertias(train)
    half, k, out = train.play / 2, train.stiff, train.outside
    gain, brake = train.stall / train.band, train.stall / train.free
    damps = 2 * train.loss * math.sqrt(k * load)
    rub_m, rub_l, pulls = train.rubs_motor, train.rubs_load, train.pulls
    x0, x1, x2, x3 = _at_rest(train)
    begin, last_frame = x2, max(len(told) - 1, 0) * per
    hand = _Hand(train.pulsed, dt)
    swing = max(REST_S, 0.6 / train.natural_Hz)  # at the turn of a slow swing it stands for a while too
    rest_steps = round((swing if train.pulsed is None else max(REST_S, 3 * (train.pulsed.on + train.pulsed.off))) / dt)
    most = last_frame + round(longest / dt)
    targets = [float(value) for value in told] or [0.0]
    stretches: dict[int, tuple[float, ...]] = {}
    places, starts = [x2], []
    moved, top, was_on, rests = 0, 0.0, False, False
    for n in range(most):
        target = targets[min(n // per, len(targets) - 1)]
        twist = x0 - x2
        touching = twist > half or twist < -half
        gap = math.copysign(half, twist) if touching else 0.0
        spring = k * (twist - gap) if touching else 0.0
        off = target - x2 - (out * (twist - gap) if touching else 0.0)
        linear, push = False, 0.0
        if train.pulsed is not None:
            push = train.stall * hand.turns(off)
            drives = push
        else:
            beyond = abs(off) - train.dead
            if beyond >= train.band:
                drives = push = math.copysign(train.stall, off)
            elif beyond > 0:
                linear, drives = True, math.copysign(gain * beyond, off)
                push = gain * (target - math.copysign(train.dead, off) + out * gap)
            else:
                drives = 0.0
        to_motor, to_load = drives - spring - brake * x1, spring + pulls
        stuck_m = abs(x1) < 1e-9 and abs(to_motor) <= rub_m
        stuck_l = abs(x3) < 1e-9 and abs(to_load) <= rub_l
        way_m, way_l = math.copysign(1.0, x1 or to_motor), math.copysign(1.0, x3 or to_load)
        bm = 0.0 if stuck_m else (push + k * gap * touching - rub_m * way_m) / m
        bl = 0.0 if stuck_l else (pulls - k * gap * touching - rub_l * way_l) / load
        which = linear + 2 * touching + 4 * stuck_m + 8 * stuck_l
        step = stretches.get(which)
        if step is None:
            step = stretches[which] = _stretch(
                brake, k, damps, gain * linear, out, m, load, touching, stuck_m, stuck_l, dt
            )
        (a0, a1, a2, a3, a4, a5, b0, b1, b2, b3, b4, b5, c0, c1, c2, c3, c4, c5, d0, d1, d2, d3, d4, d5) = step
        x0, x1, x2, x3 = (
            a0 * x0 + a1 * x1 + a2 * x2 + a3 * x3 + a4 * bm + a5 * bl,
            b0 * x0 + b1 * x1 + b2 * x2 + b3 * x3 + b4 * bm + b5 * bl,
            c0 * x0 + c1 * x1 + c2 * x2 + c3 * x3 + c4 * bm + c5 * bl,
            d0 * x0 + d1 * x1 + d2 * x2 + d3 * x3 + d4 * bm + d5 * bl,
        )  # fmt: skip
        if stuck_m or (rub_m > 0 and x1 * way_m < 0):  # it stood, or came to a stand within the step
            x1 = 0.0
        if stuck_l or (rub_l > 0 and x3 * way_l < 0):
            x3 = 0.0
        places.append(x2)
        top = max(top, x3, -x3)
        on = drives != 0.0
        if on and not was_on:
            starts.append(n)
        was_on = on
        if abs(x2 - places[moved]) > STILL or (on and train.pulsed is not None):
            moved = n + 1
        if n >= last_frame and ((stuck_m and stuck_l and train.pulsed is None) or n + 1 - moved >= rest_steps):
            rests = True
            break
    return _told(np.array(places) - begin, float(targets[-1]), rests, starts, top, dt)


def step_of(train: Train) -> float:
    """How long a step may be, s: both go into a frame."""
    return STEPS_S[0] if train.natural_Hz > QUICK_HZ or train.pulsed is not None else STEPS_S[1]


def _told(places: Array, target: float, rests: bool, starts: list[int], top: float, dt: float) -> Answer:
    tail = places[-round(1.0 / dt) :]
    ends = float(places[-1]) if rests else float(tail.mean())
    late = sum(1 for n in starts if n >= len(places) - len(tail))
    swing = 0.0 if rests else float(np.ptp(tail))
    earlier = places[-round(2.0 / dt) : -round(1.0 / dt)]
    dies = rests or (len(earlier) > 0 and swing < DIES * float(np.ptp(earlier)))
    return Answer(
        places,
        dt,
        1.0 if target >= 0 else -1.0,
        ends,
        rests,
        dies,
        swing,
        0.0 if rests else late / (len(tail) * dt),
        top,
    )


class _Hand:
    """A loop of one's own, step by step: a look at the sensor, a pulse one way, a pause, the next look."""

    def __init__(self, pulsed: Pulsed | None, dt: float) -> None:
        self.dt, self.pulsed, self.left, self.way, self.seed = dt, pulsed, 0, 0.0, 1

    def turns(self, off: float) -> float:
        """Full on one way (1), the other (−1), or off (0); off rad from where it is to be."""
        pulsed = self.pulsed
        assert pulsed is not None
        pause = max(round(pulsed.off / self.dt), 0)
        if self.left <= 0:
            self.seed = (self.seed * 1103515245 + 12345) % 2**31
            shown = (round(off / pulsed.count) + (self.seed >> 16) % 3 - 1) * pulsed.count
            if abs(shown) <= pulsed.dead:
                return 0.0
            self.way, self.left = math.copysign(1.0, shown), max(round(pulsed.on / self.dt), 1) + pause
        self.left -= 1
        return self.way if self.left >= pause else 0.0


def _inertias(train: Train) -> tuple[float, float]:
    """Motor's and load's, kg·m², none of them nothing."""
    most = max(train.motor, train.load, 1e-12)
    return max(train.motor, LEAST_SHARE * most), max(train.load, LEAST_SHARE * most)


def _at_rest(train: Train) -> tuple[float, float, float, float]:
    """θm, ωm, θl, ωl at rest where it is told 0 rad: what pulls winds up what gives, and a hobby servo stands off by what it needs to hold."""
    held = -train.pulls
    side, wound = (math.copysign(1.0, held) if held else 0.0), held / train.stiff
    off = 0.0 if train.pulsed is not None else side * train.dead + held * train.band / train.stall
    place = -off - train.outside * wound
    return place + side * train.play / 2 + wound, 0.0, place, 0.0


@lru_cache(maxsize=4096)
def _stretch(
    brake: float, stiff: float, damps: float, gain: float, outside: float, m: float, load: float, touching: bool, stuck_m: bool, stuck_l: bool, dt: float
) -> tuple[float, ...]:  # fmt: skip
    """Rows of (Φ | Γ), (4, 6) one after the other: x = (θm, ωm, θl, ωl) after dt s, of x before and of constant accelerations of motor and
    load beside. gain N·m/rad of the loop, 0 where it is not in its band."""
    a = np.zeros((6, 6))
    a[0, 1] = a[2, 3] = a[1, 4] = a[3, 5] = 1.0
    a[1, 1] = -brake / m
    if touching:
        a[1, :4] += np.array([-stiff, -damps, stiff, damps]) / m
        a[3, :4] += np.array([stiff, damps, -stiff, -damps]) / load
    share = outside if touching else 0.0
    a[1, [0, 2]] -= gain / m * np.array([share, 1.0 - share])
    if stuck_m:
        a[:2] = 0.0
    if stuck_l:
        a[2:4] = 0.0
    return tuple(exponential(a * dt)[:4].ravel().tolist())


def exponential(a: Array) -> Array:
    """e to a small matrix (n, n): Taylor's series of a part of it, squared; a tenth of the time that a library for large ones takes."""
    halvings = max(0, math.ceil(math.log2(max(float(np.abs(a).sum(axis=1).max()), 1e-12))) + 3)
    part = a / 2.0**halvings
    out, term = np.eye(len(a)) + part, part
    for k in range(2, 11):
        term = term @ part / k
        out = out + term
    for _ in range(halvings):
        out = out @ out
    return out
