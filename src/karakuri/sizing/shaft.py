"""Side load and tilting moment on what carries a joint, and how far the head leans at its rim because of it."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.tree import Tree
from karakuri.catalogue import ESTIMATE_SHARE, permitted_moment_Nm
from karakuri.frozen import Frozen
from karakuri.mechanics.worst import Worst
from karakuri.model.drive import Drive
from karakuri.model.joint import Joint
from karakuri.sizing.give import give_of


class Shaft(Frozen):
    """Moments N·m, forces N, lengths m. `spread`, `side_spread` are the shares by which the permitted moment and side load may be off,
    0 where somebody stated them; lean is None unless on a spline."""

    moment: float
    permitted: float
    side: float
    permitted_side: float | None
    spread: float
    side_spread: float
    reach: float
    lean: float | None
    play: float
    stiffness: float
    bracket: float

    @property
    def reserve(self) -> float:
        """Permitted ÷ asked, the smaller of moment and side load."""
        return min(self.moment_reserve, self.side_reserve)

    @property
    def moment_reserve(self) -> float:
        return self.permitted / self.moment if self.moment > 1e-9 else math.inf

    @property
    def side_reserve(self) -> float:
        return self.permitted_side / self.side if self.permitted_side is not None and self.side > 1e-9 else math.inf

    @property
    def interval(self) -> tuple[float, float]:
        """Low and high of the reserve, with what is only estimated at its bounds."""
        return (
            min(self.moment_reserve * (1 - self.spread), self.side_reserve * (1 - self.side_spread)),
            min(self.moment_reserve * (1 + self.spread), self.side_reserve * (1 + self.side_spread)),
        )


def shaft(tree: Tree, j: int, joint: Joint, drive: Drive | None, worst: Worst, share: float = 1.0) -> Shaft | None:
    """N, N·m, m. `share`: what counts of what two servos carry together, 1 for one alone. None where nobody says what carries the load:
    a bare spline without a servo, or with one that turns the joint through something else.

    Lean at the rim = (play ÷ 2 + moment ÷ stiffness + moment ÷ what its bracket gives) × distance to the farthest carried part. The distance from the case's bearing
    to the pivot's plane adds side load × distance to the moment.
    """
    spline = joint.support.kind == "spline"
    reach = _reach(tree, j)
    moment = worst.moment + (worst.side * joint.support.distance_mm / 1e3 if spline else 0.0)
    if not spline:
        own = joint.support.permitted_moment_Nm
        permitted = own or permitted_moment_Nm(joint.support.kind) or 0.0
        return Shaft(
            moment=moment,
            permitted=permitted,
            side=worst.side,
            permitted_side=None,
            spread=0.0 if own else ESTIMATE_SHARE,
            side_spread=0.0,
            reach=reach,
            lean=None,
            play=0.0,
            stiffness=math.inf,
            bracket=math.inf,
        )
    if drive is None or drive.transmission.kind != "direct":
        return None
    actuator, bracket = drive.acting(share), give_of(drive).bracket
    permitted = joint.support.permitted_moment_Nm or actuator.permitted_moment_Nm
    guessed = joint.support.permitted_moment_Nm is None and "permitted_moment_Nm" in actuator.estimated
    play = math.radians(actuator.play_deg)
    lean = (play / 2 + moment / actuator.shaft_stiffness_Nm_per_rad + moment / bracket) * reach
    return Shaft(
        moment=moment,
        permitted=permitted,
        side=worst.side,
        permitted_side=actuator.permitted_side_N,
        spread=ESTIMATE_SHARE if guessed else 0.0,
        side_spread=ESTIMATE_SHARE if "permitted_side_N" in actuator.estimated else 0.0,
        reach=reach,
        lean=lean,
        play=play,
        stiffness=actuator.shaft_stiffness_Nm_per_rad,
        bracket=bracket,
    )


def _reach(tree: Tree, j: int) -> float:
    """Distance, m, at rest, from the joint's pivot to the farthest carried body."""
    rows = tree.rides[j]
    return float(np.linalg.norm(tree.body_at[rows] - tree.pivot[j], axis=1).max()) if rows.any() else 0.0
