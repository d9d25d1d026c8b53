"""How the moves of a score end: what runs past and rings, by the same train as a joint's wanted move."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import cast

import numpy as np

from karakuri.actuators.position_loop import FRAME_S, Train, answer
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.profiles import ProfileKind
from karakuri.motion.profiles import BY_CODE, PROFILES
from karakuri.motion.track import THERE, Track
from karakuri.sizing.shaking import Shaking, Told

MOST, EACH = 24, 4
"""So many of a joint's moves are tried, the most sudden first; so many steps lie between two places that are kept to be drawn."""
WORTH = 0.3
"""A joint that runs past by less than this share of what is seen, after its wanted move, rings nowhere that anybody sees."""
ROUNDED = 4


class Rung(Frozen, eq=False):
    """Move k of a channel: joint by its number; `past` rad beyond where it comes to rest, seen from `visible` rad on; times (n,) s of the
    score and places (n,) rad as the track counts, from its departure until it rests or the next move departs."""

    k: int
    joint: int
    at: float
    past: float
    visible: float
    times: Array
    places: Array

    @property
    def reserve(self) -> float:
        """What is not seen ÷ what it runs past."""
        return self.visible / self.past if self.past > 1e-12 else math.inf


def rings(track: Track, joint: int, gain: float, found: Shaking, length: float) -> tuple[Rung, ...]:
    """The moves of a track that a joint makes, gain × the track, with the train that its wanted move was found worst with; s of
    the score up to its length. Empty where that hardly runs past."""
    if found.past < WORTH * found.visible or found.train.pulsed is not None:
        return ()
    way = np.abs(track.distance)
    sudden = np.where(way > 0, way / np.maximum(track.takes, 0.02) ** 2, 0.0)
    order = [int(k) for k in np.argsort(-sudden, kind="stable")[:MOST] if sudden[k] > 0 and track.departs[k] < length]
    return tuple(_one(track, k, joint, gain, found, length) for k in sorted(order))


def _one(track: Track, k: int, joint: int, gain: float, found: Shaking, length: float) -> Rung:
    begin = float(track.departs[k])
    until = min(float(track.departs[k + 1]) if k + 1 < len(track.departs) else math.inf, length)
    by = gain * float(track.distance[k])
    kind = cast("ProfileKind", BY_CODE[int(track.code[k])].name)
    told = Told(round(by, ROUNDED), round(float(track.takes[k]), ROUNDED), kind, float(track.shape[k]))
    step, ends, way, places = _run(found.train, told)
    many = min(len(places), max(2, math.ceil((until - begin) / step)))
    past = max(0.0, float((way * (places[:many] - ends)).max()))  # what the next move cuts off is not seen
    times, shown = begin + step * np.arange(float(many)), float(track.start[k]) + places[:many] / (gain or 1.0)
    return Rung(k, joint, begin, past, found.visible, times, shown)


def _frames(told: Told) -> Array:
    """Frame by frame, (k,) rad: also of what follows its target, which is never quite there."""
    if told.kind != "following":
        return told.frames()
    n = math.ceil(max(told.time, THERE * told.shape) / FRAME_S)
    t, one = np.arange(1.0, n + 1) * FRAME_S, np.ones(n)
    at: Array = PROFILES["following"].run(t, one * told.time, one * told.by, 0.0 * one, one * told.shape)[0]
    return at


@lru_cache(maxsize=2048)
def _run(train: Train, told: Told) -> tuple[float, float, float, Array]:
    """A step, s; where it comes to rest, rad; ±1 which way it is sent; places (n,) rad from where it stood. Kept: moves of a score are much
    alike."""
    found = answer(train, _frames(told))
    return found.step * EACH, found.ends, found.way, found.places[::EACH].copy()
