"""Current over the score: servos by torque and while they turn, lights by their level, sound by its loudness, controllers all the time; added as they come together.

I = I0 + (Ist − I0) T ÷ Ts while it turns, without I0 where it stands: permanent-magnet DC motor theory; I0 as a share of the stall current, from a
first estimate for hobby servos: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.loudness import RATE_HZ, Loudness
from karakuri.model.power import Load
from karakuri.model.score import Score
from karakuri.model.sound import Sound
from karakuri.motion.score_motion import ScoreMotion

TURNING_SHARE, TURNS, LEAST_RUN = 0.08, 1e-3, 0.005
LATER_S = tuple(round(0.1 * k, 1) for k in range(1, 11))
"""So much later a region may be started to part peaks that coincide."""
NEAR, TRIFLE = 0.6, 0.1


class Fed(Frozen, eq=False):
    """What a servo is to the supply: its joint and region, stall current A and torque N·m; torque N·m and speed rad/s, (n,) each, one for each step."""

    joint: str
    region: str
    stall_A: float
    stall_Nm: float
    torque: Array
    speed: Array


class Part(Frozen, eq=False):
    """What one region or one load draws, (n,) A, one for each step."""

    id: str
    name: str
    amps: Array


class Later(Frozen):
    """A region started `later_s` later: the peak is `peak` A then."""

    region: str
    later_s: float
    peak: float


def servo_A(fed: Fed) -> Array:
    """Its current, (n,) A."""
    none = np.where(np.abs(fed.speed) > TURNS, TURNING_SHARE * fed.stall_A, 0.0)
    if fed.stall_Nm <= 0.0:
        return np.full(len(fed.torque), fed.stall_A)
    return none + (fed.stall_A - none) * np.minimum(np.abs(fed.torque) / fed.stall_Nm, 1.0)


def parts_of(
    loads: Sequence[Load], score: Score, motion: ScoreMotion | None, fed: Sequence[Fed], heard: Mapping[str, Loudness],
    sounds: Mapping[str, Sound], step_s: float,
) -> tuple[Part, ...]:  # fmt: skip
    """Each load and each region by itself, what is always on first, in steps of step_s s. `sounds` by id, `heard` by digest."""
    n = max(1, round(score.length_s / step_s))
    times = np.arange(n, dtype=np.float64) * step_s
    out = [
        Part(load.id, load.name, load.amps * _share(load, score, motion, times, heard, sounds))
        for load in sorted(loads, key=lambda load: load.channel is not None)
    ]
    regions: dict[str, Array] = {}
    for each in fed:
        current = regions.setdefault(each.region, np.zeros(n))
        drawn = servo_A(each)[:n]
        current[: len(drawn)] += drawn
        if len(drawn) < n:  # what it holds at the end it goes on holding
            current[len(drawn) :] += drawn[-1] if len(drawn) else 0.0
    return tuple(out) + tuple(Part(region, region, amps) for region, amps in regions.items())


def coinciding(parts: Sequence[Part], k: int) -> tuple[str, ...]:
    """Names of what makes step k a peak, most first: near its own most there, which it is not always, and no trifle of the whole."""
    total = sum(float(part.amps[k]) for part in parts)
    there = []
    for part in parts:
        here, most = float(part.amps[k]), float(part.amps.max())
        if here >= max(NEAR * most, TRIFLE * total) > 0.0 and float(part.amps.min()) < NEAR * most:
            there.append((here, part.name))
    return tuple(name for _, name in sorted(there, reverse=True))


def staggered(parts: Sequence[Part], regions: Sequence[str], step_s: float) -> Later | None:
    """The region that, started a little later, brings the common peak down most, the soonest of those that are as good within 2 %; None where none brings it
    down by 5 %. A first look: what a region must hold changes a little with where the others are."""
    total = np.sum([part.amps for part in parts], axis=0) if parts else np.zeros(1)
    peak, best = float(total.max()), None
    for part in parts:
        if part.id not in regions:
            continue
        for later in LATER_S:
            k = round(later / step_s)
            moved = np.concatenate([np.full(min(k, len(total)), part.amps[0]), part.amps[: max(len(total) - k, 0)]])
            now = float((total - part.amps + moved).max())
            if now < peak * 0.95 and (best is None or now < best.peak * 0.98):
                best = Later(part.id, later, now)
    return best


def unwritten(figure: Figure) -> Iterable[str]:
    """What draws and has no current written: motors that no mains turns, linear actuators, steppers, lights, running motors and voices of the score, and the controller."""
    loads = figure.power.loads if figure.power is not None else ()
    run, lit = {load.runs for load in loads}, {load.channel for load in loads}
    for element in figure.elements:
        motor = element.kind == "actuator" or (element.kind == "motor" and element.sort != "mains")
        if motor and element.id not in run:
            yield element.name
    for drive in figure.drives:
        if drive.actuator.stepper is not None and drive.joint not in run:
            yield f"the stepper of {figure.joint(drive.joint).name}"
    for channel in figure.score.channels:
        if not channel.joints and channel.id not in lit:
            yield channel.name
    if not any(load.kind == "controller" for load in loads):
        yield "its controller"


def _share(
    load: Load, score: Score, motion: ScoreMotion | None, times: Array, heard: Mapping[str, Loudness], sounds: Mapping[str, Sound]
) -> Array:  # fmt: skip
    """How much of all it draws it draws, (n,) 0 to 1: a light by its level, a motor in full while it runs at all, a voice by how loud it is of its loudest, else all the time.

    What was not listened to may be loud all the time; what a motor draws as it starts, or at half its speed, nobody wrote."""
    if load.channel is None:
        return np.ones(len(times))
    if motion is not None:
        for c, channel in enumerate(motion.channels):
            if channel.id == load.channel:
                level = motion.tracks[c].at(times)[0]
                return (np.abs(level) > LEAST_RUN).astype(float) if channel.runs else np.clip(level, 0.0, 1.0)
    out = np.zeros(len(times))
    for voice in score.voices:
        if voice.id != load.channel:
            continue
        for play in voice.plays:
            sound = sounds[play.sound]
            here = (times >= play.at_s) & (times < play.at_s + sound.length_s)
            loudness = heard.get(sound.sha256)
            if loudness is None:
                out[here] = 1.0
                continue
            at = np.clip(((times[here] - play.at_s) * RATE_HZ).astype(int), 0, len(loudness.level) - 1)
            out[here] = np.maximum(out[here], loudness.level[at] / max(float(loudness.level.max()), 1e-9))
    return out
