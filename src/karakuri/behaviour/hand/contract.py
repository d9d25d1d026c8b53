"""The contract of a grip: which ribbons it moves, and where it wants them, given what inputs say."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from karakuri.behaviour.senses import ON, TICK_HZ
from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure

TICK_S = 1.0 / TICK_HZ
Levels = Mapping[str, float]


class Lead(Frozen):
    """One ribbon as a grip sees it: its band and where it parks, in its own unit."""

    channel: MovedChannel
    low: float
    high: float

    @property
    def park(self) -> float:
        """Where it parks, inside its band."""
        return min(max(self.channel.park, self.low), self.high)

    def pushed(self, share: float) -> float:
        """Where it is for a stick pushed so far, −1 to 1: at park in the middle, at its ends at the stick's."""
        share = min(max(share, -1.0), 1.0)
        return self.park + share * ((self.high - self.park) if share >= 0 else (self.park - self.low))


class Way(Frozen):
    """What a grip is asked: levels of inputs 0 to 100, how much of the whole way a full push is, 0 to 1, and where ribbons stand, by id."""

    levels: Levels
    share: float
    stands: Callable[[str], float]

    def push(self, ident: str) -> float:
        """How far an input is pushed from its middle, −1 to 1."""
        return (self.levels[ident] - 50.0) / 50.0

    def on(self, ident: str) -> bool:
        """Whether a key is pressed."""
        return self.levels[ident] >= ON


class Held(Frozen):
    """A grip at work: `leads` its ribbons by id; `wants(way)` where they are wanted, in their own units, called once every fiftieth of a second;
    `begins(way)` as it is taken hold of; `stops`: let go, its ribbons go to park as fast as they may, whatever else is said, for where they stand is a speed."""

    leads: Mapping[str, Lead]
    wants: Callable[[Way], Mapping[str, float]]
    begins: Callable[[Way], None] = lambda way: None
    stops: bool = False


Maker = Callable[[Figure, Any], Held]


def lead_of(figure: Figure, channel_id: str, to: tuple[float, float] | None = None) -> Lead:
    """A ribbon in any score, between its ends or such as are given, never past its own; what runs can always stand still. Raises KeyError."""
    channel = figure.ribbons[channel_id]
    low, high = channel.band(figure)
    if to is not None:
        low, high = max(low, min(min(to), high)), min(high, max(max(to), low))
    if channel.runs:
        low, high = min(low, channel.park), max(high, channel.park)
    return Lead(channel, low, high)
