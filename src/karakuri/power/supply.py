"""The named supply against all stall currents together, which is what power-up and a jam ask for."""

from __future__ import annotations

from dataclasses import dataclass

from karakuri.model.figure import Figure


@dataclass(frozen=True)
class StallSum:
    """Currents in A: each drive's stall current at the supply's voltage, and the sum."""

    each: tuple[tuple[str, float], ...]
    total: float
    supply: float


def stall_sum(figure: Figure) -> StallSum:
    """Stall current grows with voltage, I = V ÷ R, up to each servo's rated maximum."""
    each: list[tuple[str, float]] = []
    for drive in figure.drives:
        servo = drive.actuator
        volts = min(figure.supply.voltage_V, servo.rated_voltage_V)
        each.append((drive.joint, servo.stall_current_A * volts / servo.at_voltage_V))
    return StallSum(tuple(each), sum(current for _, current in each), figure.supply.current_A)
