"""Outlines of parts seen along one of the figure's axes: what an elevation to scale draws."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array, turned
from karakuri.model.part import Box, Cylinder, Ellipsoid, Part, Point, Sphere

_RING = np.linspace(0, 2 * math.pi, 36, endpoint=False)


def hull(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Convex hull of points (x, y), in m or mm as given, anticlockwise. Andrew's monotone chain."""
    ordered = sorted(set(points))
    if len(ordered) < 3:
        return ordered

    def half(order: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for p in order:
            while (
                len(out) >= 2
                and ((out[-1][0] - out[-2][0]) * (p[1] - out[-2][1]) - (out[-1][1] - out[-2][1]) * (p[0] - out[-2][0]))
                <= 0
            ):
                out.pop()
            out.append(p)
        return out[:-1]

    return half(ordered) + half(ordered[::-1])


def outline(part: Part, rotation: Array, view: Array) -> list[tuple[float, float]]:
    """Corners, m, of a part's outline about its middle; rotation (3, 3) of its link, view (2, 3) picks the drawing's axes."""
    look: Array = view @ rotation @ turned(part.turned_deg)
    shape = part.shape
    if isinstance(shape, Point):
        return []
    if isinstance(shape, (Sphere, Ellipsoid)):
        axes = (shape.radius_mm,) * 3 if isinstance(shape, Sphere) else shape.semi_axes_mm
        flat = look * (np.array(axes) / 1e3)
        values, vectors = np.linalg.eigh(flat @ flat.T)
        half = vectors * np.sqrt(np.maximum(values, 0.0))
        return [(float(x), float(y)) for x, y in (half @ np.stack([np.cos(_RING), np.sin(_RING)])).T]
    corners = _box(shape) if isinstance(shape, Box) else _cylinder(shape)
    seen = corners @ look.T
    return hull([(round(float(x), 9), round(float(y), 9)) for x, y in seen])


def _box(shape: Box) -> Array:
    a, b, c = (s / 2e3 for s in shape.size_mm)
    return np.array([(x, y, z) for x in (-a, a) for y in (-b, b) for z in (-c, c)])


def _cylinder(shape: Cylinder) -> Array:
    r, h = shape.radius_mm / 1e3, shape.height_mm / 2e3
    ring = np.stack([r * np.cos(_RING), r * np.sin(_RING)], axis=1)
    return np.concatenate([np.column_stack([ring, np.full(len(ring), z)]) for z in (-h, h)])
