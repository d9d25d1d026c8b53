"""Ears that twitch: one, or both a little apart, quickly aside and back. Common practice, no source."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Actor, Cast, Happening, Stir, actors, alone, timed
from karakuri.motion.voice.following import KeepsUp

TWITCH_S, APART_S, STAYS_S, BOTH = 0.12, (0.04, 0.12), (0.05, 0.35), 0.5


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """Every ear by itself: a left and a right one are two."""
    ear = timed(figure, "ear")
    found: list[Actor] = []
    for channel in figure.score.moved:
        if channel.joints and ear(channel):
            found += actors(figure, can, alone(channel))
    return tuple(found)


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """One ear, or one after the other."""
    low, high = life.waits_s
    while True:
        wait, first = chance.between(low, high), int(chance.share() * len(cast))
        both, apart = chance.happens(BOTH), chance.between(*APART_S)
        stirs: list[Stir] = []
        for n in range(min(len(cast), 2 if both else 1)):
            actor = cast[(first + n) % len(cast)]
            to = actor.low + chance.share() * actor.band
            stays = chance.between(*STAYS_S)
            goes = actor.takes(actor.band, TWITCH_S)
            stirs += [
                Stir((first + n) % len(cast), n * apart, goes, to),
                Stir((first + n) % len(cast), n * apart + goes + stays, goes, 0.0, True),
            ]
        yield Happening(wait, tuple(stirs))
