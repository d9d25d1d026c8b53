"""How a servo turns its joint: itself, or through gears, a belt, horn, rod and lever, a rod with ball ends, or bevel wheels shared with another servo.
One class a kind.

To add a kind: a class here and in `Transmission`, its file in bodies/linkages/ with a line in its table, a row in docs/file-format.md.
"""

import math
from typing import Annotated, Literal, Self

from karakuri.model.base import Angle_deg, Direction, Distance_mm, Identifier, Place, Size_mm
from karakuri.model.labels import Label
from karakuri.model.rod import StuffKind
from karakuri.values.fields import Field
from karakuri.values.value import Form

Teeth = Annotated[int, Field(ge=4, le=2000)]
Loss = Annotated[float, Field(ge=0.05, le=1.0)]
Way = Literal["opposite", "same"]


class Direct(Form):
    """The servo's own shaft turns the joint."""

    kind: Literal["direct"] = "direct"


class Gear(Form):
    """Two toothed wheels: the servo's drives the joint's."""

    kind: Literal["gear"] = "gear"
    driver: Annotated[Teeth, Label("Teeth on the servo", "count")] = 20
    driven: Annotated[Teeth, Label("Teeth on the joint", "count")] = 40
    turns: Way = Field(default="opposite", description="Same: a wheel between, or teeth inside a ring.")
    module_mm: Annotated[Size_mm, Label("Module", "length", 1e-3)] = Field(
        default=1.0, description="Diameter where they meet, in mm, for each tooth."
    )
    backlash_mm: Annotated[Distance_mm | None, Label("Play between teeth", "length", 1e-3)] = Field(
        default=None, description="Left out: typical of printed wheels."
    )
    efficiency: Loss | None = Field(default=None, description="What comes through of a torque; left out: typical.")


class Belt(Form):
    """Two pulleys and a belt, or a cord wound round both."""

    kind: Literal["belt"] = "belt"
    driver: Annotated[Size_mm, Label("Pulley on the servo", "length", 1e-3)] = Field(
        default=12.7, description="Across, where the belt's middle runs: teeth × pitch ÷ π."
    )
    driven: Annotated[Size_mm, Label("Pulley on the joint", "length", 1e-3)] = 25.5
    axes_mm: Annotated[Size_mm, Label("Shaft to pivot", "length", 1e-3)] = 60.0
    pitch_mm: Annotated[Distance_mm, Label("Tooth pitch", "length", 1e-3)] = Field(
        default=2.0, description="0: no teeth."
    )
    crossed: bool = Field(default=False, description="It crosses over, so that the joint turns the other way.")
    efficiency: Loss | None = Field(default=None, description="What comes through of a torque; left out: typical.")

    def _check(self) -> Self:
        if (self.driver + self.driven) / 2 >= self.axes_mm:
            raise ValueError(
                f"pulleys {self.driver:g} and {self.driven:g} mm across do not fit {self.axes_mm:g} mm apart"
            )
        return self


class Lever(Form):
    """Horn, rod, lever, all in one plane across the joint's axis; angles seen with that axis pointing at one."""

    kind: Literal["lever"] = "lever"
    horn_mm: Annotated[Size_mm, Label("Hole in the horn", "length", 1e-3)] = Field(
        default=14.0, description="From the servo's shaft."
    )
    lever_mm: Annotated[Size_mm, Label("Hole in the lever", "length", 1e-3)] = Field(
        default=20.0, description="From the joint's pivot."
    )
    axes_mm: Annotated[Size_mm, Label("Shaft to pivot", "length", 1e-3)] = 60.0
    lever_deg: Annotated[Angle_deg, Label("Lever stands at", "angle", math.pi / 180)] = Field(
        default=90.0,
        description="With the joint at 0, from the line on from shaft to pivot, the way the joint's angle grows.",
    )
    rod_mm: Annotated[Size_mm | None, Label("Rod", "length", 1e-3)] = Field(
        default=None, description="Hole to hole. Left out: so long that the horn stands as the lever does."
    )
    crossed: bool = Field(
        default=False, description="Horn and lever point to different sides of the line between the shafts."
    )
    horn_holes_mm: tuple[Size_mm, ...] = Field(default=(), max_length=40, description="Holes there are in the horn.")
    lever_holes_mm: tuple[Size_mm, ...] = Field(default=(), max_length=40, description="Holes there are in the lever.")
    room_mm: Annotated[Size_mm | None, Label("Room for a lever", "length", 1e-3)] = Field(
        default=None,
        description="From the joint's axis, for the far end of the rod; left out: nobody said. No hole is looked for beyond.",
    )
    stuff: StuffKind = Field(default="steel", description="Of the rod.")
    thick_mm: Annotated[Size_mm, Label("Rod thick", "length", 1e-3)] = 2.0
    slack_mm: Annotated[Distance_mm | None, Label("Play of the rod", "length", 1e-3)] = Field(
        default=None, description="Both ends together; left out: typical."
    )
    off_mm: Annotated[Distance_mm, Label("Rod off the case", "length", 1e-3)] = Field(
        default=10.0, description="From the servo's case to where the rod pulls at the horn."
    )
    efficiency: Loss | None = Field(default=None, description="What comes through of a torque; left out: typical.")

    def _check(self) -> Self:
        if self.rod_mm is None and self.crossed:
            raise ValueError("a rod that crosses needs its length: write it")
        return self

    @property
    def reachable_mm(self) -> tuple[float, ...]:
        """Holes in the lever for which there is room."""
        return tuple(hole for hole in self.lever_holes_mm if self.room_mm is None or hole <= self.room_mm)


