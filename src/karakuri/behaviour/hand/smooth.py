"""Smoothing: two first-order low passes one after the other, as small controllers reckon them. Behind a hand that moves steadily it stays by its delay exactly."""

from __future__ import annotations

import math

from karakuri.behaviour.hand.contract import TICK_S


def share_of(delay_s: float) -> float:
    """How much of what is left each of the two takes a tick, 0 to 1: behind a ramp each stays by (1 − a) ÷ a ticks, both together by the delay, s."""
    return TICK_S / (TICK_S + max(delay_s, 0.0) / 2.0)


def calmed(delay_s: float) -> float:
    """What is left of a shaking without rhythm from tick to tick, 0 to 1: the root of the sum of the squares of a²(n + 1)(1 − a)ⁿ."""
    a = share_of(delay_s)
    z = (1.0 - a) ** 2
    return a * a * math.sqrt((1.0 + z) / (1.0 - z) ** 3)


class Smooth:
    """One value."""

    def __init__(self, delay_s: float, at: float) -> None:
        self._share = share_of(delay_s)
        self._first = self.now = at

    def to(self, wanted: float) -> float:
        """A tick on towards what is wanted."""
        self._first += self._share * (wanted - self._first)
        self.now += self._share * (self._first - self.now)
        return self.now

    def stand(self, at: float) -> None:
        """Be there, at rest."""
        self._first = self.now = at
