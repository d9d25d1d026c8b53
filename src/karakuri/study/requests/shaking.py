"""What is asked about how a joint comes to rest."""

from __future__ import annotations

from karakuri.actuators.position_loop import Train
from karakuri.bodies.inertia import Array
from karakuri.sizing.shaking import Shaking, Told, shaking
from karakuri.study.requests.contract import Request


class Shakes(Request[Shaking], eq=False):
    """A train after a move, under anything between `pulls` N·m; visible rad and m at the rim, m; longest_way rad."""

    kind = "shaking"
    train: Train
    told: Told
    pulls: tuple[float, float]
    visible: tuple[float, float]
    rim: float
    longest_way: float
    bounds: bool

    def run(self, quick: bool, known: tuple[Array, ...]) -> Shaking:
        """It is the same, quick or not."""
        return shaking(self.train, self.told, self.pulls, self.visible, self.rim, self.longest_way, self.bounds)
