"""What is asked about a joint that nothing drives."""

from __future__ import annotations

from dataclasses import dataclass

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.hanging import Hanging, hangings
from karakuri.study.requests.contract import Request


@dataclass(frozen=True, eq=False)
class Hangs(Request[tuple[Hanging, ...]]):
    """What free joint j does in each posture and all over what carries it; gravities (p, 3) m/s², bump m/s²."""

    kind = "hangs"
    tree: Tree
    j: int
    gravities: Array
    bump: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Hanging, ...]:
        """It is the same, quick or not."""
        return hangings(self.tree, self.j, self.gravities, self.bump)
