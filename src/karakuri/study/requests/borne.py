"""What is asked about what bears a figure or a part of it: rods, fastenings, a wearer."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.model.fastening import Fastened
from karakuri.model.rod import Rod
from karakuri.model.stand import Base, Posture
from karakuri.sizing.fastened import FastenedFound, fastened
from karakuri.sizing.rods import RodFound, rod_found
from karakuri.sizing.worn import WayFound, ways
from karakuri.study.requests.contract import Request


class Bends(Request[RodFound], eq=False):
    """Rod number i; gravities (p, 3) m/s², bump in times gravity."""

    kind = "rod"
    tree: Tree
    rod: Rod
    i: int
    gravities: Array
    bump: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> RodFound:
        """It is the same, quick or not."""
        return rod_found(self.tree, self.rod, self.i, self.gravities, self.bump)


class Holds(Request[FastenedFound | None], eq=False):
    """Fastening number i, `it`; gravities (p, 3) m/s², bump m/s²."""

    kind = "fastened"
    tree: Tree
    it: Fastened
    i: int
    gravities: Array
    bump: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> FastenedFound | None:
        """It is the same, quick or not."""
        return fastened(self.it, self.tree, self.i, self.gravities, self.bump)


class Wears(Request[tuple[WayFound, ...]], eq=False):
    """What a worn figure asks of its wearer, g m/s²; `others`: by the other ways of carrying it besides."""

    kind = "worn"
    tree: Tree
    base: Base
    postures: tuple[Posture, ...]
    g: float
    others: bool

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[WayFound, ...]:
        """It is the same, quick or not."""
        return ways(self.base, self.postures, self.g, self.tree, self.others)
