"""What the score asks of every drive: torque, speed and heat from fine samples inside each move, page by page.

A page is a few seconds; its result depends on the moves that reach into it and nothing else, so that an edit recomputes a page or two.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.actuators.servo import Ability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.statics import holding_torques_Nm
from karakuri.motion.profiles import CODES
from karakuri.motion.track import Track
from karakuri.motion.whole import Whole

PAGE_S, INSIDE, BIN_S = 2.0, 25, 0.1
BINS, AT_ONCE = round(PAGE_S / BIN_S), 32
SUDDEN = CODES["sudden"]


@dataclass(frozen=True, eq=False)
class Player:
    """A judged joint over the score: its place in the tree, its channel or −1, what its drive can do (None: no servo), the servo's
    reflected inertia kg·m² and the joint's friction N·m."""

    joint: int
    channel: int
    can: Ability | None
    reflected: float
    friction: float


@dataclass(frozen=True, eq=False)
class Share:
    """One joint on one page. Of its moves that reach into the page, in order (r,): largest torque N·m and when s, and the least
    speed reserve with the speeds asked and left, rad/s, and when. `squared` (p,) N²·m²·s a posture; hold, peak (torque, s, posture);
    top (rad/s, s); effort (bins,) largest torque N·m in each tenth of a second."""

    torque: Array
    torque_at: Array
    reserve: Array
    asked: Array
    left: Array
    reserve_at: Array
    squared: Array
    hold: tuple[float, float, int]
    peak: tuple[float, float, int]
    top: tuple[float, float]
    effort: Array


def pages(length: float) -> int:
    """How many pages a score of that length, s, has."""
    return max(1, int(np.ceil(length / PAGE_S - 1e-9)))


def reaching(track: Track, begin: float, end: float) -> NDArray[np.int64]:
    """Moves (r,) of a track under way at some time of begin … end, s."""
    first = int(np.searchsorted(track.departs, begin, side="right"))
    last = int(np.searchsorted(track.departs, end, side="left"))
    under = np.arange(max(0, first - 1), last)
    out: NDArray[np.int64] = under[track.ends[under] > begin] if len(under) else under
    return out


def page_key(track: Track, page: int) -> bytes:
    """All that a page takes from one track."""
    begin, end = page * PAGE_S, (page + 1) * PAGE_S
    rows = reaching(track, begin, end)
    k = int(np.searchsorted(track.departs, begin, side="right")) - 1
    stands = track.at(np.array([begin]))[0] if k >= 0 else np.array([track.park])
    parts = [track.departs, track.takes, track.start, track.distance, track.speed, track.shape, track.code]
    return np.concatenate([stands, *(part[rows] for part in parts)]).tobytes()


def page_loads(
    tree: Tree, score: Whole, players: tuple[Player, ...], gravities: Array, wanted: list[int]
) -> list[tuple[Share, ...]]:
    """Loads of every player on each wanted page, all sampled in one go. gravities: (p, 3) m/s², base frame."""
    under = {page: [reaching(track, *_span(score, page)) for track in score.tracks] for page in wanted}
    each = [_times(score, under[page], *_span(score, page)) for page in wanted]
    times = np.concatenate(each)
    q, qd, qdd = score.state(times)
    rows = [player.joint for player in players]
    motion = inverse_dynamics(tree, q, qd, qdd, np.zeros(3))[rows]
    held = holding_torques_Nm(tree, q, (g[:, None] for g in gravities))[:, rows]
    reflected, friction = (np.array([getattr(p, name) for p in players])[:, None] for name in ("reflected", "friction"))
    total = np.abs(motion + reflected * qdd[rows] + held) + friction * (np.abs(qd[rows]) > 1e-9)
    sampled = _Sampled(times, np.abs(qd[rows]), np.abs(held), total, total.max(axis=0))
    out, start = [], 0
    for page, here in zip(wanted, each, strict=True):
        part = sampled.cut(start, start + len(here))
        out.append(_shares(players, score, under[page], part, page * PAGE_S))
        start += len(here)
    return out


@dataclass(frozen=True, eq=False)
class _Sampled:
    """Samples of the players, J of them, at times (k,): speed (J, k); held and total (p, J, k); worst (J, k)."""

    times: Array
    speed: Array
    held: Array
    total: Array
    worst: Array

    def cut(self, a: int, b: int) -> _Sampled:
        return _Sampled(
            self.times[a:b], self.speed[:, a:b], self.held[:, :, a:b], self.total[:, :, a:b], self.worst[:, a:b]
        )


def _span(score: Whole, page: int) -> tuple[float, float]:
    return page * PAGE_S, min((page + 1) * PAGE_S, score.length)


