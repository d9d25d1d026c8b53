"""What the servos draw from the named supply: all stalled together, over the score, and while joint after joint is brought to park.

Current grows with torque, from nothing at rest to the stall current at stall torque: T = Kt I, permanent-magnet DC motor theory, any
text; a first estimate, what the electronics and the gears draw is left out.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure


class StallSum(Frozen):
    """Currents in A: each drive's stall current at the supply's voltage, and the sum."""

    each: tuple[tuple[str, float], ...]
    total: float
    supply: float


class Draw(Frozen):
    """Currents in A: the most at one time of the score and when, s; while one joint stalls as it is woken and the others hold."""

    score: float
    score_at: float
    start: float


def stall_sum(figure: Figure) -> StallSum:
    """Stall current grows with voltage, I = V ÷ R, up to each servo's rated maximum."""
    each: list[tuple[str, float]] = []
    for drive in figure.drives:
        servo = drive.acting(1.0)
        if servo.stepper is not None:  # its driver has a supply of its own
            continue
        volts = min(figure.supply.voltage_V, servo.rated_voltage_V)
        each.append((drive.joint, servo.stall_current_A * volts / servo.at_voltage_V))
    return StallSum(tuple(each), sum(current for _, current in each), figure.supply.current_A)


def draw(
    stalls: StallSum, stall_Nm: dict[str, float], holds_Nm: dict[str, float], efforts_Nm: dict[str, Array], bin_s: float
) -> Draw:
    """Estimates, A. By joint: stall torque and worst hold, N·m, and the largest torque (n,) N·m of each bin_s s of the score."""
    share = {joint: current / stall_Nm[joint] for joint, current in stalls.each if stall_Nm.get(joint, 0.0) > 0}
    total = np.zeros(max((len(e) for e in efforts_Nm.values()), default=0))
    for joint, effort in efforts_Nm.items():
        if joint in share:
            total[: len(effort)] += share[joint] * np.minimum(effort, stall_Nm[joint])
    k = int(total.argmax()) if len(total) else 0
    held = {joint: share[joint] * min(holds_Nm.get(joint, 0.0), stall_Nm[joint]) for joint in share}
    start = max((current + sum(held.values()) - held.get(joint, 0.0) for joint, current in stalls.each), default=0.0)
    return Draw(float(total[k]) if len(total) else 0.0, k * bin_s, start)
