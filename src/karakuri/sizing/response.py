"""What a servo does of what it is asked: it follows until it is asked more speed than it has, then goes as fast as it can.

An estimate: a rate limit by the torque-speed line at the torque of that moment; no lag, no overshoot, no play.
"""

from __future__ import annotations

import numpy as np

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.motion.track import Track
from karakuri.sizing.page import BIN_S
from karakuri.sizing.score_loads import JointLoad

STEP_S, LONGEST_S = 0.005, 5.0


def response(
    track: Track, load: JointLoad, can: Capability, length: float, within: tuple[float, float] = (-np.inf, np.inf)
) -> list[tuple[Array, Array]]:
    """Stretches of time (k,) s with position (k,) rad where the servo is behind what is asked; empty where it is not.

    `within`: only moves that depart between these times, s, or up to the longest chase before them.
    """
    leaps = track.at_once & (np.abs(track.distance) > 0)
    late = np.flatnonzero(
        ((load.moves.reserve < 1.0) | leaps) & (track.departs >= within[0] - LONGEST_S) & (track.departs <= within[1])
    )
    out: list[tuple[Array, Array]] = []
    done = -1.0
    for k in late:
        begin = float(track.departs[k])
        if begin < done or begin >= length:
            continue
        times, places, behind = (
            _leap(track, load, int(k), length) if leaps[k] else _chase(track, load, can, begin, length)
        )
        if behind:
            out.append((times, places))
            done = float(times[-1])
    return out


def _leap(track: Track, load: JointLoad, k: int, length: float) -> tuple[Array, Array, bool]:
    """A sudden move, there its least time after it left; drawn with the ease that speeding up and braking give it."""
    begin, takes = float(track.departs[k]), float(min(load.moves.least[k], LONGEST_S))
    end = min(begin + takes, length)
    if end <= begin:
        return np.array([begin]), np.array([track.start[k]]), False
    times = np.linspace(begin, end, max(3, int((end - begin) / STEP_S)))
    share = 0.5 - 0.5 * np.cos(np.pi * (times - begin) / takes)
    return times, track.start[k] + track.distance[k] * share, True


def _chase(track: Track, load: JointLoad, can: Capability, begin: float, length: float) -> tuple[Array, Array, bool]:
    """Step by step from the departure until the servo has caught up with what is asked and stays with it; whether it was behind."""
    times = np.arange(begin, min(begin + LONGEST_S, length) + STEP_S, STEP_S)
    commanded = track.at(times)[0]
    before = track.at(np.array([begin - 1e-6]))[0][0]
    bins = np.clip((times / BIN_S).astype(int), 0, len(load.effort) - 1)
    reach = np.maximum(can.free_speed * (1.0 - load.effort[bins] / can.stall), 0.0) * STEP_S
    places, now, behind = np.empty(len(times)), before, False
    for i in range(len(times)):
        step = commanded[i] - now
        if abs(step) <= reach[i] + 1e-12:
            now = commanded[i]
            if behind and i > 2:
                places[i] = now
                return times[: i + 1], places[: i + 1], True
        else:
            now, behind = now + (reach[i] if step > 0 else -reach[i]), True
        places[i] = now
    return times, places, behind


def late_s(track: Track, load: JointLoad, can: Capability, k: int, length: float) -> float:
    """How much later than asked move k arrives, s, an estimate."""
    times, _, behind = _chase(track, load, can, float(track.departs[k]), length)
    return max(0.0, float(times[-1] - (track.departs[k] + track.takes[k]))) if behind else 0.0
