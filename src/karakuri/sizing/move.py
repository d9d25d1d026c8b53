"""A wanted move as a bound: worst hold + largest inertia × peak acceleration + friction, and its peak speed.

Minimum-jerk profile: peak speed 1.875 D ÷ T, peak acceleration 5.774 D ÷ T² (Flash & Hogan, J. Neurosci. 5, 1985).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from karakuri.actuators.servo import Ability
from karakuri.model.joint import Move

PEAK_SPEED = 15.0 / 8.0
PEAK_ACCELERATION = 10.0 / math.sqrt(3.0)


@dataclass(frozen=True)
class MoveBound:
    """by rad, time s, speed rad/s, acceleration rad/s², inertia kg·m² (carried, reflected), torque N·m; left: speed at that torque."""

    by: float
    time: float
    speed: float
    acceleration: float
    inertia: float
    reflected: float
    hold: float
    friction: float
    torque: float
    left: float
    torque_reserve: float
    speed_reserve: float

    @property
    def reserve(self) -> float:
        """The smaller of the two reserves."""
        return min(self.torque_reserve, self.speed_reserve)


def move_bound(
    move: Move, hold_Nm: float, inertia: float, reflected: float, friction: float, can: Ability
) -> MoveBound:
    """The bound of a wanted move of a turning joint against what its drive gives in passing and at that torque."""
    by = math.radians(move.by)
    speed, acceleration = PEAK_SPEED * by / move.time_s, PEAK_ACCELERATION * by / move.time_s**2
    torque = hold_Nm + (inertia + reflected) * acceleration + friction
    left = can.speed_at(torque)
    return MoveBound(
        by,
        move.time_s,
        speed,
        acceleration,
        inertia,
        reflected,
        hold_Nm,
        friction,
        torque,
        left,
        can.passing / torque if torque > 0 else math.inf,
        left / speed,
    )


def slowest_needed(
    move: Move, hold_Nm: float, inertia: float, reflected: float, friction: float, can: Ability, reserve: float
) -> float | None:
    """The least time, s, in which the same move has that reserve; None where no time is long enough. Bisection."""

    def enough(time_s: float) -> bool:
        slower = Move(by=move.by, time_s=time_s)
        return move_bound(slower, hold_Nm, inertia, reflected, friction, can).reserve >= reserve

    if not enough(60.0):
        return None
    low, high = move.time_s, 60.0
    for _ in range(40):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if enough(middle) else (middle, high)
    return high
