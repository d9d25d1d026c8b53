"""What is asked about a joint that nothing drives."""

from __future__ import annotations

from dataclasses import dataclass

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.hanging import Hanging, hanging
from karakuri.study.requests.contract import Request


@dataclass(frozen=True, eq=False)
class Hangs(Request[tuple[Hanging, ...]]):
    """What free joint j does in each posture; gravities (p, 3) m/s², bump m/s²."""

    kind = "hangs"
    tree: Tree
    j: int
    gravities: Array
    bump: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Hanging, ...]:
        """It is the same, quick or not."""
        return tuple(hanging(self.tree, self.j, gravity, self.bump) for gravity in self.gravities)
