"""Simulated visitors: walkers who come past, some of whom stop, from a seed; and what a figure's sensors make of them.

A walk of 0.8 to 1.6 m/s, stops of 2 to 10 s: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from karakuri.frozen import Frozen
from karakuri.model.behaviour import Behaviour, Input
from karakuri.motion.life.chance import Chance

WALK_MPS, STOPS_S, NEAR_M, WIDE_M = (0.8, 1.6), (2.0, 10.0), (0.7, 2.6), 4.0
STOPPING, PRESSING, MOVING_MPS, KEEPS_ON_S = 0.45, 0.35, 0.2, 0.4


class Walk(Frozen):
    """One visit: begins s, passes at `near` m ahead from one side to the other at `speed` m/s, stops at `stop` m along it for `stays` s."""

    begins: float
    near: float
    way: float
    speed: float
    stop: float
    stays: float
    presses: bool

    @property
    def stops_at(self) -> float:
        """When it stops, s."""
        return self.begins + (WIDE_M + self.stop) / self.speed

    @property
    def ends(self) -> float:
        """When it is over, s."""
        return self.begins + 2 * WIDE_M / self.speed + self.stays

    def at(self, time: float) -> tuple[float, float, float]:
        """Ahead and to the left of the figure's datum, m, and how fast, m/s."""
        since, first = time - self.begins, (WIDE_M + self.stop) / self.speed
        standing = first <= since < first + self.stays
        along = self.speed * (since if since < first else first if standing else since - self.stays) - WIDE_M
        return self.near, -self.way * along, 0.0 if standing else self.speed


class Visitors:
    """Walkers, so many at most at a time, from a seed; asked about later and later times only."""

    def __init__(self, behaviour: Behaviour, seed: int = 1, count: int = 1, every_s: float = 12.0) -> None:
        self._inputs = tuple(each for each in behaviour.inputs if each.kind in ("motion", "beam"))
        self._buttons = tuple(each for each in behaviour.inputs if each.kind == "button")
        self._chances = [Chance(seed, 32 + k) for k in range(count)]
        self._every = every_s
        self.walks = [self._next(chance, 0.0) for chance in self._chances]
        self._last: dict[str, float] = {}

    def _next(self, chance: Chance, after: float) -> Walk:
        speed, way = chance.between(*WALK_MPS), 1.0 if chance.happens(0.5) else -1.0
        stops = chance.happens(STOPPING)
        stop, stays = chance.between(-0.8, 0.8), chance.between(*STOPS_S)
        waits = -self._every * math.log(max(chance.share(), 1e-6))
        return Walk(after + waits, chance.between(*NEAR_M), way, speed, stop, stays if stops else 0.0, stops and chance.happens(PRESSING))  # fmt: skip

    def at(self, time: float) -> dict[str, float]:
        """What sensors and buttons say at a time, s: levels of 0 or 100 by input id."""
        out: dict[str, float] = {}
        for k, walk in enumerate(self.walks):
            if walk.ends < time:
                walk = self.walks[k] = self._next(self._chances[k], time)
            if not walk.begins <= time <= walk.ends:
                continue
            x, y, speed = walk.at(time)
            for each in self._inputs:
                if (speed > MOVING_MPS or each.kind == "beam") and sees(each, x, y):
                    self._last[each.id] = time
            pressed = walk.stops_at + 1.0
            if walk.presses and self._buttons and pressed <= time < pressed + 0.3:
                out[self._buttons[k % len(self._buttons)].id] = 100.0
        for ident, last in self._last.items():
            if time - last <= KEEPS_ON_S:
                out[ident] = 100.0
        return out

    def places(self, time: float) -> Iterator[tuple[float, float]]:
        """Where those who are there stand, ahead and to the left, m."""
        for walk in self.walks:
            if walk.begins <= time <= walk.ends:
                yield walk.at(time)[:2]


def sees(sensor: Input, x: float, y: float) -> bool:
    """Whether a sensor sees somebody who stands x m ahead and y m to the left of the datum."""
    at = sensor.at_mm or (0.0, 0.0, 0.0)
    dx, dy = x - at[0] / 1e3, y - at[1] / 1e3
    off = math.degrees(math.atan2(dy, dx)) - sensor.heading_deg
    off = (off + 180.0) % 360.0 - 180.0
    return math.hypot(dx, dy) * 1e3 <= sensor.reach_mm and abs(off) <= sensor.wide_deg / 2


def nobody(time: float) -> Mapping[str, float]:
    """No visitors."""
    return {}
