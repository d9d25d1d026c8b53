"""Parts: what has mass. A shape at a place, riding on a joint or on the base."""

import re
from typing import Annotated, Literal, Self

from karakuri.model.base import Density_kgm3, Identifier, Mass_g, Name, Place, Price, Size_mm, Turned, Wall_mm
from karakuri.model.drawn import Drawn
from karakuri.values.fields import Field
from karakuri.values.value import Form, Value

BASE = "base"
MOVABLE = frozenset(
    [
        "battery",
        "batteries",
        "cell",
        "cells",
        "accumulator",
        "board",
        "boards",
        "controller",
        "receiver",
        "amplifier",
        "speaker",
        "speakers",
        "ballast",
    ]
)
"""What remedies may move unless told otherwise: what has no place of its own in a head."""
Origin = Literal["weighed", "data sheet", "typical", "guess"]
MassOrigin = Literal["weighed", "data sheet", "slicer", "typical", "guess"]


class Material(Value):
    """A material and its density, copied from the catalogue or the builder's own."""

    id: Identifier
    name: Name
    density_kgm3: Density_kgm3
    origin: Origin = "typical"


Positive = Annotated[float, Field(gt=0, le=1e9)]
Infill = Annotated[
    float, Field(ge=0, le=1, description="Of a printed one, what share of its inside is filled; 0: hollow.")
]


class Box(Form):
    kind: Literal["box"] = "box"
    size_mm: tuple[Size_mm, Size_mm, Size_mm] = Field(description="Along x, y and z before turning.")
    wall_mm: Wall_mm = Field(default=0.0, description="0 is solid; otherwise a thin shell of this thickness.")
    infill: Infill = 0.0


class Sphere(Form):
    kind: Literal["sphere"] = "sphere"
    radius_mm: Size_mm
    wall_mm: Wall_mm = 0.0
    infill: Infill = 0.0


class Ellipsoid(Form):
    kind: Literal["ellipsoid"] = "ellipsoid"
    semi_axes_mm: tuple[Size_mm, Size_mm, Size_mm]
    wall_mm: Wall_mm = 0.0
    infill: Infill = 0.0


class Cylinder(Form):
    kind: Literal["cylinder"] = "cylinder"
    radius_mm: Size_mm
    height_mm: Size_mm = Field(description="Along z before turning.")
    wall_mm: Wall_mm = 0.0
    infill: Infill = 0.0
    open_ends: bool = Field(default=False, description="A shell without its two end discs.")


class Sheet(Form):
    """Foam, cloth, fur, leather or paper spread over something: as much of it as its pattern has."""

    kind: Literal["sheet"] = "sheet"
    over_mm: tuple[Size_mm, Size_mm, Size_mm] = Field(description="What it is spread over: long, wide, high.")
    thick_mm: Size_mm = 6.0
    area_cm2: Annotated[float, Field(ge=0.01, le=1e7)] | None = Field(
        default=None, description="Of all its pieces together; left out: all round an egg of that size."
    )
    glue_gpm2: Annotated[float, Field(ge=0, le=20_000)] = Field(
        default=0.0, description="Glue and paint on it, dried, in g for each m²."
    )


Away = Annotated[float, Field(ge=-1e9, le=1e9)]
Turns = Annotated[float, Field(ge=-1e18, le=1e18)]
Three = tuple[Away, Away, Away]
Four = tuple[Away, Away, Away, Away]
Six = tuple[Turns, Turns, Turns, Turns, Turns, Turns]
MESH_UNITS: tuple[tuple[float, str], ...] = (
    (1.0, "a millimetre"),
    (10.0, "a centimetre"),
    (25.4, "an inch"),
    (1000.0, "a metre"),
)
"""What one unit of a mesh file may be, mm, and how it is called."""


class Mesh(Form):
    """The surface of a file, read once: its numbers are kept here, in the file's own units, so that the file may be lost."""

    kind: Literal["mesh"] = "mesh"
    file: str = Field(
        default="",
        max_length=500,
        description="Where it was read from, by its name beside the figure where it lies there.",
    )
    unit_mm: Annotated[float, Field(ge=1e-4, le=1e5)] = Field(
        default=1.0, description="How long one unit of the file is."
    )
    closed: bool = Field(default=True, description="Without holes: only then it has an inside.")
    size: tuple[Positive, Positive, Positive]
    volume: Annotated[float, Field(ge=0, le=1e18)]
    area: Annotated[float, Field(gt=0, le=1e15)]
    solid_at: Three = Field(
        default=(0.0, 0.0, 0.0), description="Centre of mass from the middle of its box, filled evenly."
    )
    solid_turns: Six = Field(
        description="About that centre, for each unit of mass: xx, yy, zz, xy, xz, yz of the inertia tensor."
    )
    shell_at: Three = (0.0, 0.0, 0.0)
    shell_turns: Six
    hull: tuple[Three, ...] = Field(
        default=(), max_length=400, description="Outermost corners, from the middle of its box."
    )
    inner: tuple[Four, ...] = Field(
        default=(),
        max_length=400,
        description="Flat sides of what is surely free inside: way x, y, z and how far from the middle of its box; none: not known.",
    )
    triangles: int = Field(default=0, ge=0, le=100_000_000)
    wall_mm: Wall_mm = 0.0
    infill: Infill = 0.0

    def _check(self) -> Self:
        if not self.closed and self.wall_mm <= 0:
            raise ValueError("a mesh with holes has no inside: give it a wall, or mend it where it was made")
        return self


class Point(Form):
    kind: Literal["point"] = "point"


Shape = Annotated[Box | Sphere | Ellipsoid | Cylinder | Sheet | Mesh | Point, Field(discriminator="kind")]


class Part(Value):
    """One part. Its mass is as weighed or written, else worked out from its material, else unknown."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    shape: Shape = Field(default_factory=Point)
    at_mm: Place = Field(
        default=(0.0, 0.0, 0.0), description="Its middle, from the datum, figure at rest: forward, left, up."
    )
    turned_deg: Turned = Field(default=(0.0, 0.0, 0.0), description="Turned about x, then y, then z, fixed axes.")
    mass_g: Mass_g | None = Field(default=None, description="Left out: worked out from the material, or unknown.")
    plus_minus_g: Mass_g | None = Field(default=None, description="Bound on the mass; left out: by origin.")
    mass_origin: MassOrigin = "guess"
    material: Identifier | None = None
    price: Price | None = None
    fixed: bool | None = Field(
        default=None,
        description="Whether remedies leave it where it is; left out: batteries, boards and speakers may be moved, all else stays.",
    )

    drawn: tuple[Drawn, ...] = Field(
        default=(), max_length=60, description="How it is drawn in elevations; left out: by its shape. Looks only."
    )

    @property
    def hollow(self) -> bool:
        """Whether it has an inside that things may be in: a wall, and nothing printed within."""
        return getattr(self.shape, "wall_mm", 0.0) > 0 and getattr(self.shape, "infill", 0.0) == 0

    @property
    def movable(self) -> bool:
        """Whether a remedy may propose to move it: as the builder said, else by what it is called."""
        if self.fixed is not None:
            return not self.fixed
        words = set(re.findall(r"[a-z]+", f"{self.name} {self.id}".lower()))
        return bool(words & MOVABLE)
