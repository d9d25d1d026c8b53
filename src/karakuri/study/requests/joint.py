"""What is asked about one joint's drive, over the part of the tree that it feels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from karakuri.mechanics.worst import QUICK_STARTS, STARTS, Worst, worst_pose
from karakuri.sizing.geared import MOST, QUICK, Geared, geared_together
from karakuri.sizing.hold import Extremes, extremes
from karakuri.sizing.tries import PlacedMove
from karakuri.sizing.wanted import AskedMove, place_move
from karakuri.study.requests.contract import Request

if TYPE_CHECKING:
    from karakuri.actuators.servo import Capability
    from karakuri.bodies.inertia import Array
    from karakuri.bodies.tree import Tree


class WorstPose(Request[Worst], eq=False):
    """Joint j's worst poses; gravities (p, 3) m/s²."""

    kind = "worst pose"
    tree: Tree
    j: int
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Worst:
        """From a few starts, or from many."""
        return worst_pose(self.tree, self.j, self.gravities, QUICK_STARTS if quick else STARTS, known, not quick)


class HurriedPose(WorstPose):
    """The same about known poses alone, while a hand drags."""

    kind = "hurried worst pose"

    def run(self, quick: bool, known: tuple[Array, ...]) -> Worst:
        """In few calls."""
        return worst_pose(self.tree, self.j, self.gravities, QUICK_STARTS, known, plain=False, hurried=True)


class Together(Request[Geared], eq=False):
    """The drive of joint j, which shares joints with others, wherever these may be: without what it bears, so that it stays as it is while masses change."""

    kind = "together"
    unladen: Tree
    j: int

    def run(self, quick: bool, known: tuple[Array, ...]) -> Geared:
        """At many places, or at fewer."""
        return geared_together(self.unladen, self.j, QUICK if quick else MOST)


class Bounds(Request[Extremes], eq=False):
    """Joint j's extremes over uncertain masses; gravities (p, 3) m/s². Looked for from `worst` (m,), and told of there too."""

    kind = "bounds"
    tree: Tree
    j: int
    gravities: Array
    worst: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Extremes:
        """At known poses and a spread, or searched on from there."""

        def search(other: Tree, gravity: Array, poses: tuple[Array, ...]) -> Worst:
            return worst_pose(other, self.j, gravity, QUICK_STARTS, poses, plain=False, tilting=False)

        return extremes(self.tree, self.j, self.gravities, (self.worst, *known), None if quick else search)


class MovePlaces(Request[PlacedMove], eq=False):
    """Where a wanted move of joint j is worst for the drive of joint `drive`; gravities (p, 3) m/s², reflected kg·m²."""

    kind = "move"
    tree: Tree
    j: int
    gravities: Array
    move: AskedMove
    can: Capability
    reflected: float
    drive: int

    def run(self, quick: bool, known: tuple[Array, ...]) -> PlacedMove:
        """Among the known poses, or climbed on from there."""
        return place_move(
            self.tree, self.j, self.move, self.can, self.reflected, self.gravities, known, not quick, self.drive
        )
