"""A drum along z, solid, or a wall with or without both discs (any dynamics text, from memory)."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from karakuri.bodies.shapes.contract import RING, Array, Number, ShapeKind, Three
from karakuri.model.part import Cylinder


def _sizes(shape: Cylinder) -> tuple[float, float]:
    return shape.radius_mm / 1e3, shape.height_mm / 1e3


def _parts(shape: Cylinder) -> tuple[float, float]:
    """Wall and both discs, m²."""
    r, h = _sizes(shape)
    return 2 * math.pi * r * h, 0.0 if shape.open_ends else 2 * math.pi * r * r


def _volume(shape: Cylinder) -> float:
    r, h = _sizes(shape)
    return math.pi * r * r * h


def _solid(shape: Cylinder) -> Three:
    r, h = _sizes(shape)
    across = (3 * r * r + h * h) / 12
    return (across, across, r * r / 2)


def _shell(shape: Cylinder) -> Three:
    (r, h), (wall, discs) = _sizes(shape), _parts(shape)
    along = (wall * r * r + discs * r * r / 2) / (wall + discs)
    across = (wall * (r * r / 2 + h * h / 12) + discs * (r * r / 4 + h * h / 4)) / (wall + discs)
    return (across, across, along)


def _seen(shape: Cylinder, look: Array) -> Array:
    r, h = _sizes(shape)
    ring = np.stack([r * np.cos(RING), r * np.sin(RING)], axis=1)
    ends = np.concatenate([np.column_stack([ring, np.full(len(ring), z)]) for z in (-h / 2, h / 2)])
    return np.asarray(ends @ look.T)


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {"radius_mm": max(size_mm[:2]) / 2, "height_mm": size_mm[2]}


KIND = ShapeKind(
    "cylinder", "cylinder", _volume, lambda shape: sum(_parts(shape)), _solid, _shell, _seen,
    lambda shape: math.hypot(shape.radius_mm, shape.height_mm / 2) / 1e3,
    lambda shape: (2 * shape.radius_mm, 2 * shape.radius_mm, shape.height_mm), _of_size,
    (Number("Radius", "radius_mm"), Number("High", "height_mm")),
)  # fmt: skip
