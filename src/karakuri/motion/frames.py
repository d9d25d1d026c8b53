"""Frames: where every channel is at each tick of a board, drift-free, held inside its soft limits, from park to park.

Frame k is at k ÷ rate, worked out from k alone, so that hours of them never drift.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.motion.track import Track

RATE_HZ, HOME_RAD_PER_S, LEAST_RAD, AT_ONCE = 50.0, np.radians(20.0), np.radians(0.005), 4096


def frame_times(count: int, rate_hz: float = RATE_HZ, first: int = 0) -> Array:
    """Times (n,) s of frames first … first + count − 1."""
    out: Array = np.arange(first, first + count) / rate_hz
    return out


class FrameStream:
    """The frames of a score of `length` s, some thousand at a time, so that a day of them needs no more room than a minute: tracks, limits
    (low, high) and which are no joints and which run (c,), rad, m or share. `count` of them in all, `home_s` s of the way home among them."""

    def __init__(
        self, tracks: tuple[Track, ...], limits: tuple[tuple[float, float], ...], length: float,
        lights: tuple[bool, ...] = (), rate_hz: float = RATE_HZ, runs: tuple[bool, ...] = (),
    ) -> None:  # fmt: skip
        self.rate_hz, self._tracks, self._limits = rate_hz, tracks, limits
        self._score = int(np.floor(length * rate_hz + 1e-9)) + 1
        last, _ = self._held(frame_times(1, rate_hz, self._score - 1))
        self._home = way_home(tracks, last[:, 0], lights, rate_hz, runs)
        self.count = self._score + self._home.shape[1]
        self.home_s = self._home.shape[1] / rate_hz if self._home.size else 0.0

    def __iter__(self) -> Iterator[tuple[Array, Array, NDArray[np.int64]]]:
        """times (n,) s, places (c, n), how many were held at the limits (c,)."""
        for first in range(0, self._score, AT_ONCE):
            times = frame_times(min(AT_ONCE, self._score - first), self.rate_hz, first)
            yield times, *self._held(times)
        if self._home.shape[1]:
            nothing = np.zeros(len(self._tracks), dtype=np.int64)
            yield frame_times(self._home.shape[1], self.rate_hz, self._score), self._home, nothing

    def _held(self, times: Array) -> tuple[Array, NDArray[np.int64]]:
        """Places (c, n) within the limits, and how many were beyond (c,)."""
        places, clamped = np.empty((len(self._tracks), len(times))), np.zeros(len(self._tracks), dtype=np.int64)
        for c, (track, (low, high)) in enumerate(zip(self._tracks, self._limits, strict=True)):
            commanded = track.at(times)[0]
            places[c] = np.clip(commanded, low, high)
            clamped[c] = np.count_nonzero(np.abs(commanded - places[c]) > 1e-9)
        return places, clamped


def way_home(
    tracks: tuple[Track, ...], places: Array, lights: tuple[bool, ...] = (), rate_hz: float = RATE_HZ, runs: tuple[bool, ...] = ()
) -> Array:  # fmt: skip
    """From places (c,) to park, all together, the farthest joint at 20 °/s: places (c, n) at the frames that follow; n may be 0.

    Lights (c,) alone take half a second; what runs (c,) stands still after half a second, however long the others take. places in rad, m or share.
    """
    park = np.array([track.park for track in tracks])
    light = np.array(lights or (False,) * len(tracks), dtype=bool)
    away = np.abs(park - places)
    farthest = away[~light].max(initial=0.0)
    if farthest > LEAST_RAD:
        count = int(np.ceil(farthest / HOME_RAD_PER_S * rate_hz - 5e-4))
    else:
        count = round(rate_hz / 2) if away[light].max(initial=0.0) > LEAST_RAD else 0
    share = np.arange(1, count + 1) / max(count, 1)
    soon = np.minimum(1.0, np.arange(1, count + 1) / min(max(count, 1), round(rate_hz / 2)))
    running = np.array(runs or (False,) * len(tracks), dtype=bool)
    out: Array = places[:, None] + (park - places)[:, None] * np.where(running[:, None], soon, share)
    return out


def followed(commanded: Array, most: float, before: float | None = None) -> Array:
    """One output (n,) µs that follows what is commanded at no more than `most` µs each frame; `before` is where it stood in the frame
    ahead of these, µs, None where these are the first."""
    if before is not None:
        return followed(np.concatenate([[before], commanded]), most)[1:]
    if not np.any(np.abs(np.diff(commanded)) > most):
        return commanded
    out = commanded.copy()
    leaps = np.flatnonzero(np.abs(np.diff(commanded)) > most) + 1
    k = int(leaps[0]) if len(leaps) else len(commanded)
    while k < len(commanded):
        now = out[k - 1] + min(max(commanded[k] - out[k - 1], -most), most)
        out[k] = now
        k += 1
        if now == commanded[k - 1]:  # with it again: on to the next leap
            later = leaps[leaps >= k]
            k = int(later[0]) if len(later) else len(commanded)
    return out
