"""What the score asks of every drive: torque, speed and heat from fine samples inside each move, page by page.

A page is a few seconds; its result depends on the moves that reach into it and nothing else, so that an edit recomputes a page or two.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.statics import holding_torques_Nm
from karakuri.motion.profiles import BY_CODE, CODES
from karakuri.motion.track import Track
from karakuri.motion.whole import Whole
from karakuri.sizing.least_time import all_it_has, at_once, fastest_rate
from karakuri.sizing.pulls import inertia_of, pull_of

PAGE_S, INSIDE, BIN_S = 2.0, 25, 0.1
HAIR_S = 1e-7
BINS, AT_ONCE = round(PAGE_S / BIN_S), 32
SUDDEN = CODES["sudden"]


@dataclass(frozen=True, eq=False)
class Player:
    """A judged joint over the score: its place in the tree, its channel or −1, what its drive can do (None: no servo), the servo's
    reflected inertia kg·m² and the friction N·m, its own and what of its followers' reaches it."""

    joint: int
    channel: int
    can: Capability | None
    reflected: float
    friction: float


@dataclass(frozen=True, eq=False)
class Share:
    """One joint on one page. Of its moves that reach into the page, in order (r,): largest torque N·m and when s, and the least
    reserve of time given to least time with the speeds asked and left, rad/s, and when. `squared` (p, bins) N²·m²·s a posture and
    tenth of a second; hold, peak (torque, s, posture); top (rad/s, s); effort (bins,) largest torque N·m in each tenth of a second."""

    torque: Array
    torque_at: Array
    reserve: Array
    asked: Array
    left: Array
    reserve_at: Array
    least: Array
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
    motion = _at_drives(tree, players, inverse_dynamics(tree, q, qd, qdd, np.zeros(3)))
    held = np.stack(
        [_at_drives(tree, players, h) for h in holding_torques_Nm(tree, q, (g[:, None] for g in gravities))]
    )
    reflected, friction = (np.array([getattr(p, name) for p in players])[:, None] for name in ("reflected", "friction"))
    motion = motion + reflected * qdd[rows]
    moves = np.abs(qd[rows]) > 1e-9
    total = np.abs(motion + held) + friction * moves
    rate = _rates(players, motion, held, friction, qd[rows])
    sampled = _Sampled(times, np.abs(qd[rows]), np.abs(held), total, total.max(axis=0), rate)
    leaps = _leaps(tree, score, players, gravities, under)
    out, start = [], 0
    for page, here in zip(wanted, each, strict=True):
        part = sampled.cut(start, start + len(here))
        out.append(_shares(players, score, under[page], part, page * PAGE_S, leaps))
        start += len(here)
    return out


def _at_drives(tree: Tree, players: tuple[Player, ...], torque: Array) -> Array:
    """What reaches the players' drives of joint torques (m, k) N·m: their own, and that of what follows them by virtual work."""
    return np.stack(
        [
            sum((gain * torque[i] for i, gain in tree.coupling.loads[p.joint]), np.zeros(torque.shape[1]))
            for p in players
        ]
    )


def _rates(players: tuple[Player, ...], motion: Array, held: Array, friction: Array, speed: Array) -> Array:
    """How many times faster each sample could go, (J, k), in the worst posture: time scaling leaves weight and friction as they are."""
    out = np.full(speed.shape, np.inf)
    for i, player in enumerate(players):
        if player.can is not None:
            # standing still it may turn either way in the next moment: the way the motion is asked, else the way weight pulls
            way = np.where(
                np.abs(speed[i]) > 1e-9, np.sign(speed[i]), np.where(np.abs(motion[i]) > 1e-12, np.sign(motion[i]), 1.0)
            )
            rub = friction[i] * (np.abs(speed[i]) > 1e-9)
            each = fastest_rate(way * motion[i], way * held[:, i], rub, np.abs(speed[i]), all_it_has(player.can))
            out[i] = each.min(axis=0)
    return out


@dataclass(frozen=True, eq=False)
class _Leap:
    """Sudden moves of one player, those under way on some page: what each needs, s (n,), and weighs on its way, N·m (n,); nan elsewhere."""

    least: Array
    weight: Array


