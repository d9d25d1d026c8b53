"""What a wanted move asks of what carries the joints that feel it, and of a rod."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property, lru_cache

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.digest import digest
from karakuri.model.rod import Rod
from karakuri.sizing.flicked import flicked
from karakuri.sizing.swung import Swing, swung_each
from karakuri.sizing.tilted import Tilted
from karakuri.sizing.wanted import AskedMove
from karakuri.sizing.whipped import Whipped
from karakuri.study.requests.contract import Request


class Swings(Request[tuple[Tilted, ...]], eq=False):
    """A wanted move, and joints by row, each with how far its bearing lies from its pivot, m; gravities (p, 3) m/s²."""

    kind = "swings"
    tree: Tree
    swing: Swing
    offs: tuple[tuple[int, float], ...]
    gravities: Array

    @cached_property
    def key(self) -> bytes:
        """All of it, the tree by a digest of its own: many requests share it."""
        return digest((_digested(self.tree), self.swing, self.offs, self.gravities))

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Tilted, ...]:
        """The most it asks of each, N·m and N."""
        return swings_together([self])[0]


def swings_together(requests: Sequence[Swings]) -> list[tuple[Tilted, ...]]:
    """What several ask, N·m and N, all over one tree and its gravities, in one go."""
    tree, gravities = requests[0].tree, requests[0].gravities
    every = tuple(sorted({off for request in requests for off in request.offs}))
    found = swung_each(tree, [request.swing for request in requests], every, gravities)
    return [
        tuple(each[every.index(off)] for off in request.offs) for request, each in zip(requests, found, strict=True)
    ]


@lru_cache(maxsize=4)
def _digested(tree: Tree) -> bytes:
    return digest(tree)


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
