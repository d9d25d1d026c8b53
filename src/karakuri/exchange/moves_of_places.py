"""Moves that follow places given at many times, such as frames: as few as were meant, with the speed and effort they were meant with.

A stretch of motion between rests is, where it can be, the one move of a known profile that runs through it; where it is not, a run of
trapezoids, each broken off by the next while its ramp ends: speed is then straight between knots and position a quadratic spline (de Boor,
A Practical Guide to Splines, 1978, from memory), so that no corner asks for more than the places did.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.model.channel import JointChannel
from karakuri.model.moves import Moves, Row, moves_of
from karakuri.model.profiles import RAMP
from karakuri.motion.profiles import PROFILES
from karakuri.motion.track import build_track

STILL, SHAPES, CLOSE = 0.0012, (0.1, 0.2, 0.25, 1 / 3, 0.4, 0.5), 0.05
KINDS = (("minimum jerk", 0.0), ("cosine", 0.0), *(("trapezoid", shape) for shape in SHAPES))
LEAP_FRAMES, MOST_FITTED, PIECE, RAMP_S = 1, 4000, 200, 0.02
WAYS = np.array(((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1), (1, -1), (-1, 1), (1, 1), (-1, -1)))
LAGS, LEAST_LAG, MOST_LAGGED, MOST_TRIED = tuple(0.04 * 1.04**k for k in range(90)), 6, 400, 120


def _nobody(share: float) -> None:
    return None


def moves_that_follow(
    times: Array, places: Array, park: float, tolerance: float, went: Callable[[float], None] = _nobody
) -> tuple[Moves, float]:
    """The moves, and how far off the places (n,) they are at times (n,) s, at most: within `tolerance` but for leaps between two times.
    `went` is told how far it is, 0 to 1.

    places, park and tolerance in a channel's own unit: degrees, mm or percent.
    """
    first: list[Row] = []
    if abs(places[0] - park) > 1e-3:
        first.append(Row(0.0, max(round(float(times[0]), 3), 0.0), round(float(places[0]), 3), "minimum jerk"))
    found: list[tuple[float, Moves]] = []
    for way in (_stretch, _cornered):
        rows = list(first)
        for a, b in _stretches(places):
            went(b / len(places))
            rows += way(times, places, a, b, tolerance)
        rows = _in_order(rows)
        found.append((_off(rows, times, places, park), moves_of(rows)))
        if found[-1][0] <= tolerance:
            break
    off, moves = min(found, key=lambda each: each[0])
    return moves, off


def _stretches(places: Array) -> list[tuple[int, int]]:
    """From where to where it moves: it stands at both ends."""
    moving = np.abs(np.diff(places)) > STILL
    edges = np.flatnonzero(np.diff(np.concatenate([[False], moving, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _between_turns(places: Array, a: int, b: int) -> list[tuple[int, int]]:
    """A stretch cut where it turns back: one move ended there and another began."""
    way = np.sign(np.diff(places[a : b + 1]))
    turns = np.flatnonzero(np.diff(way)) + a + 1
    ends = [a, *(int(t) for t in turns), b]
    return [(c, d) for c, d in pairwise(ends) if d > c]


def _stretch(times: Array, places: Array, a: int, b: int, tolerance: float) -> list[Row]:
    """A stretch as a leap, as moves of known profiles, as a spline, or, where it is not smooth, from corner to corner."""
    if b - a <= LEAP_FRAMES:
        return [Row(round(float(times[b]), 3), 0.0, round(float(places[b]), 3), "sudden")]
    if b - a > MOST_FITTED:
        return _cornered(times, places, a, b, tolerance)
    rows: list[Row] = []
    for c, d in _between_turns(places, a, b):
        if abs(places[d] - places[c]) <= STILL:
            continue
        made = _piece(times, places, (c, d), (c - (c == a), d + (d == b)), min(CLOSE, tolerance))
        if not made:
            break
        rows += made
    else:
        return rows
    return (
        _following(times, places, a, b, min(CLOSE, tolerance))
        or _spline(times, places, a, b, tolerance)
        or _cornered(times, places, a, b, tolerance)
    )


def _piece(times: Array, places: Array, between: tuple[int, int], seen: tuple[int, int], close: float) -> list[Row]:
    """A piece without a turn as one move, none where no profile comes close enough."""
    for kind, shape in KINDS:
        off, row = _one_move(times, places, between, seen, kind, shape)
        if off <= close:
            return [row]
    return []


def _following(times: Array, places: Array, a: int, b: int, close: float, tried: list[int] | None = None) -> list[Row]:
    """A stretch that begins at its fastest and lags: as much of it as one following move explains, and from there one move at that speed, or another
    that follows. `tried` counts ends that were looked at: past so many it is given up, for there are as many ways as there are to cut it."""
    tried = [] if tried is None else tried
    speeds = np.abs(np.diff(places[a : b + 1]))
    if b - a > MOST_LAGGED or float(speeds[:2].max()) < 0.8 * float(speeds.max()):
        return []
    for end in (b, *range(b - 2, a + LEAST_LAG, -2)):
        found = _lagging(times[a + 1 : end + 1] - times[a], places[a + 1 : end + 1], close)
        for lag, target, minus in found:
            # where the curve passes the place it stood at is when it left
            share = (float(places[a]) - target) / minus
            left_at = float(times[a]) - lag * np.log(share) if share > 0 else np.nan
            if not times[a] - 1e-3 <= left_at <= times[a + 1]:
                continue
            row = Row(
                round(max(left_at, 0.0), 3),
                round(float(times[end] - times[a]), 3),
                round(target, 3),
                "following",
                round(lag, 4),
            )
            if end == b:
                return [row]
            tried.append(end)
            if len(tried) > MOST_TRIED:
                return []
            speed = -minus / lag * float(np.exp(-(times[end] - times[a]) / lag))
            lasts = [
                _one_move(times, places, (end, b), (end, b + 1), kind, 0.0, speed)
                for kind in ("minimum jerk", "cosine")
            ]
            off, last = min(lasts, key=lambda each: each[0])
            more = [last] if off <= close else _following(times, places, end, b, close, tried)
            if more:
                return [row, *more]
    return []


def _lagging(times: Array, places: Array, close: float) -> list[tuple[float, float, float]]:
    """Lags, s, with target and what is left of the way at the start, of all that follow places (n,) at times (n,) s from the start so closely; least squares
    of two unknowns, for all lags at once."""
    lags = np.array(LAGS)
    left = np.exp(-times[None, :] / lags[:, None])
    n, one, two = len(times), left.sum(axis=1), (left * left).sum(axis=1)
    whole, by = float(places.sum()), left @ places
    spread = n * two - one * one
    with np.errstate(divide="ignore", invalid="ignore"):
        minus = (n * by - one * whole) / spread
        target = (whole - minus * one) / n
        off = np.max(np.abs(target[:, None] + minus[:, None] * left - places[None, :]), axis=1)
    fits = np.flatnonzero((off <= close) & (np.abs(minus) >= 1.0))
    return [(float(lags[k]), float(target[k]), float(minus[k])) for k in fits]


def _cornered(times: Array, places: Array, a: int, b: int, tolerance: float) -> list[Row]:
    """From corner to corner at a steady speed, each broken off by the next, with a short ramp from one speed to the other; where that is not close enough,
    with ramps as short as their speeds ask, to stand still at the end too."""
    seen = slice(a, b + 1)
    tried: list[tuple[float, list[Row]]] = []
    for sharp in (False, True):
        rows = _from_corner_to_corner(times, places, a, b, tolerance, sharp)
        tried.append((_off(rows, times[seen], places[seen], float(places[a])), rows))
        if tried[-1][0] <= tolerance:
            break
    return min(tried, key=lambda each: each[0])[1]


def _from_corner_to_corner(times: Array, places: Array, a: int, b: int, tolerance: float, sharp: bool) -> list[Row]:
    corners = [a + k for k in corners_of(times[a : b + 1], places[a : b + 1], 0.45 * tolerance)]
    rows: list[Row] = []
    v, at = 0.0, 0
    while at < len(corners) - 1:
        i, j = corners[at], corners[at + 1]
        begin, wide, by = float(times[i]), float(times[j] - times[i]), float(places[j] - places[i])
        ramp, last = min(RAMP_S, 0.5 * wide), j == corners[-1]
        ends = last and sharp
        for _ in range(3):  # a ramp leaves the line by half its change of speed times its length
            steady = (by - 0.5 * v * ramp) / (wide - (1.0 if ends else 0.5) * ramp)
            change = max(abs(steady - v), abs(steady) if ends else 0.0)
            ramp = max(min(ramp, 0.5 * tolerance / (change + 1e-9)), 1e-4)
        if sharp and ramp < RAMP.least * wide and j - i > 1:
            corners.insert(at + 1, i + 1)  # no ramp of so long a move is so short: the first step is a move of its own
            continue
        at += 1
        takes, reach = wide, float(places[j])
        if not last:
            v, before = (by - 0.5 * v * ramp) / (wide - 0.5 * ramp), v
            takes, reach = wide + ramp, float(places[i]) + v * wide + 0.5 * before * ramp
        rows.append(
            Row(round(begin, 6), round(takes, 6), round(reach, 4 - last), "trapezoid", _ramp_share(ramp, takes))
        )
    return rows


def _ramp_share(ramp: float, takes: float) -> float:
    return RAMP.within(round(ramp / takes, 6))


def corners_of(times: Array, places: Array, tolerance: float) -> list[int]:
    """Indices of the points (k,) to keep so that straight lines between them stay within `tolerance` of all, times (n,) s (Ramer 1972,
    Douglas & Peucker 1973, from memory)."""
    keep, todo = {0, len(times) - 1}, [(0, len(times) - 1)]
    while todo:
        a, b = todo.pop()
        if b - a < 2:
            continue
        t, x = times[a : b + 1], places[a : b + 1]
        line = x[0] + (x[-1] - x[0]) * (t - t[0]) / (t[-1] - t[0])
        off = np.abs(x - line)
        k = int(np.argmax(off))
        if off[k] > tolerance:
            keep.add(a + k)
            todo += [(a, a + k), (a + k, b)]
    return sorted(keep)


def _one_move(
    times: Array, places: Array, between: tuple[int, int], seen: tuple[int, int], kind: str, shape: float, speed: float = 0.0
) -> tuple[float, Row]:  # fmt: skip
    """The move of a profile that comes closest to what is `seen`, from one place to the other; its departure and arrival, between the
    times, are found by halving steps."""
    (a, b), t, x = between, times[max(seen[0], 0) : seen[1] + 1], places[max(seen[0], 0) : seen[1] + 1]
    low, high = float(places[a]), float(places[b])
    step = float(times[a + 1] - times[a])
    ends = np.array([times[a] + (0.5 * step if speed == 0 else 0.0), times[b] - 0.5 * step])

    def off(ends: Array) -> Array:
        n = np.ones((len(ends), len(t)))
        takes = np.maximum(ends[:, 1:] - ends[:, :1], 1e-3)
        y = PROFILES[kind].run(np.maximum(t - ends[:, :1], 0.0), takes * n, (high - low) * n, speed * n, shape * n)[0]
        out: Array = np.max(np.abs(low + y - x), axis=1)
        return out

    size = 0.5 * step
    while size > 1e-4:
        tries = ends + size * WAYS
        k = int(np.argmin(off(tries)))
        if k > 0:
            ends = tries[k]
        else:
            size *= 0.5
    departs = round(max(float(ends[0]), 0.0), 3)
    takes = max(round(float(ends[1]) - departs, 3), 0.001)
    return float(off(np.array([[departs, departs + takes]]))[0]), Row(departs, takes, round(high, 3), kind, shape)  # type: ignore[arg-type]


def _spline(times: Array, places: Array, a: int, b: int, tolerance: float) -> list[Row]:
    """Trapezoids, each broken off by the next, with speed straight between knots, a piece of the stretch at a time; none where it is not
    close enough even so."""
    rows: list[Row] = []
    ends = [*range(a, b, PIECE), b]
    x, v = float(places[a]), 0.0
    for i, j in pairwise(ends):
        t, here = times[i : j + 1], places[i : j + 1] - places[i] + x
        last = 0.0 if j == b else float((places[j + 1] - places[j - 1]) / (times[j + 1] - times[j - 1]))
        found = _knots(t, here, v, last, 0.5 * min(CLOSE, tolerance))
        if found is None:
            return []
        knots, speeds = found
        for k, (begin, end) in enumerate(pairwise(knots.tolist())):
            ramp, v, w = end - begin, float(speeds[k]), float(speeds[k + 1])
            rows.append(
                Row(round(begin, 4), round(2 * ramp, 4), round(x + 0.5 * v * ramp + w * ramp, 5), "trapezoid", 0.5)
            )
            x += 0.5 * (v + w) * ramp
        v = last
    return rows


def _knots(times: Array, places: Array, first: float, last: float, close: float) -> tuple[Array, Array] | None:
    """Times and speeds (k,) of as few knots as bring the spline close to the places (n,), its speeds at both ends given; None where even
    a knot at every second place does not."""
    count = len(times)
    gap = max(2, count // 2)
    while gap >= 2:
        knots = times[np.unique(np.append(np.arange(0, count - 1, gap), count - 1))]
        basis = np.stack([_positions(knots, hat, 0.0, times) for hat in np.eye(len(knots))], axis=1)
        known = places[0] + basis[:, 0] * first + basis[:, -1] * last
        speeds = np.zeros(len(knots))
        speeds[0], speeds[-1] = first, last
        weight = np.ones(count)
        weight[-1] = 100.0  # the last place is met before all others: what comes after begins there
        if len(knots) > 2:
            inner = basis[:, 1:-1] * weight[:, None]
            speeds[1:-1] = np.linalg.lstsq(inner, (places - known) * weight, rcond=None)[0]
        if float(np.max(np.abs(_positions(knots, speeds, float(places[0]), times) - places))) <= close:
            return knots, speeds
        gap = gap // 2 if gap > 2 else 0
    return None


def _positions(knots: Array, speeds: Array, start: float, times: Array) -> Array:
    """Places (n,) at times (n,) of a spline that starts somewhere, its speed straight between the knots."""
    k = np.clip(np.searchsorted(knots, times, side="right") - 1, 0, len(knots) - 2)
    wide = np.diff(knots)
    reached = start + np.concatenate([[0.0], np.cumsum(0.5 * (speeds[:-1] + speeds[1:]) * wide)])
    s = times - knots[k]
    out: Array = reached[k] + speeds[k] * s + 0.5 * (speeds[k + 1] - speeds[k]) / wide[k] * s * s
    return out


def _in_order(rows: list[Row]) -> list[Row]:
    """By departure; one that would begin before the one before it has arrived by a rounding begins when that has."""
    out: list[Row] = []
    for row in rows:
        if out and row.departs < out[-1].departs:
            row = row._replace(departs=out[-1].departs)
        out.append(row)
    return out


def _off(rows: list[Row], times: Array, places: Array, park: float) -> float:
    track = build_track(JointChannel(id="a", name="a", joints=("a",), park=park, moves=moves_of(rows)), 1.0)
    return float(np.max(np.abs(track.at(times)[0] - places), initial=0.0))