def _leaps(
    tree: Tree, score: Whole, players: tuple[Player, ...], gravities: Array, under: dict[int, list[NDArray[np.int64]]]
) -> list[_Leap]:
    """Least times of sudden moves, and of moves that take no time, from where everything else stands when they depart."""
    out = []
    for player in players:
        n = len(score.tracks[player.channel].departs) if player.channel >= 0 else 0
        leap = _Leap(np.full(n, np.nan), np.full(n, np.nan))
        out.append(leap)
        if not n or player.can is None:
            continue
        track = score.tracks[player.channel]
        which = np.unique(
            np.concatenate([rows[player.channel] for rows in under.values()] or [np.zeros(0, dtype=np.int64)])
        )
        which = which[at_once_moves(track)[which]].astype(np.int64)
        if len(which):
            leap.least[which], leap.weight[which] = _leap_times(tree, score, player, gravities, track, which)
    return out


def at_once_moves(track: Track) -> NDArray[np.bool_]:
    """Which moves (n,) go as fast as the servo does: sudden ones, and those that take no time."""
    out: NDArray[np.bool_] = (track.code == SUDDEN) | (track.takes <= 0)
    return out


def _leap_times(
    tree: Tree, score: Whole, player: Player, gravities: Array, track: Track, which: NDArray[np.int64]
) -> tuple[Array, Array]:
    """Least time s and largest weight N·m on the way (k,) of sudden moves, the others standing as at departure."""
    assert player.can is not None
    q, _, _ = score.state(track.departs[which] - HAIR_S)
    gain, offset = score.gain[player.joint], score.offset[player.joint]
    start, distance = gain * track.start[which] + offset, gain * track.distance[which]
    least, weight = np.zeros(len(which)), np.zeros(len(which))
    ends = (float(np.minimum(start, start + distance).min()), float(np.maximum(start, start + distance).max()) + 1e-9)
    inertia = inertia_of(tree, player.joint, q, ends) + player.reflected
    share = np.linspace(0.0, 1.0, 17)[:, None]
    for g in gravities:
        pull = pull_of(tree, player.joint, q, g, inertia, player.friction, ends)
        least = np.maximum(least, at_once(pull, start, distance, all_it_has(player.can)))
        weight = np.maximum(weight, np.abs(pull.weight(start + distance * share)).max(axis=0))
    return least, weight


@dataclass(frozen=True, eq=False)
class _Sampled:
    """Samples of the players, J of them, at times (k,): speed (J, k); held and total (p, J, k); worst, rate (J, k)."""

    times: Array
    speed: Array
    held: Array
    total: Array
    worst: Array
    rate: Array

    def cut(self, a: int, b: int) -> _Sampled:
        return _Sampled(
            self.times[a:b],
            self.speed[:, a:b],
            self.held[:, :, a:b],
            self.total[:, :, a:b],
            self.worst[:, a:b],
            self.rate[:, a:b],
        )


def _span(score: Whole, page: int) -> tuple[float, float]:
    return page * PAGE_S, min((page + 1) * PAGE_S, score.length)


@lru_cache(maxsize=512)
def _inside(track: Track, length: float) -> list[NDArray[np.int64]]:
    """Moves that reach into each page of a score of that length; kept as long as the track is."""
    return [reaching(track, page * PAGE_S, min((page + 1) * PAGE_S, length)) for page in range(pages(length))]


def _times(score: Whole, under: list[NDArray[np.int64]], begin: float, end: float) -> Array:
    """Samples inside each move, both sides of where its acceleration leaps, and the tenths of the page."""
    grid = np.linspace(0.0, 1.0, INSIDE)
    found = [np.arange(begin, end + 1e-9, BIN_S), np.arange(begin + BIN_S, end + 1e-9, BIN_S) - HAIR_S]
    for channel, track, rows in zip(score.channels, score.tracks, under, strict=True):
        if len(rows) and channel.kind == "joint":
            a = track.departs[rows]
            takes = track.takes[rows]
            b = np.where(track.code[rows] == SUDDEN, a, np.minimum(track.ends[rows], a + 30.0))
            found.append((a[:, None] + (b - a)[:, None] * (grid * (1 - 1e-9))).ravel())
            found += [a - HAIR_S, b - HAIR_S, b + HAIR_S]
            for code in set(track.code[rows].tolist()):
                mine = track.code[rows] == code
                for edge in BY_CODE[code].edges(track.shape[rows][mine]):
                    at = a[mine] + edge * takes[mine]
                    found += [at - HAIR_S, at + HAIR_S]
    times = np.unique(np.concatenate(found))
    return times[(times >= begin) & (times <= end)]


