"""How a servo turns its joint: itself, or through gears, a belt, or horn, rod and lever. One class a kind.

To add a kind: a class here and in `Transmission`, its file in bodies/linkages/ with a line in its table, a row in docs/file-format.md.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from karakuri.model.base import Angle_deg, Distance_mm, Form, Size_mm
from karakuri.model.labels import Label
from karakuri.model.rod import StuffKind

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
    turns: Way = Field("opposite", description="Same: a wheel between, or teeth inside a ring.")
    module_mm: Annotated[Size_mm, Label("Module", "length", 1e-3)] = Field(
        1.0, description="Diameter where they meet, in mm, for each tooth."
    )
    backlash_mm: Annotated[Distance_mm | None, Label("Play between teeth", "length", 1e-3)] = Field(
        None, description="Left out: typical of printed wheels."
    )
    efficiency: Loss | None = Field(None, description="What comes through of a torque; left out: typical.")


class Belt(Form):
    """Two pulleys and a belt, or a cord wound round both."""

    kind: Literal["belt"] = "belt"
    driver: Annotated[Size_mm, Label("Pulley on the servo", "length", 1e-3)] = Field(
        12.7, description="Across, where the belt's middle runs: teeth × pitch ÷ π."
    )
    driven: Annotated[Size_mm, Label("Pulley on the joint", "length", 1e-3)] = 25.5
    axes_mm: Annotated[Size_mm, Label("Shaft to pivot", "length", 1e-3)] = 60.0
    pitch_mm: Annotated[Distance_mm, Label("Tooth pitch", "length", 1e-3)] = Field(2.0, description="0: no teeth.")
    crossed: bool = Field(False, description="It crosses over, so that the joint turns the other way.")
    efficiency: Loss | None = Field(None, description="What comes through of a torque; left out: typical.")

    @model_validator(mode="after")
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
        14.0, description="From the servo's shaft."
    )
    lever_mm: Annotated[Size_mm, Label("Hole in the lever", "length", 1e-3)] = Field(
        20.0, description="From the joint's pivot."
    )
    axes_mm: Annotated[Size_mm, Label("Shaft to pivot", "length", 1e-3)] = 60.0
    lever_deg: Annotated[Angle_deg, Label("Lever stands at", "angle", math.pi / 180)] = Field(
        90.0, description="With the joint at 0, from the line on from shaft to pivot, the way the joint's angle grows."
    )
    rod_mm: Annotated[Size_mm | None, Label("Rod", "length", 1e-3)] = Field(
        None, description="Hole to hole. Left out: so long that the horn stands as the lever does."
    )
    crossed: bool = Field(False, description="Horn and lever point to different sides of the line between the shafts.")
    horn_holes_mm: tuple[Size_mm, ...] = Field((), max_length=40, description="Holes there are in the horn.")
    lever_holes_mm: tuple[Size_mm, ...] = Field((), max_length=40, description="Holes there are in the lever.")
    stuff: StuffKind = Field("steel", description="Of the rod.")
    thick_mm: Annotated[Size_mm, Label("Rod thick", "length", 1e-3)] = 2.0
    slack_mm: Annotated[Distance_mm | None, Label("Play of the rod", "length", 1e-3)] = Field(
        None, description="Both ends together; left out: typical."
    )
    off_mm: Annotated[Distance_mm, Label("Rod off the case", "length", 1e-3)] = Field(
        10.0, description="From the servo's case to where the rod pulls at the horn."
    )
    efficiency: Loss | None = Field(None, description="What comes through of a torque; left out: typical.")

    @model_validator(mode="after")
    def _check(self) -> Self:
        if self.rod_mm is None and self.crossed:
            raise ValueError("a rod that crosses needs its length: write it")
        return self


Transmission = Annotated[Direct | Gear | Belt | Lever, Field(discriminator="kind")]
