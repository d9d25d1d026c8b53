"""A simulated hand at knobs and sticks, from a seed: it reaches here and there as hands do, lets sticks go, presses keys, and holds the dead man's switch.

A reach is a minimum-jerk move (Flash & Hogan, J. Neurosci. 5, 1985) of 0.3 to 1.2 s: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from karakuri.model.behaviour import ANALOG, Behaviour, Input
from karakuri.model.steering import Steering
from karakuri.motion.life.chance import Chance
from karakuri.motion.profiles import PROFILES

TAKES_S, RESTS_S, LETS_GO = (0.3, 1.2), (0.1, 1.2), 0.4


@dataclass
class _Reach:
    """One input on its way."""

    of: Input
    chance: Chance
    begins: float = 0.0
    takes: float = 0.0
    start: float = 50.0
    to: float = 50.0

    def at(self, time: float) -> float:
        while time >= self.begins + self.takes:
            ends, self.start = self.begins + self.takes, self.to
            self.begins = ends + self.chance.between(*RESTS_S)
            self.takes = self.chance.between(*TAKES_S)
            self.to = 50.0 if self.of.kind == "stick" and self.chance.happens(LETS_GO) else self.chance.between(0.0, 100.0)  # fmt: skip
        one = (max(time - self.begins, 0.0), self.takes, self.to - self.start, 0.0, 0.0)
        x, _, _ = PROFILES["minimum jerk"].run(*(np.array([each]) for each in one))
        place = self.start + float(x[0])
        return place if self.of.kind in ANALOG else 100.0 if place > 60.0 else 0.0


class SimulatedHand:
    """Asked about later and later times only."""

    def __init__(self, behaviour: Behaviour, steering: Steering, seed: int = 1) -> None:
        self._held = steering.held_by
        wanted = steering.inputs - {self._held, steering.sensitivity_by}
        self._reaches = [_Reach(each, Chance(seed, 64 + k)) for k, each in enumerate(behaviour.inputs) if each.id in wanted]  # fmt: skip

    def at(self, time: float) -> dict[str, float]:
        """Levels of the inputs it has in hand, 0 to 100, at a time, s."""
        out = {reach.of.id: reach.at(time) for reach in self._reaches}
        if self._held is not None:
            out[self._held] = 100.0
        return out