def _shares(
    players: tuple[Player, ...],
    score: Whole,
    under: list[NDArray[np.int64]],
    part: _Sampled,
    begin: float,
    leaps: list[_Leap],
) -> tuple[Share, ...]:
    times = part.times
    steps = np.diff(times, append=times[-1:])
    bins = np.minimum(((times - begin) / BIN_S).astype(int), BINS - 1)
    square = part.total**2
    each = np.zeros_like(square)
    each[..., :-1] = 0.5 * (square[..., :-1] + square[..., 1:]) * steps[:-1]
    held = part.held.max(axis=0)
    peaks, holds, tops = part.worst.argmax(axis=1), held.argmax(axis=1), part.speed.argmax(axis=1)
    starts = np.searchsorted(bins, np.arange(BINS))
    some = np.append(np.diff(starts), len(bins) - starts[-1]) > 0
    squared = np.zeros((*each.shape[:2], BINS))
    squared[..., some] = np.add.reduceat(each, starts[some], axis=2)
    out = []
    for i, player in enumerate(players):
        effort = np.zeros(BINS)
        effort[some] = np.maximum.reduceat(part.worst[i], starts[some])
        which = under[player.channel] if player.channel >= 0 else np.zeros(0, dtype=np.int64)
        c = _moves(
            player,
            score.tracks[player.channel],
            which,
            times,
            part.speed[i],
            part.worst[i],
            part.rate[i],
            leaps[i],
            score,
        )
        if player.can is not None and len(which):
            _heat_of_leaps(player.can, score.tracks[player.channel], which, leaps[i], begin, squared[:, i], effort)
        peak, hold, top = int(peaks[i]), int(holds[i]), int(tops[i])
        out.append(Share(
            c[0], c[1], c[2], c[3], c[4], c[5], c[6], squared[:, i],
            (float(held[i, hold]), float(times[hold]), int(part.held[:, i, hold].argmax())),
            (float(part.worst[i, peak]), float(times[peak]), int(part.total[:, i, peak].argmax())),
            (float(part.speed[i, top]), float(times[top])), effort,
        ))  # fmt: skip
    return tuple(out)


def _heat_of_leaps(
    can: Capability, track: Track, which: NDArray[np.int64], leap: _Leap, begin: float, squared: Array, effort: Array
) -> None:
    """A sudden move costs all the servo has while it speeds up and brakes: into squared (p, bins) N²·m²·s and effort (bins,) N·m."""
    for k in which[np.isfinite(leap.least[which])].tolist():
        a, b = float(track.departs[k]), float(track.departs[k] + min(leap.least[k], 10.0))
        for n in range(max(0, int((a - begin) / BIN_S)), min(BINS, int((b - begin) / BIN_S) + 1)):
            inside = min(b, begin + (n + 1) * BIN_S) - max(a, begin + n * BIN_S)
            if inside > 0:
                squared[:, n] += can.stall**2 * inside
                effort[n] = max(effort[n], can.stall)


