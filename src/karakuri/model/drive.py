"""Drives: the actuator of a joint, its values copied into the figure so that no new catalogue changes a verdict."""

import math
from typing import Annotated, Literal, Self

from karakuri.model.base import (
    Current_A,
    Direction,
    Force_N,
    Identifier,
    Inertia_kgm2,
    Mass_g,
    Name,
    Place,
    Price,
    Size_mm,
    Stiffness,
    Torque_Nm,
    Travel_deg,
    Voltage_V,
    Width_deg,
)
from karakuri.model.labels import Label, labels_of
from karakuri.model.part import Origin
from karakuri.model.transmission import Direct, Transmission
from karakuri.values.fields import Field
from karakuri.values.value import Value

Gears = Literal["metal", "plastic", "not stated"]
Identified = Annotated[str, Field(max_length=60)]


class Stepper(Value):
    """What makes an actuator a stepper: its windings, its driver, and how it finds where it stands. Its torque is then what it holds with, its speed none of its own."""

    steps: Annotated[int, Field(ge=4, le=100_000), Label("Full steps a turn", "count")] = 200
    micro: Literal[1, 2, 4, 8, 16, 32, 64, 128, 256] = Field(default=16, description="Microsteps to each full step.")
    amps: Annotated[Current_A, Label("Current in each winding", "current")] = Field(
        default=1.0, description="As set at its driver, effective."
    )
    ohms: Annotated[float, Field(ge=0.01, le=10_000), Label("Each winding, ohm", "ratio")] = 2.4
    henries_m: Annotated[float, Field(ge=0.01, le=10_000), Label("Each winding, mH", "ratio")] = 4.0
    volts: Annotated[Voltage_V, Label("Its driver gets", "voltage")] = 12.0
    held: Annotated[float, Field(ge=0.0, le=1.0), Label("Of it while it stands", "percent")] = 0.5
    finds: Literal["switch", "stop", "nothing"] = Field(
        default="switch", description="How it finds where it stands when power comes on."
    )
    finds_deg_per_s: Annotated[float, Field(ge=0.1, le=3600), Label("Looks for it at", "speed", math.pi / 180)] = Field(
        default=20.0, description="Of the joint."
    )


class Actuator(Value):
    """A servo as its label, its data sheet or its class tells it. `estimated` names the fields nobody stated."""

    name: Name
    catalogue_id: Identifier | None = None
    torque_Nm: Annotated[Torque_Nm, Label("Stall torque", "torque")] = Field(description="Advertised, at at_voltage_V.")
    at_voltage_V: Annotated[Voltage_V, Label("given at", "voltage")]
    rated_voltage_V: Annotated[Voltage_V, Label("Rated to", "voltage")] = Field(description="Never scaled past this.")
    speed_s_per_60deg: Annotated[float, Label("Speed", "servo_speed")] = Field(
        ge=0.002, le=600, description="At at_voltage_V without load."
    )
    mass_g: Annotated[Mass_g, Label("Weighs", "mass", 1e-3, 0.15)]
    mass_origin: Origin = "data sheet"
    stall_current_A: Annotated[Current_A, Label("Stall current", "current", 1.0, 0.3)]
    gears: Gears = "not stated"
    travel_deg: Annotated[Travel_deg, Label("Turns", "angle", math.pi / 180)] = 180.0
    play_deg: Annotated[Width_deg, Label("Play at the horn", "angle", math.pi / 180, 0.5)] = Field(
        default=0.6, description="Free play at the horn, whole width."
    )
    permitted_moment_Nm: Annotated[Torque_Nm, Label("Shaft may tilt with", "torque", 1.0, 0.5)] = Field(
        description="Tilting moment its output shaft may carry for long."
    )
    permitted_side_N: Annotated[Force_N, Label("Shaft, from the side", "force", 1.0, 0.5)] = Field(
        description="Side load its output shaft may carry for long."
    )
    shaft_stiffness_Nm_per_rad: Annotated[Stiffness, Label("Shaft stiffness", "stiffness", 1.0, 0.5)] = Field(
        description="Against tilting of the output shaft."
    )
    dead_band_deg: Annotated[Width_deg, Label("Dead band", "angle", math.pi / 180, 0.5)] = Field(
        default=0.4, description="Whole width in which it does not answer; a few µs of pulse."
    )
    reflected_inertia_kgm2: Annotated[Inertia_kgm2, Label("Inertia of its gears", "inertia", 1.0, 0.5)] = Field(
        default=0.0, description="Of motor and gears, seen at the output."
    )
    price: Price | None = None
    stepper: Stepper | None = Field(default=None, description="Left out: a servo.")
    estimated: tuple[Identified, ...] = Field(default=(), max_length=40)


