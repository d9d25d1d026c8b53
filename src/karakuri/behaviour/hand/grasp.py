"""A hand at work: fifty times a second from what inputs say to where ribbons go, smoothly, never faster than is allowed, never past their bands.

The law: while the dead man's switch is not held, or an input a grip needs says nothing, its ribbons stand, or go to park at 20 a second (what runs stops); who takes hold
moves what stands elsewhere at 20 a second until it is where the hand is.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from karakuri.behaviour.hand import GRIPS
from karakuri.behaviour.hand.contract import TICK_S, Held, Lead, Levels, Way
from karakuri.behaviour.hand.smooth import Smooth
from karakuri.behaviour.senses import ON
from karakuri.model.figure import Figure
from karakuri.model.steering import Steering
from karakuri.motion.voice.following import KeepsUp

SOFT_PER_S, WHOLE = 20.0, 100.0


@dataclass
class Steer:
    """One ribbon in hand: `asked` is where the hand wants it, `now` where it is sent, in its own unit."""

    lead: Lead
    smooth: Smooth
    pace: float
    asked: float
    now: float
    caught: bool = False
    sought: bool = False


class Grasp:
    """Of all grips. `stands` gives where ribbons stand as it begins, by id, in their own units; `can` what they keep up with. Raises ValueError where there
    is no grip."""

    def __init__(self, figure: Figure, stands: Mapping[str, float] | None = None, can: Mapping[str, KeepsUp] | None = None) -> None:  # fmt: skip
        steering = figure.steering
        if steering is None or not steering.grips:
            raise ValueError("there is no grip to drive it by")
        self.steering: Steering = steering
        self.sensitivity = 2
        self.held = False
        self.grips: list[tuple[Held, tuple[str, ...]]] = []
        self.ribbons: dict[str, Steer] = {}
        self._of: dict[str, int] = {}
        self._gripped: set[int] = set()
        named = {channel for grip in steering.grips for channel in grip.channels}
        for k, grip in enumerate(steering.grips):
            held = GRIPS[grip.kind](figure, grip)
            mine = {i: lead for i, lead in held.leads.items() if i not in self.ribbons and (i not in named or i in grip.channels)}  # fmt: skip
            self.grips.append((held, grip.inputs))
            for ident, lead in mine.items():
                self._of[ident] = k
                at = min(max((stands or {}).get(ident, lead.park), lead.low), lead.high)
                self.ribbons[ident] = Steer(lead, Smooth(grip.smooth_ms / 1e3, at), pace_of(figure, steering, ident, lead, can or {}), at, at)  # fmt: skip

    def of_grip(self, grip_id: str) -> dict[str, Steer]:
        """The ribbons that a grip moves, by id."""
        at = [grip.id for grip in self.steering.grips].index(grip_id)
        return {ident: self.ribbons[ident] for ident, k in self._of.items() if k == at}

    def tick(self, levels: Levels) -> dict[str, float]:
        """A fiftieth of a second on; where every ribbon in hand is sent, in its own unit."""
        steering = self.steering
        self.held = steering.held_by is None or levels.get(steering.held_by, 0.0) >= ON
        if steering.sensitivity_by is not None and steering.sensitivity_by in levels:
            self.sensitivity = min(int(levels[steering.sensitivity_by] * 3.0 / WHOLE), 2)
        way = Way(levels, steering.sensitivities[self.sensitivity] / WHOLE, lambda ident: self.ribbons[ident].now)
        wanted: list[Mapping[str, float] | None] = []
        for k, (grip, inputs) in enumerate(self.grips):
            if not self.held or any(ident not in levels for ident in inputs):
                self._gripped.discard(k)
                wanted.append(None)
                continue
            if k not in self._gripped:
                self._gripped.add(k)
                grip.begins(way)
                for ident, j in self._of.items():
                    if j == k:
                        self.ribbons[ident].caught = self.ribbons[ident].sought = False
            wanted.append(grip.wants(way))
        for ident, steer in self.ribbons.items():
            places = wanted[self._of[ident]]
            stops = steer.lead.channel.runs or self.grips[self._of[ident]][0].stops
            self._one(steer, None if places is None else places[ident], stops)
        return {ident: steer.now for ident, steer in self.ribbons.items()}

    def _one(self, steer: Steer, wanted: float | None, stops: bool) -> None:
        low, high = steer.lead.low, steer.lead.high
        if wanted is None:
            steer.asked = steer.lead.park if stops or self.steering.let_go == "parks" else steer.now
            step = (steer.pace if stops else SOFT_PER_S) * TICK_S
            steer.now += min(max(steer.asked - steer.now, -step), step)
            steer.smooth.stand(steer.now)
            return
        before, steer.asked = steer.asked - steer.now, min(max(wanted, low), high)
        off = steer.asked - steer.now
        if not steer.caught:
            step = min(SOFT_PER_S, steer.pace) * TICK_S
            steer.caught = abs(off) <= step or (steer.sought and before * off < 0)
            steer.sought = True
        if steer.caught:
            off, step = steer.smooth.to(steer.asked) - steer.now, steer.pace * TICK_S
        steer.now = min(max(steer.now + min(max(off, -step), step), low), high)
        if not steer.caught:
            steer.smooth.stand(steer.now)


def pace_of(figure: Figure, steering: Steering, ident: str, lead: Lead, can: Mapping[str, KeepsUp]) -> float:
    """How fast a ribbon goes at most, in its own unit a second: as is allowed, or as its drives turn where that is less."""
    unit = lead.channel.measure(figure).si
    speed = can[ident].speed / unit if ident in can else math.inf
    return min(steering.pace, speed) if lead.channel.leads is not None else math.inf