def _moves(
    player: Player, track: Track, which: NDArray[np.int64], times: Array, speed: Array, worst: Array, rate: Array, leap: _Leap, score: Whole
) -> tuple[Array, Array, Array, Array, Array, Array, Array]:  # fmt: skip
    """For each move (r,): largest torque and when; reserve of time given to least time, speed asked, left and when it is tightest; the
    least time s. A sudden move is given the time it takes, or until the next departs; its torque is the weight on its way, for how hard
    it speeds up is its own choice."""
    n = len(which)
    if n == 0:
        empty = np.zeros(0)
        return empty, empty, empty, empty, empty, empty, empty
    departs, ends = track.departs[which], track.ends[which]
    first = np.minimum(times.searchsorted(departs), len(times) - 1)
    last = np.maximum(times.searchsorted(np.maximum(departs, ends - 1e-12)), first + 1)
    at = np.minimum(first[:, None] + np.arange(int((last - first).max())), last[:, None] - 1)
    rows = np.arange(n)
    torques = worst[at]
    strongest = torques.argmax(axis=1)
    most, most_at = torques[rows, strongest], times[at[rows, strongest]]
    if player.can is None:
        return most, most_at, np.full(n, np.inf), np.zeros(n), np.zeros(n), departs, np.zeros(n)
    tightest = rate[at].argmin(axis=1)
    where = at[rows, tightest]
    reserve, when = rate[where], times[where]
    asked = speed[where]
    remains = np.maximum(player.can.free_speed * (1.0 - worst[where] / player.can.stall), 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        least = np.where(reserve > 0, track.takes[which] / reserve, np.inf)
    sudden = np.isfinite(leap.least[which]) | np.isinf(leap.least[which])
    if sudden.any():
        needs = leap.least[which]
        after = np.append(track.departs[1:], score.length)[which] - departs
        given = np.where(
            track.takes[which] > 0, np.minimum(track.takes[which], np.maximum(after, 0.0)), np.maximum(after, 0.0)
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            own = np.where(needs > 0, given / np.where(needs > 0, needs, 1.0), np.inf)
            mean = np.abs(track.distance[which]) / np.where(given > 0, given, np.inf)
            can_do = np.abs(track.distance[which]) / np.where(needs > 0, needs, np.inf)
        reserve, least = np.where(sudden, own, reserve), np.where(sudden, needs, least)
        asked, remains = np.where(sudden, mean, asked), np.where(sudden, can_do, remains)
        when, most_at = np.where(sudden, departs, when), np.where(sudden, departs, most_at)
        most = np.where(sudden, leap.weight[which] + player.friction, most)
    return most, most_at, reserve, asked, remains, when, least


@dataclass(frozen=True, eq=False)
class Played:
    """One joint over the whole score. Per move (n,) of its channel: torque N·m and when s; reserve of time given to least time, speeds
    asked and left rad/s and when; least time s; `beyond` (n,) rad (m) past the soft band, and when. rms N·m over the worst running
    window, in the worst posture, which begins at rms_at s and is rms_over s long; the rest as in Share."""

    player: Player
    torque: Array
    torque_at: Array
    reserve: Array
    asked: Array
    left: Array
    reserve_at: Array
    least: Array
    beyond: Array
    beyond_at: Array
    rms: float
    rms_at: float
    rms_over: float
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
    window_s: float = 120.0,
    loops: bool = True,
) -> Playing | None:
    """All pages together; `load(pages)` gives their shares, kept ones or new; `stop`, asked now and then, ends it with None.

    bands: the soft band of each player's joint, rad or m. Heat is over the worst window_s s; a score that loops is a ring.
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
            window_s,
            loops,
        )
        for i, player in enumerate(players)
    )
    ends = np.array([track.at(np.array([score.length]))[0][0] - track.park for track in score.tracks])
    return Playing(score, joints, ends)


def _gathered(
    player: Player,
    score: Whole,
    shares: list[Share],
    band: tuple[float, float],
    inside: list[NDArray[np.int64]],
    window_s: float,
    loops: bool,
) -> Played:
    """The pages of one joint together. `inside`: which moves reach into each page now; a kept page knows their order only."""
    n = len(score.tracks[player.channel].departs) if player.channel >= 0 else 0
    torque, torque_at = np.zeros(n), np.zeros(n)
    reserve, asked, left, reserve_at = np.full(n, np.inf), np.zeros(n), np.zeros(n), np.zeros(n)
    least = np.zeros(n)
    for share, k in zip(shares, inside, strict=False):
        if not len(k):
            continue
        more = share.torque > torque[k]
        torque[k[more]], torque_at[k[more]] = share.torque[more], share.torque_at[more]
        less = share.reserve < reserve[k]
        rows = k[less]
        reserve[rows], asked[rows] = share.reserve[less], share.asked[less]
        left[rows], reserve_at[rows], least[rows] = share.left[less], share.reserve_at[less], share.least[less]
    beyond, beyond_at = _beyond(score.tracks[player.channel], band, score.length) if n else (np.zeros(0), np.zeros(0))
    rms, rms_at, rms_over = _worst_window(
        np.concatenate([s.squared for s in shares], axis=1), score.length, window_s, loops
    )
    return Played(
        player, torque, torque_at, reserve, asked, left, reserve_at, least, beyond, beyond_at, rms, rms_at, rms_over,
        max((s.hold for s in shares), key=lambda h: h[0]), max((s.peak for s in shares), key=lambda h: h[0]),
        max((s.top for s in shares), key=lambda h: h[0]), np.concatenate([s.effort for s in shares]),
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
