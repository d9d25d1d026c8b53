"""Elements: what pulls or pushes between two places of the figure besides its drives and its weight. One class a kind.

To add a kind: a class here and in `Element`, its file in bodies/elements/ with a line in its table, a row in docs/file-format.md.
"""

import math
from typing import Annotated, Literal, Self

from karakuri.model.base import (
    Angle_deg,
    Distance_mm,
    Force_N,
    Identifier,
    Mass_g,
    Name,
    Place,
    Range_deg,
    Size_mm,
    Torque_Nm,
    Voltage_V,
)
from karakuri.model.labels import Label
from karakuri.model.part import BASE, Origin
from karakuri.model.transmission import Belt, Direct, Gear, Lever
from karakuri.values.fields import Field
from karakuri.values.value import Form, Value

Rate_N_per_mm = Annotated[float, Field(ge=1e-5, le=1e5)]
Count = Annotated[int, Field(ge=1, le=200)]


class Anchor(Value):
    """A point that rides on a joint, or on the base."""

    rides_on: Identifier = BASE
    at_mm: Place = Field(default=(0.0, 0.0, 0.0), description="From the datum, figure at rest.")


class Pull(Value):
    """One measurement with a ruler and a scale: so long with so much hung on it."""

    length_mm: Size_mm
    weight_g: Mass_g


class Coil(Value):
    """A coiled spring as it lies before one."""

    wire_mm: Size_mm
    outer_mm: Size_mm = Field(description="Outer diameter of the coil.")
    turns: float = Field(ge=0.5, le=2000)
    stuff: Literal["music wire", "stainless"] = "music wire"

    def _check(self) -> Self:
        if self.outer_mm <= 2 * self.wire_mm:
            raise ValueError(
                f"a coil of {self.wire_mm:g} mm wire is wider than {2 * self.wire_mm:g} mm, not {self.outer_mm:g} mm"
            )
        return self


class Strung(Form):
    """What all elements share that run from one place to another."""

    id: Identifier
    name: Name
    ends: tuple[Anchor, Anchor]
    over: tuple[Anchor, ...] = Field(default=(), max_length=20, description="Guides it runs over on the way, in order.")
    count: Count = Field(default=1, description="How many lie side by side.")
    mass_g: Mass_g = Field(default=0.0, description="All of them together; half of it rides at each end.")
    origin: Origin = Field(
        default="guess", description="Where the numbers of its force came from; measured pulls count as weighed."
    )


class Spring(Strung):
    """An extension spring, drawn out beyond its free length; or a compression spring, pressed shorter."""

    kind: Literal["spring"] = "spring"
    presses: bool = Field(default=False, description="A compression spring: pushes where it is shorter than free.")
    free_mm: Annotated[Size_mm, Label("Long when free", "length", 1e-3)] = Field(
        description="With nothing on it, hook to hook."
    )
    longest_mm: Annotated[Size_mm | None, Label("May be drawn to", "length", 1e-3)] = Field(
        default=None, description="As far as it may be drawn out (or pressed in); left out: not known."
    )
    rate_N_per_mm: Annotated[Rate_N_per_mm | None, Label("Rate", "rate", 1e3)] = Field(
        default=None, description="As a label or list gives it."
    )
    tension_N: Annotated[Force_N | None, Label("Before its coils part", "force")] = Field(
        default=None, description="What it takes until then; left out: nothing, or from the pulls."
    )
    coil: Coil | None = Field(default=None, description="Used where no rate is given and no pulls.")
    pulls: tuple[Pull, ...] = Field(default=(), max_length=20)


class Elastic(Strung):
    """Elastic cord: rubber, round."""

    kind: Literal["elastic"] = "elastic"
    free_mm: Annotated[Size_mm, Label("Long when free", "length", 1e-3)]
    thick_mm: Annotated[Size_mm, Label("Thick", "length", 1e-3)] = Field(default=3.0, description="Diameter.")
    modulus_MPa: Annotated[float, Label("Modulus", "pressure", 1e6)] = Field(
        default=1.5, ge=0.001, le=1e4, description="Of its rubber at small strain; pulls that were measured come first."
    )
    longest_mm: Annotated[Size_mm | None, Label("May be drawn to", "length", 1e-3)] = None
    pulls: tuple[Pull, ...] = Field(default=(), max_length=20)


