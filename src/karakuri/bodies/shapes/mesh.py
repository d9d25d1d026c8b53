"""The surface of a file: numbers that were worked out when it was read, in its own units."""

from __future__ import annotations

from typing import Any

import numpy as np

from karakuri.bodies.shapes.contract import Array, ShapeKind, Three
from karakuri.model.part import Mesh


def _unit(shape: Mesh) -> float:
    return shape.unit_mm / 1e3


def _times(shape: Mesh, values: tuple[float, ...], power: int) -> Three:
    x, y, z = (_unit(shape) ** power * v for v in values)
    return x, y, z


def _seen(shape: Mesh, look: Array) -> Array:
    return np.asarray(np.array(shape.hull).reshape(-1, 3) * _unit(shape) @ look.T)


def _far(shape: Mesh) -> float:
    corners = np.array(shape.hull).reshape(-1, 3) if shape.hull else np.array([shape.size]) / 2
    return _unit(shape) * float(np.linalg.norm(corners, axis=1).max())


def _of_size(size_mm: Three) -> dict[str, Any]:
    raise NotImplementedError("a mesh comes from a file")


KIND = ShapeKind(
    "mesh", "mesh from a file", lambda shape: _unit(shape) ** 3 * shape.volume, lambda shape: _unit(shape) ** 2 * shape.area,
    lambda shape: _times(shape, shape.solid_turns[:3], 2), lambda shape: _times(shape, shape.shell_turns[:3], 2), _seen, _far,
    lambda shape: tuple(shape.unit_mm * side for side in shape.size), _of_size, (),
    larger=lambda shape, by: {"unit_mm": shape.unit_mm * by},
    solid_off=lambda shape: _times(shape, shape.solid_at, 1), shell_off=lambda shape: _times(shape, shape.shell_at, 1),
    solid_askew=lambda shape: _times(shape, shape.solid_turns[3:], 2), shell_askew=lambda shape: _times(shape, shape.shell_turns[3:], 2),
)  # fmt: skip
