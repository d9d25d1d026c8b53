"""Breathing: in for a third of each breath, out for two, no two alike.

12 to 20 breaths a minute, in to out about 1 to 2; from memory, no single source.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Cast, Happening, Stir, actors, timed, turns
from karakuri.motion.voice.following import KeepsUp

IN, VARIES, DEEP = 1 / 3, 0.12, 0.10
"""Share of a breath that goes in; by how much lengths and depths vary; how deep, of the ribbon's band."""
NAMES = ("chest", "breath", "torso", "belly")


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """What is called a chest; else what of the body slides up or nods; else the head, nodding."""
    body, head = timed(figure, "body"), timed(figure, "head")
    nods, rises = turns(figure, 1, True), turns(figure, 2, True)
    named = actors(figure, can, lambda c: any(word in c.name.lower() for word in NAMES))
    lifted = actors(figure, can, lambda c: body(c) and (nods(c) or (rises(c) and figure.joint(c.joints[0]).kind == "slide")))  # fmt: skip
    nodding = actors(figure, can, lambda c: head(c) and nods(c) and figure.joint(c.joints[0]).kind == "turn")
    found = named or lifted[:1] or nodding[:1]
    return tuple(found)


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """Breath after breath, without a pause."""
    while True:
        long = 60.0 / life.breaths_per_min * chance.between(1 - VARIES, 1 + VARIES)
        deep = DEEP * chance.between(1 - VARIES, 1 + VARIES)
        stirs = []
        for who, actor in enumerate(cast):
            by = deep * actor.band * (1.0 if actor.high >= -actor.low else -1.0)
            stirs += [
                Stir(who, 0.0, actor.takes(by, IN * long), by, True),
                Stir(who, actor.takes(by, IN * long), actor.takes(by, (1 - IN) * long), 0.0, True),
            ]
        yield Happening(0.0, tuple(stirs))
