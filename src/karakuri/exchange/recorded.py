"""What a hand did, written down: places fifty times a second become few moves on ribbons, in place of what was there, and how far off they are is told."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.exchange.moves_of_a_hand import moves_of_a_hand
from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.motion.track import build_track

LEAST_S, STILL = 0.1, 0.02


def _nobody(share: float) -> None:
    return None


class Take(Frozen, eq=False):
    """What was recorded: times (n,) s of the score, rising evenly, and places (n,) by ribbon, each in its own unit."""

    times: Array
    places: Mapping[str, Array]


class Written(Frozen):
    """Moves of ribbons by id, all there are on each; `made` of them new, from `frames` places; and how far off they are at most, each in its own unit."""

    moves: Mapping[str, tuple[Row, ...]]
    made: int
    frames: int
    off: Mapping[str, float]


def written_down(figure: Figure, take: Take, within: float, went: Callable[[float], None] = _nobody) -> Written:
    """The moves that follow a take within so much of its places, in each ribbon's own unit. Ribbons that stood still throughout, where the score has them,
    are left as they are. `went` is told how far it is, 0 to 1. Raises ValueError for a take of less than a tenth of a second."""
    if len(take.times) < 2 or take.times[-1] - take.times[0] < LEAST_S - 1e-9:
        raise ValueError(f"a take lasts {LEAST_S:g} s or longer")
    begin, end = math.floor(float(take.times[0]) * 1e4) / 1e4, float(take.times[-1])
    moves, off, made = dict[str, tuple[Row, ...]](), dict[str, float](), 0
    for k, (ident, places) in enumerate(take.places.items()):
        channel = figure.score.moving(ident)
        if np.ptp(places) < STILL and _as_written(channel, take.times, places) < STILL:
            continue

        def tell(share: float, k: int = k) -> None:
            went((k + share) / len(take.places))

        found = moves_of_a_hand(take.times - take.times[0], places, channel.band(figure), within, tell)
        new = [Row(begin, 0.0, round(float(places[0]), 2), "sudden")] if _moving(channel, begin, take.times, float(places[0])) else []  # fmt: skip
        new += [row._replace(departs=round(begin + row.departs, 4)) for row in found]
        kept = [row for row in channel.moves.rows() if not begin <= row.departs <= end]
        moves[ident] = moves_of([*kept, *new]).rows()
        made += len(new)
        off[ident] = _off(channel, moves[ident], take.times, places)
    return Written(moves, made, len(take.times), off)


def _at(channel: MovedChannel, rows: tuple[Row, ...], times: Array) -> Array:
    moved = type(channel)(**(dict(channel) | {"moves": moves_of(rows)}))
    out: Array = build_track(moved, 1.0).at(times)[0]
    return out


def _as_written(channel: MovedChannel, times: Array, places: Array) -> float:
    """How far a ribbon is, as the score has it, from where it was."""
    return float(np.max(np.abs(_at(channel, channel.moves.rows(), times) - places)))


def _moving(channel: MovedChannel, at: float, times: Array, place: float) -> bool:
    """Whether what departed before the take has it elsewhere as that begins, or on its way still: it would not stay there by itself."""
    before = tuple(row for row in channel.moves.rows() if row.departs < at)
    return bool(np.max(np.abs(_at(channel, before, times) - place)) > STILL)


def _off(channel: MovedChannel, rows: tuple[Row, ...], times: Array, places: Array) -> float:
    return float(np.max(np.abs(_at(channel, rows, times) - places)))


def recorded(figure: Figure, written: Written, end_s: float) -> Edit:
    """The moves onto their ribbons; the score grows to hold them, `end_s` s."""
    steps: list[Step] = [Set(("score", "channels", ident, "moves"), moves_of(rows)) for ident, rows in written.moves.items()]  # fmt: skip
    if end_s > figure.score.length_s:
        steps.append(Set(("score", "length_s"), round(end_s, 2)))
    return Edit("record what the hand did", tuple(steps))
