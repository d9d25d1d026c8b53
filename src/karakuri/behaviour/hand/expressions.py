"""Kept poses around a stick. Each pose weighs most where it lies, nothing at its neighbours, and nothing a quarter of a turn away where no neighbour is
nearer; how far the stick is pushed is how much of it is shown."""

from __future__ import annotations

import math

from karakuri.behaviour.hand.contract import Held, Lead, Way, lead_of
from karakuri.model.figure import Figure
from karakuri.model.steering import Expressions

WIDEST = 90.0


def weights(towards: float, faces: tuple[float, ...]) -> tuple[float, ...]:
    """How much each of some directions counts, 0 to 1, for a stick pushed towards one, all degrees: 1 at its own, in all never more than 1."""
    out = []
    for k, lies in enumerate(faces):
        off = (towards - lies + 180.0) % 360.0 - 180.0
        others = [((face - lies) % 360.0) for n, face in enumerate(faces) if n != k and (face - lies) % 360.0 > 0.0]
        twins = sum((face - lies) % 360.0 == 0.0 for face in faces)
        wide = min([WIDEST, *(others if off >= 0 else (360.0 - o for o in others))])
        out.append(max(0.0, 1.0 - abs(off) / wide) / twins)
    return tuple(out)


def make(figure: Figure, grip: Expressions) -> Held:
    """Every ribbon that one of its poses names, the others at park."""
    places, leads = list[dict[str, float]](), dict[str, Lead]()
    for face in grip.faces:
        pose = figure.pose(face.pose)
        own = {ident: place for ident, c in figure.ribbons.items() if (place := pose.place_of(c)) is not None}
        leads |= {ident: lead_of(figure, ident) for ident in own}
        places.append(own)
    lies = tuple(face.towards_deg for face in grip.faces)

    def wants(way: Way) -> dict[str, float]:
        ahead, across = way.push(grip.ahead), way.push(grip.across)
        pushed = min(math.hypot(ahead, across), 1.0) * way.share
        count = weights(math.degrees(math.atan2(across, ahead)), lies) if pushed > 0.0 else (0.0,) * len(lies)
        return {
            ident: lead.park + pushed * sum(w * (own.get(ident, lead.park) - lead.park) for w, own in zip(count, places, strict=True))
            for ident, lead in leads.items()
        }  # fmt: skip

    return Held(leads, wants)
