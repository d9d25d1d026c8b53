"""The contract of an element's law: force against length, for lengths and forces along whatever way it takes.

To add a kind: a class in model/element.py, a file here with frozen numbers that is a Law and a function from the model's
value to it, a line in the table of __init__.py. A law is numbers only: it is part of the key under which results are kept.
"""

from __future__ import annotations

from typing import Protocol

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen

FORCE_BOUNDS = {"weighed": 0.05, "data sheet": 0.10, "typical": 0.15, "guess": 0.30}
"""By what share the force of an element may be off, by where its numbers came from: defaults, common practice, no source."""


class Law(Protocol):
    """s (any shape): the length of the way, m, or the angle of a joint, rad. Forces are N, or N·m against an angle."""

    def force(self, s: Array) -> Array:
        """What draws s shorter (an angle smaller), N or N·m; negative where it pushes. 0 where it is slack."""

    def energy(self, s: Array) -> Array:
        """Stored, J: its slope along s is the force."""

    def slope(self, s: Array) -> Array:
        """How the force grows with s, N/m or N·m/rad."""

    @property
    def ends(self) -> tuple[float, float]:
        """Between which s the law holds, m or rad: beyond them it is torn, coil-bound or out of stroke."""


class Load(Frozen, eq=False):
    """One element as mechanics computes with it: its law, `scale` of it, and its way: points (w, 3) m at rest on links (w,), −1 the base, or
    the angle of `joint` alone, −1 where it has a way. `bound` is the share by which its force may be off; `idle`: it turns nothing that stands still."""

    law: Law
    links: tuple[int, ...]
    points: Array
    joint: int
    scale: float
    bound: float

    idle: bool = False

    @property
    def turns_joint(self) -> bool:
        """Whether it acts on a joint's angle, not along a way."""
        return self.joint >= 0
