"""What a servo can do at the voltage it gets: a straight torque-speed line, scaled by voltage.

ω = ω0 (1 − T ÷ Ts): permanent-magnet DC motor theory, e.g. Hughes, Electric Motors and Drives, ch. 3 (from memory);
that an advertised pair of values is a straight line is common practice, no published source.
"""

from __future__ import annotations

import math

from karakuri.actuators.stepper import shares
from karakuri.frozen import Frozen
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Actuator


class Capability(Frozen):
    """Torques in N·m, speed in rad/s, at the voltage that reaches the servo."""

    voltage: float
    advertised: float
    stall: float
    continuous: float
    intermittent: float
    free_speed: float
    continuous_share: float

    def speed_at(self, torque: float) -> float:
        """Speed, rad/s, that is left under a torque, N·m; 0 beyond the usable torque."""
        return max(0.0, self.free_speed * (1.0 - abs(torque) / self.stall))

    def with_spare(self, margin: float) -> float:
        """N·m that may be held for long with that margin to spare."""
        return self.continuous / margin


def capability(actuator: Actuator, supply_V: float, assumptions: Assumptions) -> Capability:
    """usable = advertised × share × volts ÷ volts it was given at, never past the rated maximum.

    Speed scales with voltage too, to first order. Gears that are not stated count as plastic. A stepper has what its windings let it (stepper.py).
    """
    if actuator.stepper is not None:
        usable = actuator.torque_Nm * assumptions.stall_share
        moving, standing, ends = shares(actuator.stepper, assumptions)
        volts = actuator.stepper.volts
        return Capability(volts, actuator.torque_Nm, usable, usable * standing, usable * moving, ends, standing)
    voltage = min(supply_V, actuator.rated_voltage_V)
    scale = voltage / actuator.at_voltage_V
    usable = actuator.torque_Nm * assumptions.stall_share * scale
    share = assumptions.held_share if actuator.gears == "metal" else assumptions.held_share_plastic
    free = math.radians(60.0) / actuator.speed_s_per_60deg * scale
    return Capability(
        voltage, actuator.torque_Nm * scale, usable, usable * share, usable * assumptions.passing_share, free, share
    )
