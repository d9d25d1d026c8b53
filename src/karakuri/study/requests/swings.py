"""What a wanted move asks of what carries the joints that feel it, of a rod, of what holds something on, and of the figure on its foot."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property, lru_cache

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.digest import digest
from karakuri.mechanics.rocking import Rocking, rocking_in, used
from karakuri.mechanics.tipping import Footing
from karakuri.model.fastening import Fastening
from karakuri.model.rod import Rod
from karakuri.sizing.fastened import Thrown, thrown
from karakuri.sizing.flicked import flicked
from karakuri.sizing.moved import Swing, climbed, states_of
from karakuri.sizing.tilted import Tilted, tilted_in
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

    def lighter(self, known: tuple[Array, ...]) -> Swings:
        """The same with fewer poses, and these (m,) rad or m."""
        return replace(self, swing=self.swing.lighter(known))

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Tilted, ...]:
        """The most it asks of each, N·m and N."""
        return swings_together([self])[0]


def swings_together(requests: Sequence[Swings]) -> list[tuple[Tilted, ...]]:
    """What several ask, N·m and N, all over one tree and its gravities, in one go."""
    tree, gravities = requests[0].tree, requests[0].gravities
    every = tuple(sorted({off for request in requests for off in request.offs}))
    found = tilted_in(tree, every, gravities, *states_of(tree, [request.swing for request in requests]).in_time)
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


class Topples(Request[tuple[Rocking, int] | None], eq=False):
    """A tree on its footing while one of its wanted moves is made; gravities (p, 3) m/s². Climbed on from the worst that are tried where it may `settle`."""

    kind = "topples"
    tree: Tree
    on: Footing
    swings: tuple[Swing, ...]
    gravities: Array
    settle: bool = True

    def lighter(self, known: tuple[Array, ...]) -> Topples:
        """The same with fewer poses, and these (m,) rad or m, not climbed on from."""
        return replace(self, swings=tuple(swing.lighter(known) for swing in self.swings), settle=False)

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Rocking, int] | None:
        """The worst moment of all, m, and the row of the joint whose move it is."""
        if not self.swings:
            return None

        def asked(q: Array, qd: Array, qdd: Array) -> Array:
            return used(self.tree, self.on, self.gravities, q, qd, qdd)

        tried = states_of(self.tree, self.swings)
        some, of = tried.hardest(asked(tried.q, tried.qd, tried.qdd))
        rows = np.array([swing.k for swing in self.swings])[of]
        if self.settle:
            some = climbed(self.tree, rows, some, asked)
        found = rocking_in(self.tree, self.on, self.gravities, *some.in_time)
        each = ((one, int(k)) for one, k in zip(found, rows, strict=True) if one is not None)
        return min(each, key=lambda one: one[0].reserve, default=None)


class Flings(Request[tuple[Thrown, int] | None], eq=False):
    """Fastening number i, `it`, while one of the wanted moves is made; gravities (p, 3) m/s²."""

    kind = "flings"
    tree: Tree
    it: Fastening
    i: int
    swings: tuple[Swing, ...]
    gravities: Array

    @cached_property
    def key(self) -> bytes:
        """All of it, the tree by a digest of its own: many requests share it."""
        return digest((_digested(self.tree), self.it, self.i, self.swings, self.gravities))

    def lighter(self, known: tuple[Array, ...]) -> Flings:
        """The same with fewer poses, and these (m,) rad or m."""
        return replace(self, swings=tuple(swing.lighter(known) for swing in self.swings))

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Thrown, int] | None:
        """The worst moment of all, m/s², and the row of the joint whose move it is."""
        if not self.swings:
            return None
        tried = states_of(self.tree, self.swings)
        numbers = np.arange(tried.ends[-1], dtype=np.float64)  # instead of times: none is at a time
        found = thrown(self.it, self.tree, self.i, self.gravities, numbers, tried.q, tried.qd, tried.qdd)
        if found is None:
            return None
        return replace(found, at_s=0.0), self.swings[int(np.searchsorted(tried.ends, found.at_s, side="right"))].k