ADDED = (
    "mass_g",
    "stall_current_A",
    "permitted_moment_Nm",
    "permitted_side_N",
    "shaft_stiffness_Nm_per_rad",
    "reflected_inertia_kgm2",
)
"""What two servos have twice of; play, dead band, speed and travel stay as they are."""
UNEVEN = ("permitted_moment_Nm", "permitted_side_N")
"""What breaks first at the one that carries more than half: of these too only the share counts."""


def labels() -> dict[str, Label]:
    """The numbers of an actuator by field, in the order of its card."""
    return labels_of(Actuator)


Stuff = Literal["metal", "plastic", "printed"]
BracketStuff = Literal["metal", "wood", "printed", "foam"]


class Mount(Value):
    """What a servo is screwed together with, and to."""

    horn: Stuff | None = Field(default=None, description="Left out: metal for metal gears, else plastic.")
    bracket: BracketStuff = "printed"
    teeth: int = Field(
        default=25, ge=4, le=60, description="Of its spline: 25 is common practice of hobby servos; count yours."
    )


class Case(Value):
    """How a servo's case lies, so that it can be looked at for room. Its shaft comes out near one end."""

    size_mm: tuple[Size_mm, Size_mm, Size_mm] | None = Field(
        default=None, description="Long, wide, high without ears and shaft; left out: typical for what it weighs."
    )
    to: Direction = Field(
        default=(-1.0, 0.0, 0.0), description="From its shaft toward its other end, of what is across the shaft."
    )
    shaft: Literal["plus", "minus"] = Field(
        default="plus",
        description="Its shaft comes out of it the way of the joint's + axis (a ball's shaft_axis), or against it.",
    )

    def _check(self) -> Self:
        if not any(self.to):
            raise ValueError("to is a direction, not all zeros")
        return self


class OwnLoop(Value):
    """A loop of one's own about a geared motor: a sensor, a switch each way, pulses and pauses."""

    counts: int = Field(default=1024, ge=4, le=10_000_000, description="Of the sensor over its whole turn.")
    turn_deg: Travel_deg = Field(default=270.0, description="Of the sensor.")
    on_ms: float = Field(default=4.0, ge=1, le=10_000)
    off_ms: float = Field(default=50.0, ge=0, le=10_000)
    dead_deg: Width_deg = Field(
        default=1.0, description="Nearer than this to where it is to be it stays off, either way."
    )


class Drive(Value):
    """A servo and the joint it turns, itself or through a transmission, alone or together with another. It is a body at the pivot on the joint's parent."""

    id: Identifier
    joint: Identifier
    actuator: Actuator
    transmission: Transmission = Field(default_factory=Direct)
    at_mm: Place | None = Field(default=None, description="Where its body sits; left out: at the pivot.")
    rides_on: Identifier | None = Field(
        default=None,
        description="What its body is fixed to: what a joint carries, or 'base'. Left out: what its joint rides on.",
    )
    mount: Mount = Field(default_factory=Mount)
    case: Case | None = Field(default=None, description="Left out: not looked at for room.")
    loop: OwnLoop | None = Field(default=None, description="Left out: the servo's own.")
    servos: Literal[1, 2] = Field(
        default=1,
        description="2: two of the same, one on either side, turn the joint together, on one output by a Y lead.",
    )
    other_at_mm: Place | None = Field(
        default=None, description="Where the second one's body sits; left out: where the first does."
    )

    def _check(self) -> Self:
        if self.servos > 1 and self.actuator.stepper is not None:
            raise ValueError("a stepper turns its joint alone: two would have to keep in step with each other")
        return self

    def acting(self, share: float) -> Actuator:
        """What turns the joint: its servo, or two of them as one, of whose torque that share counts."""
        return self.of(self.actuator, share)

    def of(self, servo: Actuator, share: float) -> Actuator:
        """The same with servos of another class."""
        n = float(self.servos)
        if n == 1.0:
            return servo
        more = {name: getattr(servo, name) * n * (share if name in UNEVEN else 1.0) for name in ADDED} | {
            "torque_Nm": servo.torque_Nm * n * share
        }
        price = None if servo.price is None else servo.price * n
        return Actuator(**(dict(servo) | more | {"price": price, "name": f"2 × {servo.name}"[:80]}))
