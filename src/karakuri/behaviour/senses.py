"""What inputs say: levels of 0 to 100, and what changed since the tick before; and where the figure's sensors have somebody.

Heading: the mean of where sensors look, weighted by their weights and how much each notices, sampled 20 times a second: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping

from karakuri.frozen import Frozen
from karakuri.model.behaviour import Input

ON, SENSED_HZ, TICK_HZ = 50.0, 20.0, 50


class Senses(Frozen):
    """Levels by input id now and a tick before, 0 to 100; what is only on or off is 0 or 100."""

    now: Mapping[str, float]
    before: Mapping[str, float]
    stopped: tuple[str, float, float] | None = None
    """Of what sees: which saw somebody last, and how long ago, s, now and a tick before."""

    def on(self, ident: str) -> bool:
        """Whether it is on."""
        return self.now.get(ident, 0.0) >= ON

    def rose(self, ident: str, level: float = ON) -> bool:
        """Whether it came to a level or above it."""
        return self.before.get(ident, 0.0) < level <= self.now.get(ident, 0.0)

    def fell(self, ident: str, level: float = ON) -> bool:
        """Whether it fell below a level."""
        return self.now.get(ident, 0.0) < level <= self.before.get(ident, 0.0)


def stood(senses: Senses, ident: str, still_s: float) -> bool:
    """Whether it has just been so long since an input, the last that saw anybody, saw somebody move."""
    return (
        senses.stopped is not None and senses.stopped[0] == ident and senses.stopped[2] < still_s <= senses.stopped[1]
    )


def attention(inputs: tuple[Input, ...], now: Mapping[str, float]) -> tuple[float, float] | None:
    """Where somebody is, degrees to the figure's left, and how much is noticed, 0 to 1 and more; None where nothing is."""
    total = turned = 0.0
    for each in inputs:
        if each.kind in ("motion", "beam") and each.weight > 0:
            counts = each.weight * now.get(each.id, 0.0) / 100.0
            total += counts
            turned += counts * each.heading_deg
    return (turned / total, total) if total > 0 else None
