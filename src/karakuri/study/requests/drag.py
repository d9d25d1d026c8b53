"""What is asked about what a joint rubs with, and what brings it back against that."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.model.joint import Joint
from karakuri.sizing.drag import Dragging, Returning, dragging, returning
from karakuri.study.requests.contract import Request


class Drags(Request[Dragging | None], eq=False):
    """What joint j, which is `joint`, rubs with; gravities (p, 3) m/s², tilting N·m, pressing N."""

    kind = "drag"
    tree: Tree
    j: int
    joint: Joint
    gravities: Array
    tilting: float
    pressing: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> Dragging | None:
        """It is the same, quick or not."""
        return dragging(self.tree, self.j, self.joint, self.gravities, self.tilting, self.pressing)


class Returns(Request[Returning | None], eq=False):
    """What brings joint j back along its `wanted` range, rad (m); gravities (p, 3) m/s²."""

    kind = "return"
    tree: Tree
    j: int
    wanted: tuple[float, float]
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Returning | None:
        """It is the same, quick or not."""
        return returning(self.tree, self.j, self.wanted, self.gravities)
