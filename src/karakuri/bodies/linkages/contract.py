"""The contract of a linkage: where the drive stands for a place of the joint, and how fast it goes for the joint's speed.

To add a kind: a class in model/transmission.py, a file here with frozen numbers that is a Linkage and a function from the
model's value to it, a line in the table of __init__.py. A linkage is numbers only: it is part of the key under which results are kept.
Joint places are q rad, drive places u rad; u grows as the horn turns about the joint's + axis, and is 0 where the joint is at 0.
"""

from __future__ import annotations

from typing import Protocol

from numpy import bool_
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen

LEAST = 1e-4
"""Ratios are told as at least this, and as at most 1 ÷ this: at a dead point one side has no hold of the other at all."""


class Reached(Frozen, eq=False):
    """Of joint places (n,): where the drive stands, rad; ratio du/dq; bend d²u/dq², 1/rad; `angle` rad, 0 … π/2, the transmission angle; and
    whether it closes there at all. Where it does not, all are those of where it nearly does, never NaN."""

    drive: Array
    ratio: Array
    bend: Array
    angle: Array
    closes: NDArray[bool_]


class Through(Protocol):
    """What every linkage tells: `efficiency` is the share of a torque that comes through, with its bounds where that is a guess."""

    @property
    def even(self) -> bool:
        """Whether its ratio is the same everywhere."""

    @property
    def efficiency(self) -> float:
        """What comes through, 0 … 1."""

    @property
    def efficiency_bounds(self) -> tuple[float, float]:
        """Between these it may be."""


class Linkage(Through, Protocol):
    """One drive, one joint."""

    def inverse(self, q: Array) -> Reached:
        """Where the drive stands for joint places (n,) rad."""

    def forward(self, u: Array, near: Array) -> Array:
        """Joint places (n,) rad for drive places (n,) rad: of several the one next to `near` (n,) rad; where there is none, as near as it comes."""

    def play(self, q: Array) -> Array:
        """How far the joint is free while the drive stands, rad, whole width, at joint places (n,) rad."""

    def pulls(self, q: Array, torque: Array) -> Array:
        """The force, N, that a torque (n,) N·m at the joint puts on the drive's shaft from the side; also what a rod bears, pulled or pressed."""