@lru_cache(maxsize=512)
def _inside(track: Track, length: float) -> list[NDArray[np.int64]]:
    """Moves that reach into each page of a score of that length; kept as long as the track is."""
    return [reaching(track, page * PAGE_S, min((page + 1) * PAGE_S, length)) for page in range(pages(length))]


def _times(score: Whole, under: list[NDArray[np.int64]], begin: float, end: float) -> Array:
    """Samples inside each move, ends a hair inside, and the tenths of the page."""
    grid = np.linspace(0.0, 1.0, INSIDE)
    found = [np.arange(begin, end + 1e-9, BIN_S)]
    for channel, track, rows in zip(score.channels, score.tracks, under, strict=True):
        if len(rows) and channel.kind == "joint":
            a = track.departs[rows]
            b = np.where(track.code[rows] == SUDDEN, a, np.minimum(track.ends[rows], track.departs[rows] + 30.0))
            found.append((a[:, None] + (b - a)[:, None] * (grid * (1 - 1e-9))).ravel())
    times = np.unique(np.concatenate(found))
    return times[(times >= begin) & (times <= end)]


def _shares(
    players: tuple[Player, ...], score: Whole, under: list[NDArray[np.int64]], part: _Sampled, begin: float
) -> tuple[Share, ...]:
    times = part.times
    weight = np.gradient(times) if len(times) > 1 else np.ones(1)
    weight[[0, -1]] *= 0.5 if len(times) > 2 else 1.0
    bins = np.minimum(((times - begin) / BIN_S).astype(int), BINS - 1)
    squared = (part.total**2) @ weight
    held = part.held.max(axis=0)
    peaks, holds, tops = part.worst.argmax(axis=1), held.argmax(axis=1), part.speed.argmax(axis=1)
    starts = np.searchsorted(bins, np.arange(BINS))
    some = np.append(np.diff(starts), len(bins) - starts[-1]) > 0
    out = []
    for i, player in enumerate(players):
        effort = np.zeros(BINS)
        effort[some] = np.maximum.reduceat(part.worst[i], starts[some])
        which = under[player.channel] if player.channel >= 0 else np.zeros(0, dtype=np.int64)
        c = _moves(player, score.tracks[player.channel], which, times, part.speed[i], part.worst[i])
        peak, hold, top = int(peaks[i]), int(holds[i]), int(tops[i])
        out.append(Share(
            c[0], c[1], c[2], c[3], c[4], c[5], squared[:, i],
            (float(held[i, hold]), float(times[hold]), int(part.held[:, i, hold].argmax())),
            (float(part.worst[i, peak]), float(times[peak]), int(part.total[:, i, peak].argmax())),
            (float(part.speed[i, top]), float(times[top])), effort,
        ))  # fmt: skip
    return tuple(out)


def _moves(
    player: Player, track: Track, which: NDArray[np.int64], times: Array, speed: Array, worst: Array
) -> tuple[Array, Array, Array, Array, Array, Array]:
    """For each move (r,): largest torque and when; least speed reserve, asked, left and when. A sudden move asks its way in its time.

    Where the torque alone is more than the drive has, no speed is left to speak of: that is told as torque.
    """
    n = len(which)
    if n == 0:
        empty = np.zeros(0)
        return empty, empty, empty, empty, empty, empty
    departs, ends = track.departs[which], track.ends[which]
    first = np.minimum(times.searchsorted(departs), len(times) - 1)
    last = np.maximum(times.searchsorted(np.maximum(departs, ends - 1e-12)), first + 1)
    at = np.minimum(first[:, None] + np.arange(int((last - first).max())), last[:, None] - 1)
    rows = np.arange(n)
    torques = worst[at]
    strongest = torques.argmax(axis=1)
    most, most_at = torques[rows, strongest], times[at[rows, strongest]]
    if player.can is None:
        return most, most_at, np.full(n, np.inf), np.zeros(n), np.zeros(n), departs
    left = player.can.free_speed * (1.0 - torques / player.can.usable)
    share = np.where(left > 0, speed[at] / np.where(left > 0, left, 1.0), 0.0)
    tightest = share.argmax(axis=1)
    used = share[rows, tightest]
    reserve = np.where(used > 1e-9, 1.0 / np.maximum(used, 1e-9), np.inf)
    asked, remains = speed[at[rows, tightest]], np.maximum(left[rows, tightest], 0.0)
    when = times[at[rows, tightest]]
    sudden = track.code[which] == SUDDEN
    if sudden.any():
        takes = track.takes[which]
        rate = np.where(takes > 0, np.abs(track.distance[which]) / np.where(takes > 0, takes, 1.0), 0.0)
        start = np.maximum(left[:, 0], 0.0)
        reserve = np.where(sudden, np.where(rate > 0, start / np.where(rate > 0, rate, 1.0), np.inf), reserve)
        asked, remains, when = (
            np.where(sudden, rate, asked),
            np.where(sudden, start, remains),
            np.where(sudden, departs, when),
        )
    return most, most_at, reserve, asked, remains, when


