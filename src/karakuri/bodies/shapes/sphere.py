"""A ball, solid or hollow (any dynamics text, from memory)."""

from __future__ import annotations

import math
from typing import Any

from karakuri.bodies.shapes.contract import Array, Number, ShapeKind, Three, ellipse
from karakuri.model.part import Sphere


def _radius(shape: Sphere) -> float:
    return shape.radius_mm / 1e3


def _each(shape: Sphere, share: float) -> Three:
    i = share * _radius(shape) ** 2
    return (i, i, i)


def _seen(shape: Sphere, look: Array) -> Array:
    return ellipse((_radius(shape),) * 3, look)


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {"radius_mm": max(size_mm) / 2}


KIND = ShapeKind(
    "sphere", "sphere", lambda shape: 4 / 3 * math.pi * _radius(shape) ** 3, lambda shape: 4 * math.pi * _radius(shape) ** 2,
    lambda shape: _each(shape, 2 / 5), lambda shape: _each(shape, 2 / 3), _seen, _radius,
    lambda shape: (2 * shape.radius_mm,) * 3, _of_size, (Number("Radius", "radius_mm"),),
)  # fmt: skip
