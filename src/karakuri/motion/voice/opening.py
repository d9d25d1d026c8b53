"""How far a jaw opens with a voice: an envelope that rises fast and falls slowly, in decibels below the loudest of it, from shut at a threshold to wide open.

One-pole follower, c = e^(−1/(f τ)); attack 5 to 20 ms, release 80 to 200 ms: common practice, no source. What is quicker than a servo jaw's
3 to 4 Hz is left out (common practice); syllables come 4 to 5 a second (Chandrasekaran et al., PLoS Comput. Biol. 5, 2009; from memory).
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.loudness import RATE_HZ, Loudness

LOUDEST_SHARE, LEAST_SWING, FLAT, QUIET_S, PAD_S = 0.98, 0.12, 0.03, 0.08, 0.5


class Manner(Frozen):
    """How a jaw goes with a voice. attack, release in s; threshold in dB below the loudest, at which it is shut; `wide_dB` below the loudest
    it is wide open; content in Hz."""

    attack_s: float = 0.01
    release_s: float = 0.1
    threshold_dB: float = 24.0
    wide_dB: float = 3.0
    content_Hz: float = 4.0


class Turns(Frozen, eq=False):
    """Where a jaw turns round, (n,) each: it is to be there from `begins` to `ends`, s from the sound's beginning (a little before it, and after its end, it is shut), at an opening of 0 (shut) to 1 (wide)."""

    begins: Array
    ends: Array
    opening: Array


@lru_cache(maxsize=256)
def turns_of(loudness: Loudness, manner: Manner) -> Turns:
    """Where a jaw turns round with a sound. Remembered: while a score is edited most ask the same again."""
    return turns(opening(loudness, manner), manner.content_Hz)


def envelope(level: Array, attack_s: float, release_s: float, rate_hz: float = RATE_HZ) -> Array:
    """A one-pole follower of levels (n,) at a rate in Hz: (n,), as loud as they, attack and release in s."""
    rise, fall = (math.exp(-1.0 / (rate_hz * tau)) if tau > 0 else 0.0 for tau in (attack_s, release_s))
    out, now = np.empty(len(level)), 0.0
    for k, wanted in enumerate(level.tolist()):
        now = wanted + (rise if wanted > now else fall) * (now - wanted)
        out[k] = now
    return out


def opening(loudness: Loudness, manner: Manner) -> Array:
    """How far it opens, (n,) from 0 to 1 at RATE_HZ. All of one loudness scaled gives the same: what counts is how far below the loudest of it."""
    followed = envelope(loudness.level, manner.attack_s, manner.release_s)
    loudest = _loudest(loudness.level)
    if loudest <= 0.0:
        return np.zeros(len(followed))
    below = -20.0 * np.log10(np.maximum(followed / loudest, 1e-6))
    span = max(manner.threshold_dB - manner.wide_dB, 1e-6)
    out: Array = np.clip((manner.threshold_dB - below) / span, 0.0, 1.0)
    return out


def _loudest(level: Array) -> float:
    """Which level counts as the loudest, of those that sound at all: one click above the rest does not shut the mouth for all of it."""
    sounding = level[level > level.max(initial=0.0) * 1e-3]
    return float(np.quantile(sounding, LOUDEST_SHARE)) if len(sounding) else 0.0


def turns(share: Array, content_Hz: float) -> Turns:
    """Where an opening (n,) at RATE_HZ turns round, once what is quicker than `content_Hz` is left out; shut where it is quiet."""
    pad = np.zeros(round(PAD_S * RATE_HZ))  # shut before it begins, and after its end
    share = np.concatenate([pad, share, pad])
    smooth = np.clip(_smoothed(share, math.sqrt(math.log(2.0)) / (2.0 * math.pi * content_Hz) * RATE_HZ), 0.0, 1.0)
    smooth = np.where(_quiet(share), 0.0, smooth)
    found = _zigzag(smooth)
    begins, ends = _flat(smooth, found)
    return Turns(begins / RATE_HZ - PAD_S, ends / RATE_HZ - PAD_S, smooth[found])


def _smoothed(share: Array, sigma: float) -> Array:
    """A Gaussian of `sigma` samples over (n,): half the power at its content, no lag; nothing before and after."""
    reach = math.ceil(4 * sigma)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    out: Array = np.convolve(share, kernel / kernel.sum(), mode="full")[reach : reach + len(share)]
    return out


def _quiet(share: Array) -> Array:
    """Where it is shut for some time, (n,) true: a stop between two sounds is shorter."""
    shut = np.concatenate([[0], (share <= 0.0).astype(int), [0]])
    steps = np.diff(shut)
    out: Array = np.zeros(len(share), dtype=bool)
    for a, b in zip(np.flatnonzero(steps == 1).tolist(), np.flatnonzero(steps == -1).tolist(), strict=True):
        if b - a >= QUIET_S * RATE_HZ:
            out[a:b] = True
    return out


def _zigzag(share: Array) -> Array:
    """Indices (m,) where it turns round by LEAST_SWING at least, highs and lows by turns, beginning and ending shut."""
    found, best, way = [0], 0, 1.0
    values = share.tolist()
    for k, value in enumerate(values):
        if (value - values[best]) * way > 0:
            best = k
        elif (values[best] - value) * way >= LEAST_SWING:
            found.append(best)
            best, way = k, -way
    if abs(values[best] - values[found[-1]]) >= LEAST_SWING and best != found[-1]:
        found.append(best)
    if values[found[-1]] > 0.0 and found[-1] != len(values) - 1:
        found.append(len(values) - 1)
    return np.array(found, dtype=np.int64)


def _flat(share: Array, found: Array) -> tuple[Array, Array]:
    """From where to where it is as good as at each turn, indices (m,) each: between the turns before and after."""
    begins, ends = [], []
    for i, k in enumerate(found.tolist()):
        before = int(found[i - 1]) if i else 0
        after = int(found[i + 1]) if i + 1 < len(found) else len(share) - 1
        off = np.abs(share[before : after + 1] - share[k]) > FLAT
        left, right = np.flatnonzero(off[: k - before]), np.flatnonzero(off[k - before :])
        begins.append(before + int(left[-1]) + 1 if len(left) else before if not i else k)
        ends.append(k + int(right[0]) - 1 if len(right) else after if i + 1 == len(found) else k)
    return np.array(begins), np.array(ends)
