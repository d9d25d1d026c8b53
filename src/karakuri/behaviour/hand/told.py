"""What is told of a grip before anybody takes hold: how late it is, how much it calms a shaking hand, how long its ribbons take from end to end."""

from __future__ import annotations

import math
from collections.abc import Mapping

from karakuri.behaviour.hand.contract import TICK_S
from karakuri.behaviour.hand.grasp import Grasp
from karakuri.behaviour.hand.smooth import calmed
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.motion.voice.following import KeepsUp


class Told(Frozen):
    """Times in s: `reads` until an input is read, on average, `smooths` what smoothing adds, `sends` until the pulse is out; `calms` is what is left of a
    shaking from reading to reading, 0 to 1; by ribbon how long its whole way takes at the pace there is, s."""

    reads: float
    smooths: float
    sends: float
    calms: float
    whole: Mapping[str, float]

    @property
    def late(self) -> float:
        """From the hand to the pulse, s."""
        return self.reads + self.smooths + self.sends


def told_of(figure: Figure, grip_id: str, can: Mapping[str, KeepsUp] | None = None) -> Told:
    """Of one grip of a figure. Raises KeyError, ValueError where there is no such grip."""
    hand = Grasp(figure, None, can)
    grip = hand.steering.grip(grip_id)
    mine = hand.of_grip(grip_id)
    whole = {i: (s.lead.high - s.lead.low) / s.pace if math.isfinite(s.pace) else 0.0 for i, s in mine.items()}
    return Told(TICK_S / 2, grip.smooth_ms / 1e3, TICK_S, calmed(grip.smooth_ms / 1e3), whole)
