"""Segments one behind the other that swing: each sets off a little after the one that carries it.

Distal joints lag 40 to 120 ms: overlapping action (Thomas and Johnston, The Illusion of Life, 1981); the number is common practice.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Actor, Cast, Happening, Stir, actors, alone, timed
from karakuri.motion.voice.following import KeepsUp

LAG_S, SWING_S, FAR = 0.080, (0.5, 0.9), (0.3, 0.8)


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """The longest row of body joints that ride on one another and turn alike, nearest the body first; at least two."""
    body = timed(figure, "body")
    channels = {c.joints[0]: c for c in figure.score.moved if len(c.joints) == 1 and body(c)}
    rows: list[list[MovedChannel]] = []
    for joint in channels:
        row, at = [channels[joint]], joint
        while (at := figure.joint(at).rides_on) in channels and figure.joint(at).axis == figure.joint(joint).axis:
            row.insert(0, channels[at])
        rows.append(row)
    longest = max(rows, key=len, default=[])
    if len(longest) < 2:
        return ()
    return tuple(a for channel in longest for a in actors(figure, can, alone(channel)))


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """To one side, to the other, and back, as a wave runs out along it."""
    low, high = life.waits_s
    while True:
        wait, takes, far = chance.between(low, high), chance.between(*SWING_S), chance.between(*FAR)
        side = 1.0 if chance.happens(0.5) else -1.0
        goes = max(_takes(actor, takes) for actor in cast)
        stirs = []
        for who, actor in enumerate(cast):
            for n, place in enumerate((_end(actor, side) * far, _end(actor, -side) * far * 0.6, 0.0)):
                stirs.append(Stir(who, who * LAG_S + n * goes, goes, place, n == 2))
        yield Happening(wait, tuple(stirs))


def _end(actor: Actor, side: float) -> float:
    return actor.high if side > 0 else actor.low


def _takes(actor: Actor, wanted: float) -> float:
    return actor.takes(actor.band, wanted)
