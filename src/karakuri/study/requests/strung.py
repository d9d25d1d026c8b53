"""What is asked about an element over all its joints can do."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.sizing.strung import Strung, strung
from karakuri.study.requests.contract import Request


class Reaches(Request[Strung], eq=False):
    """Load i of a tree, between its lengths; gravities (p, 3) m/s²."""

    kind = "strung"
    tree: Tree
    i: int
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Strung:
        """It is the same, quick or not."""
        return strung(self.tree, self.i, self.gravities)
