"""Side load and tilting moment on what carries a joint, and how far the head leans at its rim because of it."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.catalogue import ESTIMATE_SHARE, permitted_moment_Nm
from karakuri.frozen import Frozen
from karakuri.mechanics.support import may_add
from karakuri.mechanics.worst import Worst
from karakuri.model.drive import Drive
from karakuri.model.joint import Joint
from karakuri.sizing.give import give_of


class Shaft(Frozen):
    """Moments N·m, forces N, lengths m. `spread`, `side_spread` are the shares by which the permitted moment and side load may be off,
    0 where somebody stated them; `more`, `more_side` what uncertain masses and forces may add at their bounds, N·m and N; lean is None unless on a spline."""

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
    more: float = 0.0
    more_side: float = 0.0

    @property
    def reserve(self) -> float:
        """Permitted ÷ asked, the smaller of moment and side load."""
        return min(self.moment_reserve, self.side_reserve)

    @property
    def by_side(self) -> bool:
        """Whether the side load decides, not the moment."""
        return self.side_reserve < self.moment_reserve

    @property
    def moment_reserve(self) -> float:
        return self.permitted / self.moment if self.moment > 1e-9 else math.inf

    @property
    def side_reserve(self) -> float:
        return self.permitted_side / self.side if self.permitted_side is not None and self.side > 1e-9 else math.inf

    @property
    def interval(self) -> tuple[float, float]:
        """Low and high of the reserve, with what is only estimated at its bounds, what it may carry and what it carries."""
        return self._at(-1.0), self._at(1.0)

    @property
    def by_weight(self) -> tuple[float, float]:
        """The same with what it may carry as it is told, and only what it carries at its bounds."""
        known = replace(self, spread=0.0, side_spread=0.0)
        return known.interval

    def asking(self, moment: float, side: float) -> Shaft:
        """The same, asked other moments and forces, N·m and N: what is uncertain is as large a share of these as it is of either, standing."""
        of_moment = self.more / self.moment if self.moment > 1e-9 else 0.0
        of_side = self.more_side / self.side if self.side > 1e-9 else 0.0
        share = max(of_moment, of_side)
        return replace(self, moment=moment, side=side, more=moment * share, more_side=side * share)

    def _at(self, way: float) -> float:
        moment, side = self.moment - way * self.more, self.side - way * self.more_side
        by_moment = self.permitted * (1 + way * self.spread) / moment if moment > 1e-9 else math.inf
        if self.permitted_side is None or side <= 1e-9:
            return by_moment
        return min(by_moment, self.permitted_side * (1 + way * self.side_spread) / side)


def shaft(
    tree: Tree, j: int, joint: Joint, drive: Drive | None, worst: Worst, gravities: Array, share: float = 1.0
) -> Shaft | None:
    """N, N·m, m; gravities (p, 3) m/s². `share`: what counts of what two servos carry together, 1 for one alone. None where nobody says what carries the load:
    a bare spline without a servo, or with one that turns the joint through something else.

    Lean at the rim = (play ÷ 2 + moment ÷ stiffness + moment ÷ what its bracket gives) × distance to the farthest carried part. The distance from the case's bearing
    to the pivot's plane adds side load × distance to the moment.
    """
    spline = joint.support.kind == "spline"
    reach = _reach(tree, j)
    off = bearing_off(joint)
    moment = worst.moment + worst.side * off
    more, more_side = may_add(tree, j, worst.moment_pose, gravities[worst.moment_posture])
    more += more_side * off
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
            more=more,
            more_side=more_side,
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
        more=more,
        more_side=more_side,
    )


def bearing_off(joint: Joint) -> float:
    """How far the bearing that carries a joint lies from its pivot's plane, m: only of a servo's own shaft that is said."""
    return joint.support.distance_mm / 1e3 if joint.support.kind == "spline" else 0.0


def _reach(tree: Tree, j: int) -> float:
    """Distance, m, at rest, from the joint's pivot to the farthest carried body."""
    rows = tree.rides[j]
    return float(np.linalg.norm(tree.body_at[rows] - tree.pivot[j], axis=1).max()) if rows.any() else 0.0
