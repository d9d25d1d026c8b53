"""The pages of a score together: what it asks of each judged joint over all its length."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.motion.score_motion import ScoreMotion
from karakuri.motion.track import Track
from karakuri.sizing.move_loads import MoveLoads
from karakuri.sizing.page import BIN_S, INSIDE, PageLoad, ScoredJoint, spans


class JointLoad(Frozen, eq=False):
    """One joint over the whole score: its moves; `beyond` (n,) rad (m) how far each goes past the soft limits, and when. rms N·m over the
    worst running window, in the worst posture, which begins at rms_at s and is rms_over s long; the rest as in PageLoad."""

    joint: ScoredJoint
    moves: MoveLoads
    beyond: Array
    beyond_at: Array
    rms: float
    rms_at: float
    rms_over: float
    hold: tuple[float, float, int]
    peak: tuple[float, float, int]
    top: tuple[float, float]
    borne: tuple[float, float]
    effort: Array
    samples: NDArray[np.float32]

    @property
    def least_reserve(self) -> float:
        """Of all its moves; infinity where there is none."""
        return float(np.min(self.moves.reserve, initial=np.inf))


class ScoreLoads(Frozen, eq=False):
    """The score over the figure: what each judged joint is asked, and how far each channel is from park at the end, rad, m or share."""

    motion: ScoreMotion
    joints: tuple[JointLoad, ...]
    strays: Array

    def of(self, joint: int) -> JointLoad | None:
        """What a joint of the tree is asked, or None."""
        return next((load for load in self.joints if load.joint.joint == joint), None)

    def of_channel(self, channel_id: str) -> tuple[JointLoad, ...]:
        """Those of its joints that have a servo; the one that lags most first."""
        at = {c for c, channel in enumerate(self.motion.channels) if channel.id == channel_id}
        found = [load for load in self.joints if load.joint.channel in at and load.joint.can is not None]
        return tuple(sorted(found, key=lambda load: load.least_reserve))


def effort_share(loads: tuple[JointLoad, ...]) -> Array | None:
    """The ratio of torque to what may be held for long, (n,) for n bins, of the joint that uses most in each; None where nothing is judged."""
    shares = [load.effort / load.joint.can.continuous for load in loads if load.joint.can is not None]
    return np.maximum.reduce(shares) if shares else None


def score_loads(
    motion: ScoreMotion, joints: tuple[ScoredJoint, ...], limits: tuple[tuple[float, float], ...], found: list[tuple[PageLoad, ...]],
    window_s: float = 120.0, loops: bool = True,
) -> ScoreLoads:  # fmt: skip
    """All pages `found` of a score together. limits: the soft limits of each judged joint, rad or m. Heat is over the worst window_s s;
    a score that loops is a ring."""
    loads = []
    for i, joint in enumerate(joints):
        reach = _reaching(motion.tracks[joint.channel], motion.length) if joint.channel >= 0 else []
        loads.append(_gathered(joint, motion, [each[i] for each in found], limits[i], reach, window_s, loops))
    ends = np.array([track.at(np.array([motion.length]))[0][0] - track.park for track in motion.tracks])
    return ScoreLoads(motion, tuple(loads), ends)


@lru_cache(maxsize=512)
def _reaching(track: Track, length: float) -> list[NDArray[np.int64]]:
    """Moves that reach into each page of a score of that length; kept as long as the track is."""
    return [track.reaching(begin, end) for begin, end in spans(length)]


def _gathered(
    joint: ScoredJoint, motion: ScoreMotion, pages: list[PageLoad], limits: tuple[float, float], reach: list[NDArray[np.int64]],
    window_s: float, loops: bool,
) -> JointLoad:  # fmt: skip
    """The pages of one joint together. `reach`: which moves reach into each page now; a kept page knows their order only."""
    n = len(motion.tracks[joint.channel].departs) if joint.channel >= 0 else 0
    moves = MoveLoads.of_nothing(n)
    for page, k in zip(pages, reach, strict=False):
        moves.take(k, page.moves)
    beyond, beyond_at = (
        _beyond(motion.tracks[joint.channel], limits, motion.length) if n else (np.zeros(0), np.zeros(0))
    )
    squared = np.concatenate([page.squared for page in pages], axis=1)
    rms, rms_at, rms_over = _worst_window(squared, motion.length, window_s, loops)
    return JointLoad(
        joint=joint, moves=moves, beyond=beyond, beyond_at=beyond_at, rms=rms, rms_at=rms_at, rms_over=rms_over,
        hold=max((page.hold for page in pages), key=lambda h: h[0]), peak=max((page.peak for page in pages), key=lambda h: h[0]),
        top=max((page.top for page in pages), key=lambda h: h[0]), borne=max((page.borne for page in pages), key=lambda h: h[0]), effort=np.concatenate([page.effort for page in pages]),
        samples=np.concatenate([page.samples for page in pages], axis=1),
    )  # fmt: skip


def _worst_window(squared: Array, length: float, window_s: float, loops: bool) -> tuple[float, float, float]:
    """Root mean square, N·m, of the worst running window over squared (p, bins) N²·m²·s; when it begins and how long it is, s.

    A score shorter than the window is averaged over its own length: played over and over, that is what any window gives.
    """
    count = math.ceil(length / BIN_S - 1e-9)
    wide = round(window_s / BIN_S)
    squared = squared[:, :count]
    if wide >= count:
        return float(np.sqrt(squared.sum(axis=1).max() / length)), 0.0, length
    ring = np.concatenate([squared, squared[:, : wide if loops else 0]], axis=1)
    sums = np.concatenate([np.zeros((len(ring), 1)), np.cumsum(ring, axis=1)], axis=1)
    each = sums[:, wide:] - sums[:, :-wide]
    k = int(each.max(axis=0).argmax())
    return float(np.sqrt(max(each[:, k].max(), 0.0) / (wide * BIN_S))), k * BIN_S, wide * BIN_S


@lru_cache(maxsize=256)
def _beyond(track: Track, limits: tuple[float, float], length: float) -> tuple[Array, Array]:
    """How far each move goes past the soft limits, and when; moves after the end, and moves that only come back, do not count."""
    grid = np.linspace(0.0, 1.0, INSIDE)
    ends = np.minimum(track.ends, track.departs + np.maximum(track.takes, 1e-6))
    times = track.departs[:, None] + (ends - track.departs)[:, None] * grid
    which = np.repeat(np.arange(len(track.departs)), INSIDE)
    x = track.run(which, times.ravel())[0].reshape(times.shape)
    past = np.maximum(x - limits[1], limits[0] - x)
    at = np.argmax(past, axis=1)
    rows = np.arange(len(at))
    beyond = np.where(track.departs < length, np.maximum(past[rows, at], 0.0), 0.0)
    return np.where((beyond > 1e-9) & (beyond > past[:, 0] + 1e-9), beyond, 0.0), times[rows, at]
