"""Outlines of parts seen along one of the figure's axes: what an elevation to scale draws."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.bodies.inertia import Array, turned
from karakuri.bodies.shapes import kind_of
from karakuri.model.part import Part


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
    points = [(round(float(x), 9), round(float(y), 9)) for x, y in _seen(part, rotation, view)]
    return hull(points) if len(points) > 2 else []


def box_of(part: Part, rotation: Array, view: Array) -> tuple[float, float]:
    """Width and height, m, of a part's outline; rotation (3, 3) of its link, view (2, 3) picks the drawing's axes. 0, 0 where it has none."""
    seen = list(_seen(part, rotation, view))
    if len(seen) <= 2:
        return 0.0, 0.0
    wide, tall = np.ptp(np.array(seen, dtype=float), axis=0)
    return float(wide), float(tall)


def _seen(part: Part, rotation: Array, view: Array) -> Iterable[tuple[float, float]]:
    look: Array = view @ rotation @ turned(part.turned_deg)
    return kind_of(part.shape).seen(part.shape, look)
