"""What a wanted move asks of what carries the joints that feel it, and of a rod."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.model.rod import Rod
from karakuri.sizing.flicked import flicked
from karakuri.sizing.swung import swung
from karakuri.sizing.tilted import Tilted
from karakuri.sizing.wanted import AskedMove
from karakuri.sizing.whipped import Whipped
from karakuri.study.requests.contract import Request


class Swings(Request[tuple[Tilted, ...]], eq=False):
    """Joint k's wanted move, and joints by row, each with how far its bearing lies from its pivot, m; gravities (p, 3) m/s², poses (m,) rad or m."""

    kind = "swings"
    tree: Tree
    k: int
    move: AskedMove
    offs: tuple[tuple[int, float], ...]
    gravities: Array
    poses: tuple[Array, ...]

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Tilted, ...]:
        """The most it asks of each, N·m and N."""
        return swung(self.tree, self.k, self.move, self.offs, self.gravities, self.poses)


class Flicks(Request[Whipped | None], eq=False):
    """Rod number i while joint k makes a wanted move; gravities (p, 3) m/s²."""

    kind = "flicks"
    tree: Tree
    rod: Rod
    i: int
    k: int
    move: AskedMove
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Whipped | None:
        """The worst moment of it, s and m/s²."""
        return flicked(self.tree, self.rod, self.i, self.k, self.move, self.gravities)