@dataclass(frozen=True, eq=False)
class Played:
    """One joint over the whole score. Per move (n,) of its channel: torque N·m and when s; speed reserve, asked, left rad/s and when;
    `beyond` (n,) rad (m) past the soft band, and when. rms N·m over all the time in the worst posture; the rest as in Share."""

    player: Player
    torque: Array
    torque_at: Array
    reserve: Array
    asked: Array
    left: Array
    reserve_at: Array
    beyond: Array
    beyond_at: Array
    rms: float
    hold: tuple[float, float, int]
    peak: tuple[float, float, int]
    top: tuple[float, float]
    effort: Array


@dataclass(frozen=True, eq=False)
class Playing:
    """The score over the figure: who plays, and how far each channel is from park at the end, rad, m or share."""

    score: Whole
    joints: tuple[Played, ...]
    strays: Array

    def of(self, joint: int) -> Played | None:
        """What a joint of the tree plays, or None."""
        return next((played for played in self.joints if played.player.joint == joint), None)


def playing(
    score: Whole,
    players: tuple[Player, ...],
    bands: tuple[tuple[float, float], ...],
    load: Callable[[list[int]], list[tuple[Share, ...]]],
    stop: Callable[[], bool] = lambda: False,
) -> Playing | None:
    """All pages together; `load(pages)` gives their shares, kept ones or new; `stop`, asked now and then, ends it with None.

    bands: the soft band of each player's joint, rad or m.
    """  # fmt: skip
    found: list[tuple[Share, ...]] = []
    count = pages(score.length)
    for first in range(0, count, AT_ONCE):
        if stop():
            return None
        found += load(list(range(first, min(first + AT_ONCE, count))))
    inside = [_inside(track, score.length) for track in score.tracks]
    joints = tuple(
        _gathered(
            player,
            score,
            [shares[i] for shares in found],
            bands[i],
            inside[player.channel] if player.channel >= 0 else [],
        )
        for i, player in enumerate(players)
    )
    ends = np.array([track.at(np.array([score.length]))[0][0] - track.park for track in score.tracks])
    return Playing(score, joints, ends)


def _gathered(
    player: Player, score: Whole, shares: list[Share], band: tuple[float, float], inside: list[NDArray[np.int64]]
) -> Played:
    """The pages of one joint together. `inside`: which moves reach into each page now; a kept page knows their order only."""
    n = len(score.tracks[player.channel].departs) if player.channel >= 0 else 0
    torque, torque_at = np.zeros(n), np.zeros(n)
    reserve, asked, left, reserve_at = np.full(n, np.inf), np.zeros(n), np.zeros(n), np.zeros(n)
    for share, k in zip(shares, inside, strict=False):
        if not len(k):
            continue
        more = share.torque > torque[k]
        torque[k[more]], torque_at[k[more]] = share.torque[more], share.torque_at[more]
        less = share.reserve < reserve[k]
        rows = k[less]
        reserve[rows], asked[rows] = share.reserve[less], share.asked[less]
        left[rows], reserve_at[rows] = share.left[less], share.reserve_at[less]
    beyond, beyond_at = _beyond(score.tracks[player.channel], band, score.length) if n else (np.zeros(0), np.zeros(0))
    squared = np.sum([share.squared for share in shares], axis=0)
    return Played(
        player, torque, torque_at, reserve, asked, left, reserve_at, beyond, beyond_at,
        float(np.sqrt(squared.max() / score.length)),
        max((s.hold for s in shares), key=lambda h: h[0]), max((s.peak for s in shares), key=lambda h: h[0]),
        max((s.top for s in shares), key=lambda h: h[0]), np.concatenate([s.effort for s in shares]),
    )  # fmt: skip


@lru_cache(maxsize=256)
def _beyond(track: Track, band: tuple[float, float], length: float) -> tuple[Array, Array]:
    """How far each move goes past the band, and when; moves after the end, and moves that only come back, do not count."""
    grid = np.linspace(0.0, 1.0, INSIDE)
    ends = np.minimum(track.ends, track.departs + np.maximum(track.takes, 1e-6))
    times = track.departs[:, None] + (ends - track.departs)[:, None] * grid
    which = np.repeat(np.arange(len(track.departs)), INSIDE)
    x = track.run(which, times.ravel())[0].reshape(times.shape)
    past = np.maximum(x - band[1], band[0] - x)
    at = np.argmax(past, axis=1)
    rows = np.arange(len(at))
    beyond = np.where(track.departs < length, np.maximum(past[rows, at], 0.0), 0.0)
    return np.where((beyond > 1e-9) & (beyond > past[:, 0] + 1e-9), beyond, 0.0), times[rows, at]
