"""What a stepper can do: full torque until its windings cannot follow, less the faster from there; what a microstep is worth; how hot it gets while it stands.

Windings follow up to about V ÷ (2 L I) full steps a second (stepper application notes, from memory); beyond that torque falls as one over speed, all the power
there is. Of microsteps each is worth hold × sin(90° ÷ micro) (the same). Heat: I² R (1 + α (T − 25)) × K/W, copper 0.00393 per kelvin (IEC 60028, at 20 °C).
"""

from __future__ import annotations

import math

from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Stepper

COPPER = 0.00393
KELVIN_PER_W, OF_GRAMS = 8.0, 280.0
"""Of a stepper of so many grams screwed to something that takes no heat; of others by the two thirds power of their mass: common practice, no source."""
AMBIENT = 25.0


def corner(stepper: Stepper) -> float:
    """Up to what speed its windings follow, rad/s at its shaft."""
    return stepper.volts / (2 * stepper.henries_m * 1e-3 * stepper.amps) * 2 * math.pi / stepper.steps


def pull_out(stepper: Stepper, usable: float, speed: float) -> float:
    """What it keeps in step with, N·m, of so much usable standing, at a speed, rad/s."""
    return usable * min(1.0, corner(stepper) / max(abs(speed), 1e-9))


def shares(stepper: Stepper, assumptions: Assumptions) -> tuple[float, float, float]:
    """Of its usable torque what it may be asked for moving, and standing with the current it then has; and the end of a straight line, rad/s, that stays below
    what it keeps in step with everywhere (it touches at twice the corner)."""
    return assumptions.passing_share, assumptions.passing_share * stepper.held, 4 * corner(stepper)


def finest(stepper: Stepper) -> float:
    """One microstep, rad at its shaft."""
    return 2 * math.pi / stepper.steps / stepper.micro


def worth(stepper: Stepper, usable: float) -> float:
    """What one microstep adds, N·m: friction above that swallows it."""
    return usable * math.sin(math.pi / 2 / stepper.micro)


def gives_way(stepper: Stepper, usable: float, torque: float) -> float:
    """How far its shaft gives under a torque, N·m, rad: a quarter of its electrical turn is one full step; inf beyond what it holds."""
    share = abs(torque) / max(usable, 1e-12)
    return math.asin(share) / (math.pi / 2) * 2 * math.pi / stepper.steps if share < 1 else math.inf


def settles_at(amps: float, ohms: float, kelvin_per_W: float, windings: int = 2, ambient: float = AMBIENT) -> float:
    """How hot windings get for good, °C, each with so many A and ohm at 25 °C: T = Ta + a (1 + α (Ta − 25)) ÷ (1 − α a), a = I² R × K/W; inf where it runs away."""
    a = windings * amps**2 * ohms * kelvin_per_W
    return ambient + a * (1 + COPPER * (ambient - 25.0)) / (1 - COPPER * a) if COPPER * a < 1 else math.inf


def kelvin_per_W(mass_g: float) -> float:
    """How much hotter each W makes a stepper of a mass, g, K."""
    return float(KELVIN_PER_W * (OF_GRAMS / max(mass_g, 1.0)) ** (2 / 3))
