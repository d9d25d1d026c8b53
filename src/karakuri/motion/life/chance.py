"""Chance that is the same everywhere: here, and on a small controller that lives by the same seed.

xorshift32, shifts 13, 17, 5: Marsaglia, Xorshift RNGs, J. Stat. Softw. 8 (14), 2003.
"""

from __future__ import annotations

_ALL = 0xFFFFFFFF
_SPREAD = 0x9E3779B9


class Chance:
    """From a seed, and of a kind, so that each kind has its own however often another draws."""

    def __init__(self, seed: int, kind: int = 0) -> None:
        self.state = ((seed + 1) * _SPREAD + kind * 0x85EBCA6B) & _ALL or 1
        for _ in range(4):  # near seeds begin apart
            self.draw()

    def draw(self) -> int:
        """The next number, 1 to 2³² − 1."""
        x = self.state
        x ^= x << 13 & _ALL
        x ^= x >> 17
        x ^= x << 5 & _ALL
        self.state = x
        return x

    def share(self) -> float:
        """From 0 up to 1, in 2²⁴ steps, which a number of 32 bits holds exactly."""
        return (self.draw() >> 8) / float(1 << 24)

    def between(self, low: float, high: float) -> float:
        """From low up to high."""
        return low + (high - low) * self.share()

    def happens(self, chance: float) -> bool:
        """True so often, 0 to 1."""
        return self.share() < chance
