"""Rods, sticks and poles: what carries something at its far end and bends under it."""

import math
from typing import Annotated, Literal, Self, get_args

from karakuri.model.base import Distance_mm, Identifier, Mass_g, Name, Place, Size_mm
from karakuri.model.labels import Label
from karakuri.model.part import BASE
from karakuri.values.fields import Field
from karakuri.values.value import Value

StuffKind = Literal["steel", "stainless", "aluminium", "brass", "carbon", "glass fibre", "acetal", "beech", "pine"]
STUFFS: tuple[StuffKind, ...] = get_args(StuffKind)
HeldKind = Literal["firm", "socket", "two bearings"]
HELD: dict[HeldKind, str] = {
    "firm": "clamped or glued",
    "socket": "pushed into a socket",
    "two bearings": "in two bearings",
}


class Rod(Value):
    """Straight, round, held at its foot; what it carries sits at its tip."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    at_mm: Place = Field(
        default=(0.0, 0.0, 0.0), description="Its foot, where it leaves what holds it; from the datum, at rest."
    )
    tip_mm: Place = Field(default=(0.0, 0.0, 100.0), description="Its other end.")
    stuff: StuffKind = "steel"
    thick_mm: Annotated[Size_mm, Label("Thick", "length", 1e-3)] = Field(default=6.0, description="Outer diameter.")
    bore_mm: Annotated[Distance_mm, Label("Bore", "length", 1e-3)] = Field(
        default=0.0, description="Of a tube; 0: solid."
    )
    sleeve_mm: Annotated[Distance_mm, Label("Sleeve outside", "length", 1e-3)] = Field(
        default=0.0, description="Outer diameter of a tube glued over all of it; 0: none."
    )
    sleeve_stuff: StuffKind = "aluminium"
    held: HeldKind = "firm"
    depth_mm: Annotated[Size_mm, Label("Sits deep", "length", 1e-3)] = Field(
        default=30.0, description="In its socket; of two bearings, how far they are apart."
    )
    play_mm: Annotated[Distance_mm, Label("Play there", "length", 1e-3)] = 0.2
    carries: tuple[Identifier, ...] = Field(
        default=(),
        max_length=200,
        description="Parts, or joints with all that rides on them, that it carries at its tip.",
    )
    load_g: Annotated[Mass_g, Label("Besides, at its tip", "mass", 1e-3)] = Field(
        default=0.0, description="Weight at its tip that is no part of the figure."
    )
    turns: bool = Field(default=False, description="A pole that turns about itself.")

    @property
    def length_mm(self) -> float:
        """Free length, foot to tip."""
        return math.dist(self.at_mm, self.tip_mm)

    @property
    def outside_mm(self) -> float:
        """Its diameter, a sleeve among it."""
        return max(self.thick_mm, self.sleeve_mm)

    def _check(self) -> Self:
        if self.bore_mm >= self.thick_mm:
            raise ValueError(f"a tube {self.thick_mm:g} mm thick has a bore below that, not {self.bore_mm:g} mm")
        if 0 < self.sleeve_mm <= self.thick_mm:
            raise ValueError(
                f"a sleeve over a rod {self.thick_mm:g} mm thick is thicker outside, not {self.sleeve_mm:g} mm"
            )
        if self.length_mm < 0.01:
            raise ValueError("a rod has a length: its foot and its tip lie on one place")
        return self
