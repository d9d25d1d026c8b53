"""A sheet spread over something of about an egg's shape: foam, cloth, fur, leather; with glue and paint on it."""

from __future__ import annotations

from typing import Any

from karakuri.bodies.shapes.contract import Array, Number, ShapeKind, Three, ellipse
from karakuri.bodies.shapes.ellipsoid import surface
from karakuri.model.part import Sheet


def _axes(shape: Sheet) -> Three:
    a, b, c = (s / 2e3 for s in shape.over_mm)
    return a, b, c


def _area(shape: Sheet) -> float:
    return surface(_axes(shape))[0] if shape.area_cm2 is None else shape.area_cm2 / 1e4


def _volume(shape: Sheet) -> float:
    return _area(shape) * shape.thick_mm / 1e3


def _turns(shape: Sheet) -> Three:
    return surface(_axes(shape))[1]


def _seen(shape: Sheet, look: Array) -> Array:
    return ellipse(_axes(shape), look)


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {"over_mm": size_mm}


def _larger(shape: Sheet, by: float) -> dict[str, Any]:
    x, y, z = (round(by * side, 3) for side in shape.over_mm)
    return {"over_mm": (x, y, z)} | ({} if shape.area_cm2 is None else {"area_cm2": round(shape.area_cm2 * by * by, 3)})


KIND = ShapeKind(
    "sheet", "sheet of foam, cloth, fur", _volume, _area, _turns, _turns, _seen, lambda shape: max(_axes(shape)),
    lambda shape: shape.over_mm, _of_size,
    (*(Number(f"Over something {words}", "over_mm", i) for i, words in enumerate(("long", "wide", "high"))), Number("Thick", "thick_mm")),
    lambda shape: _area(shape) * shape.glue_gpm2 / 1e3, _larger,
)  # fmt: skip
