"""What is asked about parts going past each other."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid
from karakuri.bodies.tree import Tree
from karakuri.course import ALONE, Course
from karakuri.mechanics.glance import glance
from karakuri.mechanics.pairs import RoomFound
from karakuri.mechanics.room import room
from karakuri.study.requests.contract import Request

COARSE, FINE = 1500, 20_000
"""Poses tried for all pairs together."""


class Rooms(Request[RoomFound], eq=False):
    """All pairs of solids but those skipped; `enough` m apart they are not looked at closer, `must` m must stay."""

    kind = "room"
    tree: Tree
    solids: tuple[Solid, ...]
    skipped: tuple[tuple[int, int], ...]
    enough: float
    must: float

    def run(self, quick: bool, known: tuple[Array, ...]) -> RoomFound:
        """Coarse, or over as many poses as it takes, within bounds."""
        return self.look(COARSE if quick else FINE, ALONE)

    def glance(self) -> RoomFound:
        """From a few poses, for a first answer."""
        return glance(self.tree, self.solids, frozenset(self.skipped), self.enough)

    def look(self, poses: int, course: Course) -> RoomFound:
        """Over about so many poses; says how far it is. Raises GivenUp."""
        return room(self.tree, self.solids, frozenset(self.skipped), self.enough, poses, course, self.must)
