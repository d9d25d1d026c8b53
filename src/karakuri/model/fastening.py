"""What holds something on: magnets, hook and loop, or elastic, between a face of what is held and what it is held on."""

import math
from typing import Annotated, Literal, Self

from karakuri.model.base import Direction, Force_N, Identifier, Name, Place, Size_mm
from karakuri.model.element import Count
from karakuri.model.labels import Label
from karakuri.model.part import BASE
from karakuri.values.fields import Field
from karakuri.values.value import Form

Grade = Literal["N35", "N38", "N42", "N45", "N48", "N52"]
Keeper = Literal["magnet", "thick steel", "thin steel"]


class Fastened(Form):
    """What all of them share: what is held, where the face is, and which way it comes off."""

    id: Identifier
    name: Name
    carries: tuple[Identifier, ...] = Field(
        default=(), max_length=200, description="Parts, or joints with all that rides on them, that come off with it."
    )
    rides_on: Identifier = Field(default=BASE, description="What it is held on.")
    at_mm: Place = Field(default=(0.0, 0.0, 0.0), description="The middle of the face, from the datum, figure at rest.")
    off: Direction = Field(default=(0.0, 0.0, 1.0), description="Which way it comes off, square to the face.")
    spread_mm: Annotated[Size_mm, Label("Outermost ones apart", "length", 1e-3)] = Field(
        default=40.0, description="Across the face, between the middles of the outermost; of one strip, its length."
    )
    count: Count = 1

    def _check(self) -> Self:
        if math.hypot(*self.off) < 1e-6:
            raise ValueError("which way it comes off needs a length: 0, 0, 1 is up")
        return self


class MagnetFace(Fastened):
    kind: Literal["magnets"] = "magnets"
    wide_mm: Annotated[Size_mm, Label("Disc, wide", "length", 1e-3)] = 10.0
    thick_mm: Annotated[Size_mm, Label("Disc, thick", "length", 1e-3)] = 3.0
    gap_mm: Annotated[float, Field(ge=0, le=200), Label("Gap when shut", "length", 1e-3)] = Field(
        default=0.3, description="Paint, skin, washers and air between them when they sit together."
    )
    grade: Grade = "N42"
    on: Keeper = "magnet"


class HookLoop(Fastened):
    kind: Literal["hook and loop"] = "hook and loop"
    long_mm: Annotated[Size_mm, Label("Strip, long", "length", 1e-3)] = 40.0
    wide_mm: Annotated[Size_mm, Label("Strip, wide", "length", 1e-3)] = 20.0


class Bands(Fastened):
    kind: Literal["elastic"] = "elastic"
    pull_N: Annotated[Force_N, Label("Each pulls with", "force")] = Field(
        default=5.0, description="As it is stretched when fitted: hook a scale on."
    )


Fastening = Annotated[MagnetFace | HookLoop | Bands, Field(discriminator="kind")]
FACES: dict[str, type[Fastened]] = {"magnets": MagnetFace, "hook and loop": HookLoop, "elastic": Bands}
