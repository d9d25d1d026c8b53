"""A box, solid or of six plates (any dynamics text, e.g. Meriam & Kraige, App. B; from memory)."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from karakuri.bodies.shapes.contract import Array, Number, ShapeKind, Three
from karakuri.model.part import Box


def _sides(shape: Box) -> Three:
    a, b, c = (s / 1e3 for s in shape.size_mm)
    return a, b, c


def _area(shape: Box) -> float:
    a, b, c = _sides(shape)
    return 2 * (a * b + b * c + c * a)


def _solid(shape: Box) -> Three:
    a, b, c = _sides(shape)
    return ((b * b + c * c) / 12, (a * a + c * c) / 12, (a * a + b * b) / 12)


def _shell(shape: Box) -> Three:
    a, b, c = _sides(shape)
    area = _area(shape)

    def second(u: float, v: float, w: float) -> float:
        """Second moment of area-share along the axis of length u."""
        return (2 * v * w * u * u / 4 + 2 * u * (v + w) * u * u / 12) / area

    x, y, z = second(a, b, c), second(b, c, a), second(c, a, b)
    return (y + z, x + z, x + y)


def _seen(shape: Box, look: Array) -> Array:
    a, b, c = (s / 2 for s in _sides(shape))
    return np.array([(x, y, z) for x in (-a, a) for y in (-b, b) for z in (-c, c)]) @ look.T


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {"size_mm": size_mm}


KIND = ShapeKind(
    "box", "box", lambda shape: math.prod(_sides(shape)), _area, _solid, _shell, _seen,
    lambda shape: math.hypot(*_sides(shape)) / 2, lambda shape: shape.size_mm, _of_size,
    tuple(Number(words, "size_mm", i) for i, words in enumerate(("Long", "Wide", "High"))),
)  # fmt: skip
