"""The contract of a kind of life: whom it moves, and what happens next, for ever. A writer, or a controller, does it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping

from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.model.sides import same_way, twin_of
from karakuri.model.timings import TIMINGS, TimingKind
from karakuri.motion.life.chance import Chance
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp


class Stir(Frozen):
    """One move of actor `who`: `at` s after it began, in `takes` s, to `place` in the ribbon's own unit, counted from where it stood where `home`. On a ribbon that moves the
    other way the place changes its sign."""

    who: int
    at: float
    takes: float
    place: float
    home: bool = False


class Happening(Frozen):
    """After a wait, s, these moves; the next wait begins when they are over."""

    wait: float
    stirs: tuple[Stir, ...]

    @property
    def busy(self) -> float:
        """How long it takes, s."""
        return max((stir.at + stir.takes for stir in self.stirs), default=0.0)


class Actor(Frozen):
    """Ribbons that stir as one, each with the sign of its turning against the first; where all of them may be, as the first counts, in its own unit, and what they keep
    up with; `part` tells actors of one kind apart."""

    ribbons: tuple[tuple[MovedChannel, float], ...]
    low: float
    high: float
    unit: float
    can: KeepsUp = NO_LIMIT
    part: str = ""

    @property
    def band(self) -> float:
        """How wide it is."""
        return self.high - self.low

    def takes(self, by: float, wanted: float) -> float:
        """How long a move so far takes: as long as wanted, or as its drives need; where they never get there, which is told elsewhere, as long as wanted."""
        least = self.can.least(abs(by) * self.unit)
        return wanted if math.isinf(least) else max(wanted, least)

    def clipped(self, place: float) -> float:
        """The place, or the end it lies beyond."""
        return min(max(place, self.low), self.high)


Cast = tuple[Actor, ...]
Casting = Callable[[Figure, Mapping[str, KeepsUp]], Cast]


class Kind(Frozen):
    """What it is called on a card; whom it moves, none where there is nobody; what happens."""

    called: str
    cast: Casting
    happenings: Callable[[Cast, Life, Chance], Iterator[Happening]]


def actors(
    figure: Figure, can: Mapping[str, KeepsUp], wanted: Callable[[MovedChannel], bool], part: str = ""
) -> list[Actor]:
    """Of the ribbons that are wanted, a left and a right one together."""
    channels = [channel for channel in figure.score.moved if channel.joints and wanted(channel)]
    of = {joint: channel for channel in channels for joint in channel.joints}
    out: list[Actor] = []
    done: set[str] = set()
    for channel in channels:
        if channel.id in done:
            continue
        joint = channel.joints[0]
        twin = twin_of(figure, joint)
        other = of.get(twin) if twin is not None else None
        together = [(channel, 1.0)]
        if twin is not None and other is not None and other.id not in done | {channel.id}:
            together.append((other, same_way(figure.joint(joint), figure.joint(twin))))
        done |= {c.id for c, _ in together}
        ends = [band if sign > 0 else (-band[1], -band[0]) for band, sign in ((c.band(figure), s) for c, s in together)]
        low, high = max(end[0] for end in ends), min(end[1] for end in ends)
        if low > high:
            low = high = 0.0
        limits = [can.get(c.id, NO_LIMIT) for c, _ in together]
        out.append(Actor(tuple(together), low, high, channel.measure(figure).si, _slowest(limits), part))
    return out


def alone(wanted: MovedChannel) -> Callable[[MovedChannel], bool]:
    """Whether a ribbon is that very one."""
    return lambda channel: channel is wanted


def both(one: Callable[[MovedChannel], bool], other: Callable[[MovedChannel], bool]) -> Callable[[MovedChannel], bool]:
    """Whether a ribbon is both."""
    return lambda channel: one(channel) and other(channel)


def timed(figure: Figure, kind: TimingKind) -> Callable[[MovedChannel], bool]:
    """Whether a ribbon's joint moves as an eye, a lid, and so on."""
    return lambda channel: figure.joint(channel.joints[0]).timed is TIMINGS[kind]


def turns(figure: Figure, axis: int, slides: bool = False) -> Callable[[MovedChannel], bool]:
    """Whether a ribbon's joint turns mainly about x (0), y (1) or z (2), or may slide along it."""

    def fits(channel: MovedChannel) -> bool:
        joint = figure.joint(channel.joints[0])
        largest = max(range(3), key=lambda k: abs(joint.axis[k]))
        return largest == axis and (joint.kind == "turn" or slides)

    return fits


def _slowest(limits: list[KeepsUp]) -> KeepsUp:
    """Of two that move as one the one that takes longer for a small and a large move; both where they are alike."""
    return max(limits, key=lambda each: each.times[-1] if each.times else 0.0)
