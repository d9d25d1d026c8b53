"""Life when idle: glances and blinks at seeded random waits, as ordinary moves. Same seed, same life.

Waits of 2 to 10 s: common practice, no source. Blink 92 ms down, 242 ms up: VanderWerf et al., J. Neurophysiol. 89, 2003; saccade
21 ms + 2.2 ms a degree: Carpenter, Movements of the Eyes, 1988; both from memory.
"""

from __future__ import annotations

import random
from dataclasses import dataclass
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.model.moves import Row
from karakuri.model.score_edits import written
from karakuri.model.sides import same_way, twin_of
from karakuri.model.timings import TIMINGS

SHUT_S, OPEN_S, REFRACTORY_S, LONGEST_GLANCE_S = 0.092, 0.242, 0.4, 0.15


def saccade_s(by_deg: float) -> float:
    """How long an eye takes for a turn of so many degrees, s."""
    return 0.021 + 0.0022 * abs(by_deg)


Together = list[tuple[MovedChannel, float]]
"""Ribbons that one glance or blink moves, each with the sign of its turning against the first."""


def make(figure: Figure, life: Life) -> dict[str, list[Row]]:
    """Channel id → moves in s and degrees: glances together on all ribbons of the eyes, blinks together on all of the lids. A left and a
    right one look the same way and blink as one, or not at all."""
    score = figure.score
    timed = {c.id: figure.joint(c.joints[0]).timed for c in score.moved if c.joints}
    eyes = [c for c in score.moved if timed.get(c.id) is TIMINGS["eye"]]
    lids = [c for c in score.moved if timed.get(c.id) is TIMINGS["lid"]]
    made = _Making(figure, life, random.Random(life.seed), {c.id: [] for c in (*eyes, *lids)})
    if eyes:
        _glances(made, _pairs(figure, eyes))
    if lids:
        _blinks(made, _pairs(figure, lids))
    return made.out


def live(figure: Figure, words: str = "write idle moves", **fields: Any) -> Edit:
    """Write its life, with these settings, in place of what was written before. Raises EditRefused where there is nothing that lives."""
    life = Life(**(dict(figure.score.life) | fields))
    rows = make(figure, life)
    if not rows:
        raise EditRefused("Nothing to do when idle: glances want a ribbon of the eyes, blinks one of the lids.")
    return written(figure, life, rows, words)


def set_life(figure: Figure, words: str, **fields: Any) -> Edit:
    """Another seed or other waits, for the next time its life is written."""
    life = Life(**(dict(figure.score.life) | fields))
    others = tuple(maker for maker in figure.score.makers if maker.id != life.id)
    return Edit(words, (Set(("score", "makers"), (*others, life)),), words)


@dataclass(frozen=True)
class _Making:
    """What is being written, for which figure, from which settings and chance."""

    figure: Figure
    life: Life
    chance: random.Random
    out: dict[str, list[Row]]


def _pairs(figure: Figure, channels: list[MovedChannel]) -> list[Together]:
    """The channels, a left and a right one together."""
    of = {joint: channel for channel in channels for joint in channel.joints}
    out: list[Together] = []
    done: set[str] = set()
    for channel in channels:
        if channel.id in done:
            continue
        joint = channel.joints[0]
        twin = twin_of(figure, joint)
        other = of.get(twin) if twin is not None else None
        together: Together = [(channel, 1.0)]
        if twin is not None and other is not None and other.id not in done | {channel.id}:
            together.append((other, same_way(figure.joint(joint), figure.joint(twin))))
        done |= {c.id for c, _ in together}
        out.append(together)
    return out


def _waits(made: _Making, busy_s: float) -> list[float]:
    low, high = made.life.waits_s
    out, now = [], made.chance.uniform(low, high)
    while now + busy_s < made.figure.score.length_s:
        out.append(now)
        now += busy_s + made.chance.uniform(low, high)
    return out


def _free(made: _Making, channel: MovedChannel, at: float, until: float) -> bool:
    """Nothing else of this ribbon moves then."""
    return all(
        row.made_by == made.life.id or row.departs >= until or row.departs + row.takes <= at
        for row in channel.moves.rows()
    )


def _next_free(made: _Making, channels: list[MovedChannel], at: float, busy: float) -> float | None:
    """The first moment from `at` on when none of the ribbons moves for `busy` s; None where the longest wait is over first."""
    for step in range(round(made.life.waits_s[1] / 0.05)):
        now = at + 0.05 * step
        if now + busy > made.figure.score.length_s:
            return None
        if all(_free(made, channel, now, now + busy) for channel in channels):
            return now
    return None


def _standing(made: _Making, channel: MovedChannel, at: float) -> float:
    before = [row for row in channel.moves.rows() if row.made_by != made.life.id and row.departs <= at]
    return before[-1].target if before else channel.park


def _glances(made: _Making, eyes: list[Together]) -> None:
    over, all_eyes = 0.0, [channel for together in eyes for channel, _ in together]
    for at in _waits(made, 1.2):
        stay = made.chance.uniform(0.4, 0.9)
        aims = [made.chance.uniform(*_shared(made.figure, together)) * 0.6 for together in eyes]
        free = _next_free(made, all_eyes, max(at, over), stay + 2 * LONGEST_GLANCE_S)
        if free is not None:
            at, over = free, free + stay + 2 * LONGEST_GLANCE_S
            for together, to in zip(eyes, aims, strict=True):
                homes = [_standing(made, channel, at) for channel, _ in together]
                takes = max(
                    0.08, *(saccade_s(to * sign - home) for (_, sign), home in zip(together, homes, strict=True))
                )
                for (channel, sign), home in zip(together, homes, strict=True):
                    made.out[channel.id] += [Row(round(at, 3), round(takes, 3), round(to * sign, 1)),
                                        Row(round(at + takes + stay, 3), round(takes, 3), round(home, 1))]  # fmt: skip


def _shared(figure: Figure, together: Together) -> tuple[float, float]:
    """The range, degrees, that all of them have, as the first counts."""
    ends = []
    for channel, sign in together:
        low, high = figure.joint(channel.joints[0]).range_deg
        ends.append((low, high) if sign > 0 else (-high, -low))
    low, high = max(e[0] for e in ends), min(e[1] for e in ends)
    return (low, high) if low <= high else (0.0, 0.0)


def _blinks(made: _Making, lids: list[Together]) -> None:
    for at in _waits(made, SHUT_S + OPEN_S + REFRACTORY_S):
        for together in lids:
            if not all(_free(made, channel, at, at + SHUT_S + OPEN_S) for channel, _ in together):
                continue
            for channel, _ in together:
                made.out[channel.id] += [Row(round(at, 3), SHUT_S, _shut(made.figure, channel)),
                                    Row(round(at + SHUT_S, 3), OPEN_S, _standing(made, channel, at))]  # fmt: skip


def _shut(figure: Figure, channel: MovedChannel) -> float:
    joint = figure.joint(channel.joints[0])
    return joint.range_deg[1] if "shut" in joint.ends[1] or "shut" not in joint.ends[0] else joint.range_deg[0]