class Strut(Strung):
    """A gas strut: pushes with nearly the same force over its stroke."""

    kind: Literal["strut"] = "strut"
    long_mm: Annotated[Size_mm, Label("Long when all out", "length", 1e-3)]
    stroke_mm: Annotated[Size_mm, Label("Stroke", "length", 1e-3)]
    force_N: Annotated[Force_N, Label("Pushes with", "force")] = Field(description="As printed on it: when all out.")
    rise: Annotated[float, Label("Rises by", "ratio")] = Field(
        default=0.3, ge=0, le=10, description="Share by which it pushes harder when all in."
    )


class Pad(Strung):
    """Foam or felt between two places: pushes where they come nearer than it is thick."""

    kind: Literal["pad"] = "pad"
    thick_mm: Annotated[Size_mm, Label("Thick", "length", 1e-3)]
    rate_N_per_mm: Annotated[Rate_N_per_mm, Label("Rate", "rate", 1e3)]


class Skin(Strung):
    """Springy skin glued to what moves, such as a lip or a brow: both ends are that place, first on what stays, then on what moves."""

    kind: Literal["skin"] = "skin"
    rate_N_per_mm: Annotated[Rate_N_per_mm | None, Label("Rate", "rate", 1e3)] = Field(
        default=None, description="What it takes to push it by so much; left out: from the pushes, else not known."
    )
    pulls: tuple[Pull, ...] = Field(default=(), max_length=20, description="Pushed so far, with so much on the scale.")


class Magnets(Strung):
    """Disc magnets that hold two bodies together: both ends are their faces, a little apart along the way they come off."""

    kind: Literal["magnets"] = "magnets"
    wide_mm: Annotated[Size_mm, Label("Wide", "length", 1e-3)] = Field(description="Diameter of a disc.")
    thick_mm: Annotated[Size_mm, Label("Thick", "length", 1e-3)]
    gap_mm: Annotated[float, Label("Gap when shut", "length", 1e-3)] = Field(
        default=0.3, ge=0, le=200, description="Paint, skin, washers and air between them when they sit together."
    )
    grade: Literal["N35", "N38", "N42", "N45", "N48", "N52"] = "N42"
    on: Literal["magnet", "thick steel", "thin steel"] = Field(
        default="magnet",
        description="What it holds on to; thin steel is a screw head or a sheet thinner than half the disc.",
    )


class Cord(Strung):
    """A cord that a hand, a chin or a lever pulls at its first end; at rest it hangs slack. Its second end is on what it turns."""

    kind: Literal["cord"] = "cord"
    pulled_mm: Annotated[Distance_mm | None, Label("The hand or chin moves", "length", 1e-3)] = Field(
        default=None, description="How far it is pulled at most, measured on the person; left out: not known."
    )
    pulled_N: Annotated[Force_N | None, Label("and pulls with", "force")] = Field(
        default=None, description="As hard as is pleasant for as long as it lasts; left out: not known."
    )
    bears_N: Annotated[Force_N | None, Label("The cord bears", "force")] = None
    guided: Literal["pulley", "eye", "tube"] = Field(default="eye", description="What it runs over.")
    bends_deg: Annotated[float, Label("Bends in tubes, in all", "angle", math.pi / 180)] = Field(
        default=0.0, ge=0, le=3600
    )
    moving: Literal["none", "jaw", "hand"] = Field(
        default="none",
        description="A moving pulley: on the jaw it halves force and movement, on the hand's side it doubles both.",
    )


class Cable(Strung):
    """A cable, a bundle of them or a hose across a joint, tied down at both ends with a loop between."""

    kind: Literal["cable"] = "cable"
    long_mm: Annotated[Size_mm | None, Label("Long between its ties", "length", 1e-3)] = Field(
        default=None, description="Along it; left out: told how long it should be."
    )
    thick_mm: Annotated[Size_mm, Label("Thick", "length", 1e-3)] = Field(default=4.0, description="All of the bundle.")


class Linear(Strung):
    """A linear actuator between two pins: it drives the one joint that lies between them."""

    kind: Literal["actuator"] = "actuator"
    short_mm: Annotated[Size_mm, Label("Pin to pin, all in", "length", 1e-3)] = 155.0
    stroke_mm: Annotated[Size_mm, Label("Stroke", "length", 1e-3)] = 50.0
    force_N: Annotated[Force_N, Label("Pushes and pulls with", "force")] = 64.0
    speed_mmps: Annotated[float, Field(ge=0.01, le=10_000), Label("Goes", "stroke_speed", 1e-3)] = Field(
        default=12.0, description="Under load, as its label says."
    )


