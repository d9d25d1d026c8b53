"""Swaying: leaning a little this way and that, slowly; 0.2 to 1 times a second and a few millimetres in people (from memory)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Cast, Happening, Stir, actors, timed, turns
from karakuri.motion.voice.following import KeepsUp

FAR, TAKES_S = 0.08, (1.2, 2.6)
"""How far, of the ribbon's band; how long each lean takes."""


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """What of the body leans sideways, else the head; and what of the body turns."""
    body, head = timed(figure, "body"), timed(figure, "head")
    leans = turns(figure, 0)
    found = actors(figure, can, lambda c: body(c) and leans(c)) or actors(figure, can, lambda c: head(c) and leans(c))
    return tuple(found[:1])


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """There and back, and on to the other side."""
    side = 1.0
    while True:
        stirs = []
        there, back, far = chance.between(*TAKES_S), chance.between(*TAKES_S), chance.between(0.4, 1.0) * FAR * side
        for who, actor in enumerate(cast):
            by = far * actor.band
            goes = actor.takes(by, there)
            stirs += [Stir(who, 0.0, goes, by, True), Stir(who, goes, actor.takes(by, back), 0.0, True)]
        yield Happening(chance.between(0.0, 0.6), tuple(stirs))
        side = -side
