"""Life when idle as tables for the player: kinds, who stirs, what each ribbon keeps up with."""

from __future__ import annotations

import math
from collections.abc import Mapping

from karakuri.exchange.player.rows import NOWHERE, Rows
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.motion.life import LIVES, glances
from karakuri.motion.life.contract import Actor
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp

PARTS = ("eye pan", "eye tilt", "head pan", "head tilt")
FOREVER = 0xFFFFFFFF


def life_rows(figure: Figure, at: Mapping[str, int], out: Rows, can: Mapping[str, KeepsUp]) -> tuple[int, int, int]:
    """Kinds of life, who stirs; how many kinds and glancers, and which kinds, a bit each."""
    owned: list[tuple[int, int]] = []
    actors: list[tuple[object, ...]] = []
    kinds: list[tuple[int, int, int]] = []

    def row(actor: Actor, part: int) -> tuple[object, ...]:
        first = len(owned)
        owned.extend((at[c.id], int(sign)) for c, sign in actor.ribbons if c.id in at)
        keeps = next((at[c.id] for c, _ in actor.ribbons if actor.can is not NO_LIMIT and can.get(c.id) is actor.can), NOWHERE)  # fmt: skip
        return first, len(owned) - first, actor.low * 100.0, actor.high * 100.0, part, keeps

    glancers = [row(actor, PARTS.index(actor.part)) for actor in glances.cast(figure, can)]
    for k, (word, kind) in enumerate(LIVES.items()):
        cast = kind.cast(figure, can) if word in figure.score.life.does else ()
        if cast and word == "glances":
            kinds.append((k, 0, len(glancers)))
        elif cast:
            kinds.append((k, len(actors), len(cast)))
            actors += [row(actor, int(actor.part == "high")) for actor in cast]
    out.add("GLANCER", "Actor", 12, glancers)
    out.add("ACTOR", "Actor", 12, actors)
    out.add("ACTOR_RIBBON", "ActorRibbon", 2, owned)
    out.add("LIFE", "LifeKind", 3, kinds)
    return len(kinds), len(glancers), sum(1 << k for k, _, _ in kinds)


def keeps_row(channel: MovedChannel, figure: Figure, can: KeepsUp) -> tuple[object, ...]:
    """How long moves of a ribbon take at least: how many, so far, hundredths of its own unit, in tenths of a millisecond."""
    unit = channel.measure(figure).si
    far = [min(round(d / unit * 100), 65535) for d in can.distances[:6]]
    times = [FOREVER if math.isinf(t) else round(t * 1e4) for t in can.times[:6]]
    pad = [0] * (6 - len(far))
    return len(far), (*far, *pad), (*times, *pad)
