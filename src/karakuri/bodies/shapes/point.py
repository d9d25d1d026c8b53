"""A point: a mass without a size."""

from __future__ import annotations

from typing import Any

import numpy as np

from karakuri.bodies.shapes.contract import Array, ShapeKind, Three, nothing
from karakuri.model.part import Point


def _none(shape: Point) -> Three:
    return (0.0, 0.0, 0.0)


def _seen(shape: Point, look: Array) -> Array:
    return np.zeros((0, 2))


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {}


KIND = ShapeKind(
    "point", "point", nothing, nothing, _none, _none, _seen, nothing, lambda shape: (40.0, 40.0, 40.0), _of_size, ()
)
