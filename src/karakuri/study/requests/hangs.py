"""What is asked about joints that nothing drives."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.hanging import Hanging, hangings
from karakuri.study.requests.contract import Request


class Hangs(Request[tuple[tuple[Hanging, ...], ...]], eq=False):
    """What each free joint does in each posture and all over what carries it; gravities (p, 3) m/s², bump m/s²."""

    kind = "hangs"
    tree: Tree
    gravities: Array
    bump: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[tuple[Hanging, ...], ...]:
        """It is the same, quick or not."""
        return hangings(self.tree, self.gravities, self.bump)
