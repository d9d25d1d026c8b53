"""What is asked about motors that turn on, and about hands at levers."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.model.element import Motor
from karakuri.sizing.hand import HandFound, hand_found
from karakuri.sizing.turning import TurnFound, turn_found
from karakuri.study.requests.contract import Request


class Turned(Request[TurnFound], eq=False):
    """Load i, a motor on joint j that rubs with N·m; gravities (p, 3) m/s²."""

    kind = "turning"
    tree: Tree
    i: int
    j: int
    motor: Motor
    rubs: float
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> TurnFound:
        """It is the same, quick or not."""
        return turn_found(self.tree, self.i, self.j, self.motor, self.rubs, self.gravities)


class Levered(Request[HandFound], eq=False):
    """Load i, a hand at a lever of `arm` m that turns joint j `turns` times as far, over the `wanted` range, rad, rubbing with N·m; gravities (p, 3) m/s²."""

    kind = "hand"
    tree: Tree
    i: int
    j: int
    arm: float
    turns: float
    wanted: tuple[float, float]
    rubs: float
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> HandFound:
        """It is the same, quick or not."""
        return hand_found(self.tree, self.i, self.j, self.arm, self.turns, self.wanted, self.rubs, self.gravities)
