"""Life when idle, as ordinary moves between those that are there: what motion/life has happen, written where its ribbons are free. Same seed, same life."""

from __future__ import annotations

from bisect import bisect_right, insort
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.model.moves import Row
from karakuri.model.score_edits import written
from karakuri.motion.life import LIVES
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Cast, Happening, Stir
from karakuri.motion.voice.following import KeepsUp

STEP_S = 0.05


def make(figure: Figure, life: Life, can: Mapping[str, KeepsUp] | None = None) -> dict[str, list[Row]]:
    """Channel id → moves in s and the ribbon's own unit, of all that it does; `can` is what ribbons keep up with, by id."""
    out: dict[str, list[Row]] = {}
    ribbons = {channel.id: _Ribbon(channel, life.id) for channel in figure.score.moved}
    for k, (word, kind) in enumerate(LIVES.items()):
        cast = kind.cast(figure, can or {}) if word in life.does else ()
        if cast:
            happenings = kind.happenings(cast, life, Chance(life.seed, k))
            _write(figure, life, cast, happenings, ribbons)
            out |= {channel.id: ribbons[channel.id].made for actor in cast for channel, _ in actor.ribbons}
    return out


def lives_of(figure: Figure) -> tuple[str, ...]:
    """Which kinds of life a figure's ribbons can have."""
    return tuple(word for word, kind in LIVES.items() if kind.cast(figure, {}))


def live(
    figure: Figure, words: str = "write idle moves", can: Mapping[str, KeepsUp] | None = None, **fields: Any
) -> Edit:
    """Write its life, with these settings, in place of what was written before. Raises EditRefused where there is nothing that lives."""
    life = Life(**(dict(figure.score.life) | fields))
    rows = make(figure, life, can)
    if not rows:
        raise EditRefused("Nothing to do when idle: glances want a ribbon of the eyes, blinks one of the lids.")
    return written(figure, life, rows, words)


def set_life(figure: Figure, words: str, **fields: Any) -> Edit:
    """Another seed, other waits and so on, for the next time its life is written."""
    life = Life(**(dict(figure.score.life) | fields))
    others = tuple(maker for maker in figure.score.makers if maker.id != life.id)
    return Edit(words, (Set(("score", "makers"), (*others, life)),), words)


@dataclass
class _Ribbon:
    """A ribbon while it is written: when it is busy, and what was made."""

    channel: MovedChannel
    life_id: str
    made: list[Row] = field(default_factory=list)

    def __post_init__(self) -> None:
        rows = [row for row in self.channel.moves.rows() if row.made_by != self.life_id]
        self._at = [row.departs for row in rows]
        self._targets = [row.target for row in rows]
        self._busy = sorted((row.departs, row.departs + row.takes) for row in rows)

    def free(self, at: float, until: float) -> bool:
        """Nothing else of it moves then."""
        k = bisect_right(self._busy, (until - 1e-9, -1.0))
        return all(end <= at + 1e-9 for _, end in self._busy[max(0, k - 3) : k])

    def standing(self, at: float) -> float:
        """Where it stands by what others do."""
        k = bisect_right(self._at, at)
        return self._targets[k - 1] if k else self.channel.park

    def add(self, row: Row) -> None:
        insort(self._busy, (row.departs, row.departs + row.takes))
        self.made.append(row)


def _write(figure: Figure, life: Life, cast: Cast, happenings: Any, ribbons: dict[str, _Ribbon]) -> None:
    """What happens, one after another, until the score is over: each when its ribbons are free, or not at all where the longest wait is over first."""
    length, now = figure.score.length_s, 0.0
    for happening in happenings:
        now += happening.wait
        if now + happening.busy > length:
            return
        at = _next_free(now, happening, cast, ribbons, life.waits_s[1], length)
        if at is None:
            now += max(happening.busy, STEP_S)
            continue
        spans = [_rows(stir, at, cast, ribbons) for stir in happening.stirs]
        for channel_id, row in (each for span in spans for each in span):
            ribbons[channel_id].add(row)
        now = at + happening.busy


def _rows(stir: Stir, at: float, cast: Cast, ribbons: dict[str, _Ribbon]) -> list[tuple[str, Row]]:
    """A stir's moves on all its ribbons, inside their bands."""
    actor, out = cast[stir.who], []
    for channel, sign in actor.ribbons:
        home = sign * ribbons[channel.id].standing(at) if stir.home else 0.0
        place = sign * actor.clipped(home + stir.place)
        out.append((channel.id, Row(round(at + stir.at, 3), round(stir.takes, 3), round(place, 2))))
    return out


def _next_free(
    now: float, happening: Happening, cast: Cast, ribbons: dict[str, _Ribbon], patience: float, length: float
) -> float | None:
    """The first moment from then on when none of its ribbons is moved by others; None where there is none in time."""
    spans: dict[str, tuple[float, float]] = {}
    for stir in happening.stirs:
        for channel, _ in cast[stir.who].ribbons:
            a, b = spans.get(channel.id, (stir.at, stir.at + stir.takes))
            spans[channel.id] = (min(a, stir.at), max(b, stir.at + stir.takes))
    for step in range(max(1, round(patience / STEP_S))):
        at = now + STEP_S * step
        if at + happening.busy > length:
            return None
        if all(ribbons[ident].free(round(at + a, 3), round(at + b, 3)) for ident, (a, b) in spans.items()):
            return at
    return None
