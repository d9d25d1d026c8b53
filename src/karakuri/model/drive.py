"""Drives: the actuator of a joint, its values copied into the figure so that no new catalogue changes a verdict."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from karakuri.model.base import Identifier, Name, NotNegative, Place, Positive, Value
from karakuri.model.part import Origin


class Actuator(Value):
    """A servo as its label, its data sheet or its class tells it. `estimated` names the fields nobody stated."""

    name: Name
    catalogue_id: Identifier | None = None
    torque_Nm: Positive = Field(description="Advertised stall torque at at_voltage_V.")
    at_voltage_V: Positive
    rated_voltage_V: Positive = Field(description="Never scaled past this.")
    speed_s_per_60deg: Positive = Field(description="At at_voltage_V without load.")
    mass_g: NotNegative
    mass_origin: Origin = "data sheet"
    stall_current_A: Positive
    gears: Literal["metal", "plastic", "not stated"] = "not stated"
    travel_deg: Positive = 180.0
    play_deg: NotNegative = Field(0.6, description="Free play at the horn, whole width.")
    permitted_moment_Nm: Positive = Field(description="Tilting moment its output shaft may carry for long.")
    permitted_side_N: Positive = Field(description="Side load its output shaft may carry for long.")
    shaft_stiffness_Nm_per_rad: Positive = Field(description="Against tilting of the output shaft.")
    reflected_inertia_kgm2: NotNegative = Field(0.0, description="Of motor and gears, seen at the output.")
    price: NotNegative | None = None
    estimated: tuple[str, ...] = ()


class Drive(Value):
    """A direct drive: the servo turns the joint itself. The servo is a body at the pivot on the joint's parent."""

    id: Identifier
    joint: Identifier
    actuator: Actuator
    kind: Literal["direct"] = "direct"
    at_mm: Place | None = Field(None, description="Where its body sits; left out: at the pivot.")
    output: int | None = Field(None, ge=0, le=63, description="Which output of the board it is plugged into.")