class About(Form):
    """What all elements share that act about a joint's own axis."""

    id: Identifier
    name: Name
    joint: Identifier
    count: Count = 1
    mass_g: Mass_g = 0.0
    origin: Origin = "guess"


class Torsion(About):
    """A spring about a joint's own axis."""

    kind: Literal["torsion"] = "torsion"
    free_deg: Annotated[Angle_deg, Label("Does nothing at", "angle", math.pi / 180)] = 0.0
    rate_Nm_per_deg: Annotated[Torque_Nm | None, Label("Rate", "twist", 180 / math.pi)] = None
    coil: Coil | None = None


class Motor(About):
    """A motor that turns its joint on and on, or to and fro between pins: no board tells it where to stand."""

    kind: Literal["motor"] = "motor"
    sort: Literal["mains", "geared", "servo"] = Field(
        default="geared",
        description="mains: synchronous, as many turns as the mains has; geared: a direct-current motor; servo: one that turns on.",
    )
    torque_Nm: Annotated[Torque_Nm, Label("Turns with", "torque")] = Field(
        default=1.0,
        description="As its label says: of a mains motor what it keeps in step with, of others where it stalls.",
    )
    turns_per_min: Annotated[float, Field(ge=0.01, le=20_000), Label("Turns a minute", "turning", math.pi / 30)] = (
        Field(default=10.0, description="As its label says, at its own shaft, with nothing on it.")
    )
    at_voltage_V: Annotated[Voltage_V, Label("given at", "voltage")] = Field(
        default=12.0, description="Of what is no mains motor."
    )
    gets_V: Annotated[Voltage_V, Label("It gets", "voltage")] = 12.0
    label_Hz: Literal[50, 60] = Field(default=50, description="Mains for which its label says so many turns.")
    mains_Hz: Literal[50, 60] = Field(default=50, description="Mains it gets.")
    way: Literal["either", "plus", "minus"] = Field(
        default="either",
        description="Which way it turns its joint; either: a mains motor without a one-way stop, or to and fro.",
    )
    pins_deg: Range_deg | None = Field(
        default=None, description="Places of its joint between which it goes to and fro; left out: right round."
    )
    through: Annotated[Direct | Gear | Belt | Lever, Field(discriminator="kind")] = Field(
        default_factory=Direct, description="As of a drive; a lever: its horn turns all round and rocks the joint."
    )
    shaft_mm: Annotated[Size_mm, Label("Its shaft, across", "length", 1e-3)] = 6.0
    fixed: Literal["set screw", "flat", "clamp"] = Field(
        default="set screw", description="What sits on its shaft, by what."
    )
    screw_mm: Annotated[Size_mm, Label("Set screw, across", "length", 1e-3)] = 3.0
    gears: Literal["metal", "plastic"] = "plastic"


class Hand(About):
    """A hand at a lever that turns a joint, itself or by a parallelogram: no servo does."""

    kind: Literal["hand"] = "hand"
    arm_mm: Annotated[Size_mm, Label("Pivot to grip", "length", 1e-3)] = 300.0
    turns: Annotated[float, Field(ge=0.05, le=20), Label("Joint turns for one of the lever", "ratio")] = Field(
        default=1.0, description="1: the lever is the joint's own, or a parallelogram lies between."
    )
    gives_N: Annotated[Force_N | None, Label("The hand gives with ease", "force")] = Field(
        default=None, description="Measured with a scale on whoever holds it; left out: not known."
    )


def anchors(element: "Element") -> tuple[Anchor, ...]:
    """The points of its way, in order; none for what acts about a joint."""
    return () if isinstance(element, About) else (element.ends[0], *element.over, element.ends[1])


def held_by(element: "Element") -> tuple[str, ...]:
    """Ids of all that it hangs on."""
    return (element.joint,) if isinstance(element, About) else tuple(anchor.rides_on for anchor in anchors(element))


Element = Annotated[
    Spring | Elastic | Strut | Pad | Skin | Magnets | Cord | Cable | Linear | Torsion | Motor | Hand,
    Field(discriminator="kind"),
]
