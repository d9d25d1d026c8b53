"""Shapes as everything computes with them: one file a kind."""

from __future__ import annotations

from typing import Any

from karakuri.bodies.shapes import box, cylinder, ellipsoid, mesh, point, sheet, sphere
from karakuri.bodies.shapes.contract import ShapeKind
from karakuri.model.part import Part, Shape

SHAPES: dict[str, ShapeKind] = {
    each.KIND.kind: each.KIND for each in (point, box, sphere, ellipsoid, cylinder, sheet, mesh)
}


def kind_of(shape: Shape) -> ShapeKind:
    """What is known of a shape's kind."""
    return SHAPES[shape.kind]


def reshaped(part: Part, kind: str) -> dict[str, Any]:
    """The fields of another shape of the same size, mm, as far as it can be said; a wall and what fills it stay."""
    old = part.shape
    if kind == old.kind:
        return {"kind": kind} | dict(old)
    fields = SHAPES[kind].of_size(kind_of(old).size(old))
    if kind not in ("point", "sheet"):
        fields |= {name: getattr(old, name) for name in ("wall_mm", "infill") if getattr(old, name, 0.0)}
    return {"kind": kind} | fields


def described(shape: Shape) -> str:
    """In a word or two: box, box shell, printed box, sheet, point."""
    wall, fill = getattr(shape, "wall_mm", 0.0), getattr(shape, "infill", 0.0)
    if wall > 0:
        return f"printed {shape.kind}" if fill > 0 else f"{shape.kind} shell"
    return shape.kind
