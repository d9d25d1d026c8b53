"""Parts: what has mass. A shape at a place, riding on a joint or on the base."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, SerializerFunctionWrapHandler, model_serializer

from karakuri.model.base import Identifier, Name, NotNegative, Place, Positive, Value

BASE = "base"
Origin = Literal["weighed", "data sheet", "typical", "guess"]


class Material(Value):
    """A material and its density, copied from the catalogue or the builder's own."""

    id: Identifier
    name: Name
    density_kgm3: Positive
    origin: Origin = "typical"


def _kind_is_needed(schema: dict[str, Any]) -> None:
    schema["required"] = ["kind", *(name for name in schema.get("required", []) if name != "kind")]


class Form(Value):
    """What all shapes share: a file names their kind, always."""

    model_config = ConfigDict(json_schema_extra=_kind_is_needed)

    @model_serializer(mode="wrap")
    def _with_kind(self, handler: SerializerFunctionWrapHandler) -> dict[str, Any]:
        kind: str = getattr(self, "kind")  # noqa: B009 - each shape declares its own
        return {"kind": kind, **handler(self)}


class Box(Form):
    kind: Literal["box"] = "box"
    size_mm: tuple[Positive, Positive, Positive] = Field(description="Along x, y and z before turning.")
    wall_mm: NotNegative = Field(0.0, description="0 is solid; otherwise a thin shell of this thickness.")


class Sphere(Form):
    kind: Literal["sphere"] = "sphere"
    radius_mm: Positive
    wall_mm: NotNegative = 0.0


class Ellipsoid(Form):
    kind: Literal["ellipsoid"] = "ellipsoid"
    semi_axes_mm: tuple[Positive, Positive, Positive]
    wall_mm: NotNegative = 0.0


class Cylinder(Form):
    kind: Literal["cylinder"] = "cylinder"
    radius_mm: Positive
    height_mm: Positive = Field(description="Along z before turning.")
    wall_mm: NotNegative = 0.0
    open_ends: bool = Field(False, description="A shell without its two end discs.")


class Point(Form):
    kind: Literal["point"] = "point"


Shape = Annotated[Box | Sphere | Ellipsoid | Cylinder | Point, Field(discriminator="kind")]


class Part(Value):
    """One part. Its mass is as weighed or written, else worked out from its material, else unknown."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    shape: Shape = Field(default_factory=Point)
    at_mm: Place = Field((0.0, 0.0, 0.0), description="Its middle, from the datum, figure at rest: forward, left, up.")
    turned_deg: Place = Field((0.0, 0.0, 0.0), description="Turned about x, then y, then z, fixed axes.")
    mass_g: NotNegative | None = Field(None, description="Left out: worked out from the material, or unknown.")
    plus_minus_g: NotNegative | None = Field(None, description="Bound on the mass; left out: by origin.")
    mass_origin: Origin = "guess"
    material: Identifier | None = None
    price: NotNegative | None = None
    fixed: bool = Field(False, description="True: no remedy may propose to move it.")
