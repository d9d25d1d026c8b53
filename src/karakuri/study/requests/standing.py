"""What is asked about how a figure stands."""

from __future__ import annotations

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.tipping import Footing, Tipping, worst_tipping
from karakuri.study.requests.contract import Request


class Standing(Request[Tipping | None], eq=False):
    """Tipping over the edges of what it stands on; gravities (p, 3) m/s²."""

    kind = "tipping"
    tree: Tree
    on: Footing
    gravities: Array

    def run(self, quick: bool, known: tuple[Array, ...]) -> Tipping | None:
        """From the last worst pose and rest, or from more."""
        warm = known[0] if known else None
        starts = 1 if quick and warm is not None else 6
        return worst_tipping(self.tree, self.on, self.gravities, starts, warm)
