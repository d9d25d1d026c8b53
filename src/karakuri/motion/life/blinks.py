"""Blinks: lids shut quickly and open more slowly, at random, never right after one another.

92 ms down, 242 ms up: VanderWerf et al., J. Neurophysiol. 89, 2003; from memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Actor, Cast, Happening, Stir, actors, alone, timed
from karakuri.motion.voice.following import KeepsUp

SHUT_S, OPEN_S, REFRACTORY_S = 0.092, 0.242, 0.4


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """Every lid by itself, with where it is shut: they shut together, each as far as it goes."""
    lid = timed(figure, "lid")
    lids = [channel for channel in figure.score.moved if channel.joints and lid(channel)]
    found = [a for channel in lids for a in actors(figure, can, alone(channel))]
    return tuple(Actor(a.ribbons, a.low, a.high, a.unit, a.can, _shut(figure, a)) for a in found)


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """All lids at once."""
    low, high = life.waits_s
    first = True
    while True:
        stirs = []
        for who, actor in enumerate(cast):
            shuts = actor.takes(actor.band, SHUT_S)
            stirs += [
                Stir(who, 0.0, shuts, actor.low if actor.part == "low" else actor.high),
                Stir(who, shuts, actor.takes(actor.band, OPEN_S), 0.0, True),
            ]
        yield Happening((0.0 if first else REFRACTORY_S) + chance.between(low, high), tuple(stirs))
        first = False


def _shut(figure: Figure, actor: Actor) -> str:
    """Which end is shut: 'low' or 'high'."""
    joint = figure.joint(actor.ribbons[0][0].joints[0])
    return "high" if "shut" in joint.ends[1] or "shut" not in joint.ends[0] else "low"
