"""Force that grows in proportion: springs drawn out or pressed, pads, springs about a joint."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen

RAMP = 2e-4
"""A force that begins all at once does so within this, m or rad: a real coil does not part at one length either."""


def risen(by: Array) -> Array:
    """The integral (n,), m or rad, over `by` (n,) ≥ 0 of a force that has risen to 1 within RAMP."""
    return np.where(by < RAMP, by * by / (2 * RAMP), by - RAMP / 2)


class Linear(Frozen, eq=False):
    """preload + rate × (s − free), where s is beyond free (`draws`) or short of it (`presses`), else 0. free m or rad, rate N/m or N·m/rad,
    preload N or N·m ≥ 0 in the direction it acts, all of it from RAMP beyond free; `least` and `most` are the ends of s."""

    free: float
    rate: float
    preload: float = 0.0
    draws: bool = True
    presses: bool = False
    least: float = -math.inf
    most: float = math.inf

    def _off(self, s: Array) -> Array:
        """How far s is beyond free where it draws, short of it (negative) where it presses; 0 where it is slack."""
        off: Array = s - self.free
        if not self.presses:
            off = np.maximum(off, 0.0)
        return off if self.draws else np.minimum(off, 0.0)

    def force(self, s: Array) -> Array:
        """N or N·m: Hooke's law beside its preload."""
        off = self._off(s)
        if self.preload == 0.0:
            return self.rate * off
        out: Array = self.rate * off + self.preload * np.clip(off / RAMP, -1.0, 1.0)
        return out

    def energy(self, s: Array) -> Array:
        """J: ½ rate × (s − free)² + preload × |s − free| where it acts."""
        off = self._off(s)
        if self.preload == 0.0:
            return np.asarray(0.5 * self.rate * off * off)
        return np.asarray(0.5 * self.rate * off * off + self.preload * risen(np.abs(off)))

    def slope(self, s: Array) -> Array:
        """N/m or N·m/rad."""
        off = s - self.free
        if self.draws and self.presses and self.preload == 0.0:
            return np.full_like(off, self.rate)
        acts = ((off >= 0) & self.draws) | ((off <= 0) & self.presses)
        return np.where(acts, self.rate + np.where(np.abs(off) < RAMP, self.preload / RAMP, 0.0), 0.0)

    @property
    def ends(self) -> tuple[float, float]:
        return self.least, self.most