class Ball(Form):
    """A horn, and a rod with a ball at each end, anywhere in space. Places are measured from the datum with every joint at 0."""

    kind: Literal["ball"] = "ball"
    shaft_mm: Place = Field(
        description="Middle of the horn: where its shaft comes through the plane that its hole turns in."
    )
    shaft_axis: Direction = Field(default=(0.0, 1.0, 0.0), description="Along the servo's shaft; any length but zero.")
    horn_mm: Annotated[Size_mm, Label("Hole in the horn", "length", 1e-3)] = Field(
        default=14.0, description="From the servo's shaft."
    )
    horn_to: Direction = Field(
        default=(0.0, 0.0, 1.0),
        description="Which way the horn points, as it is screwed on; of what is across the shaft.",
    )
    ball_mm: Place = Field(description="The far ball, on what it moves.")
    ball_on: Identifier | None = Field(
        default=None,
        description="What that ball is screwed to: what a joint carries, or 'base'. Left out: what the servo's joint carries.",
    )
    rod_mm: Annotated[Size_mm | None, Label("Rod", "length", 1e-3)] = Field(
        default=None, description="Ball to ball. Left out: so long that the horn stands as written."
    )
    horn_holes_mm: tuple[Size_mm, ...] = Field(default=(), max_length=40, description="Holes there are in the horn.")
    room_mm: Annotated[Size_mm | None, Label("Room for a lever", "length", 1e-3)] = Field(
        default=None,
        description="From the joint's axis, for the far end of the rod; left out: nobody said. No hole is looked for beyond.",
    )
    stuff: StuffKind = Field(default="steel", description="Of the rod.")
    thick_mm: Annotated[Size_mm, Label("Rod thick", "length", 1e-3)] = 2.0
    slack_mm: Annotated[Distance_mm | None, Label("Play of the rod", "length", 1e-3)] = Field(
        default=None, description="Both ends together; left out: typical."
    )
    off_mm: Annotated[Distance_mm, Label("Rod off the case", "length", 1e-3)] = Field(
        default=10.0, description="From the servo's case to where the rod pulls at the horn."
    )
    efficiency: Loss | None = Field(default=None, description="What comes through of a torque; left out: typical.")

    def _check(self) -> Self:
        for name in ("shaft_axis", "horn_to"):
            if not any(getattr(self, name)):
                raise ValueError(f"{name} is a direction, not all zeros")
        axis, to = self.shaft_axis, self.horn_to
        if math.hypot(*_cross(axis, to)) < 1e-3 * math.hypot(*axis) * math.hypot(*to):
            raise ValueError("a horn points across its shaft, not along it: horn_to lies along shaft_axis")
        return self


class Bevel(Form):
    """Two servos' wheels on one axis, and a wheel between them that rides on what they turn together: both alike turn that, both against each other
    turn the wheel between. Each of the two servos has one of these, naming the other's joint."""

    kind: Literal["bevel"] = "bevel"
    partner: Identifier = Field(description="The joint that the other servo is put down for.")
    side: Annotated[Teeth, Label("Teeth on the servo’s wheel", "count")] = 24
    between: Annotated[Teeth, Label("Teeth on the wheel between", "count")] = 24
    turns: Way = Field(
        default="same",
        description="Which way this servo goes for the + way of the wheel between: one of both is opposite.",
    )
    module_mm: Annotated[Size_mm, Label("Module", "length", 1e-3)] = Field(
        default=1.0, description="Diameter where they meet, in mm, for each tooth."
    )
    backlash_mm: Annotated[Distance_mm | None, Label("Play between teeth", "length", 1e-3)] = Field(
        default=None, description="Left out: typical of printed wheels."
    )
    efficiency: Loss | None = Field(default=None, description="What comes through of a torque; left out: typical.")


def _cross(a: tuple[float, float, float], b: tuple[float, float, float]) -> tuple[float, float, float]:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


Transmission = Annotated[Direct | Gear | Belt | Lever | Ball | Bevel, Field(discriminator="kind")]
