"""Moves that follow a hand: few, smooth, fit to be edited, and never further off than allowed. Not those it was written with, for nobody wrote it.

From one turn to the next a hand's reach is near to one minimum-jerk move (Flash & Hogan, J. Neurosci. 5, 1985). So each move is one of that profile, from
the place and speed that the moves before it have reached, as long as it stays within the tolerance; where it cannot go on it is broken off by the next.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.model.moves import Row
from karakuri.model.profiles import ProfileKind
from karakuri.motion.profiles import PROFILES

LONGER = (1.0, 1.15, 1.35, 1.7, 2.3, 3.5)
"""A move is tried as long as what it follows, then to end at rest there, and so much longer, to be broken off there."""
NEAR, LONGEST, DIGITS = 0.6, 512, 3
KIND: ProfileKind = "minimum jerk"


def moves_of_a_hand(
    times: Array, places: Array, band: tuple[float, float], within: float, went: Callable[[float], None]
) -> list[Row]:
    """Rows for places (n,) at times (n,) s, evenly apart, in the ribbon's own unit: it starts where the first place is, at rest. At every time the moves are
    within `within` of the place, and no target lies outside the band. `went` is told how far it is, 0 to 1."""
    rows: list[Row] = []
    at, last, place, speed = 0, len(places) - 1, float(places[0]), 0.0
    while at < last:
        went(at / last)
        if speed == 0.0:
            at = _stands(places, at, place, within)
            if at >= last:
                break
        row, to = _furthest(times, places, at, (place, speed), band, within)
        rows.append(row)
        since = float(times[to] - times[at])
        off, now = _run(np.array([since]), row.takes, row.target - place, speed)
        place, speed = place + float(off[0]), 0.0 if since >= row.takes - 1e-9 else float(now[0])
        at = to
    return rows


def _stands(places: Array, at: int, place: float, within: float) -> int:
    """The last index up to which a ribbon that stands is near enough, and from where it is best to set off."""
    away = np.abs(places[at:] - place)
    leaves = np.flatnonzero(away > NEAR * within)
    if not len(leaves):
        return len(places) - 1
    near = np.flatnonzero(away[: leaves[0]] <= 0.1 * within)
    return at + (int(near[-1]) if len(near) else 0)


def _furthest(
    times: Array, places: Array, at: int, now: tuple[float, float], band: tuple[float, float], within: float
) -> tuple[Row, int]:
    """The move that follows the places longest, and up to which index. The very next place is always reached."""
    last = len(places) - 1
    best = _to_the_next(times, places, at)
    low, step = at + 1, 2
    while True:
        high = min(at + step, last)
        found = _one(times, places, at, high, now, band, within)
        if found is None:
            break
        best, low = (found, high), high
        if high == last or step >= LONGEST:
            return best
        step *= 2
    while high - low > 1:
        middle = (low + high) // 2
        found = _one(times, places, at, middle, now, band, within)
        if found is None:
            high = middle
        else:
            best, low = (found, middle), middle
    return best


def _to_the_next(times: Array, places: Array, at: int) -> tuple[Row, int]:
    takes = round(float(times[at + 1] - times[at]), 4)
    return Row(round(float(times[at]), 4), takes, round(float(places[at + 1]), DIGITS), KIND), at + 1


def _one(
    times: Array, places: Array, at: int, to: int, now: tuple[float, float], band: tuple[float, float], within: float
) -> Row | None:
    """One move from a place and speed that is within the tolerance of all places up to an index; None where there is none."""
    place, speed = now
    t, y = times[at + 1 : to + 1] - times[at], places[at + 1 : to + 1] - place
    for longer in LONGER:
        takes = round(float(t[-1]) * longer, 4)
        own, whole = _run(t, takes, 0.0, speed)[0], _run(t, takes, 1.0, 0.0)[0]
        by = float(whole @ (y - own) / (whole @ whole))
        target = round(min(max(place + by, band[0]), band[1]), DIGITS)
        if float(np.max(np.abs(own + (target - place) * whole - y))) <= within:
            return Row(round(float(times[at]), 4), takes, target, KIND)
    return None


def _run(t: Array, takes: float, by: float, speed: float) -> tuple[Array, Array]:
    one = np.ones_like(t)
    x, v, _ = PROFILES[KIND].run(t, takes * one, by * one, speed * one, 0.0 * one)
    return x, v
