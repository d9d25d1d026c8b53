"""What is asked about what pulls a joint by hand or by a motor: cords and linear actuators; and what a slide asks of that."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.slid import FROM, QUICKLY, Along, along
from karakuri.model.element import Cord, Linear
from karakuri.sizing.cord import CordFound, cord_found
from karakuri.sizing.drag import Dragging
from karakuri.sizing.stroke import StrokeFound, stroke_found
from karakuri.study.requests.contract import Request


class Pulled(Request[CordFound | None], eq=False):
    """Load i, a cord, on joint j along its `wanted` range, rad; gravities (p, 3) m/s². `assumed`: nobody said what it rubs with."""

    kind = "cord"
    tree: Tree
    i: int
    cord: Cord
    j: int
    wanted: tuple[float, float]
    drag: Dragging | None
    gravities: Array
    assumed: bool

    def run(self, quick: bool, known: tuple[Array, ...]) -> CordFound | None:
        """It is the same, quick or not."""
        return cord_found(self.tree, self.i, self.cord, self.j, self.wanted, self.drag, self.gravities, self.assumed)


class Strokes(Request[StrokeFound | None], eq=False):
    """Load i, a linear actuator, over the `wanted` range of what it drives, rad (m), that rubs with N·m (N); gravities (p, 3) m/s²."""

    kind = "stroke"
    tree: Tree
    i: int
    it: Linear
    wanted: tuple[float, float]
    rubs: float
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> StrokeFound | None:
        """It is the same, quick or not."""
        return stroke_found(self.tree, self.i, self.it, self.wanted, self.rubs, self.gravities)


class Slides(Request[Along], eq=False):
    """What slide j must be held with, N; gravities (p, 3) m/s²."""

    kind = "slide"
    tree: Tree
    j: int
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Along:
        """From a few starts, or from more."""
        return along(self.tree, self.j, self.gravities, QUICKLY if quick else FROM)
