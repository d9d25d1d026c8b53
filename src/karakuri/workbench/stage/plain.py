"""A figure at rest, plainly, from the side and from the front, to one scale: what is about to be made, before there is anything to take hold of."""

from __future__ import annotations

from functools import partial

import numpy as np

from karakuri.bodies.outline import outline
from karakuri.model.figure import Figure
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot
from karakuri.workbench.stage.scene import SCALES
from karakuri.workbench.stage.view import AXES

STILL = np.eye(3)
MM_A_PIXEL = 0.2646
"""Of a screen of 96 dots to the inch."""


def draw_plain(kit: Kit, figure: Figure, x: float, y: float, wide: float, high: float) -> None:
    """In a box in pixels; nothing of a figure without parts."""
    views = [_corners(figure, axes) for axes in AXES.values()]
    if not all(any(shapes.values()) for shapes, _ in views):
        return
    spans = [_span(shapes, pins) for shapes, pins in views]
    gap, foot = kit.u(30), kit.u(18)
    room = (wide - gap) / sum(max(right - left, 1.0) for left, right, _, _ in spans)
    tall = (high - foot) / max(max(top - low, 1.0) for _, _, low, top in spans)
    finest = min(room, tall)
    scale = next((s for s in SCALES if 1 / (s * MM_A_PIXEL) <= finest), None)
    by = 1 / (scale * MM_A_PIXEL) if scale is not None else finest
    left_edge = x
    for (shapes, pins), (left, right, low, _), name in zip(views, spans, ("side", "front"), strict=True):
        floor = y + high - foot

        at = partial(_at, by, (left_edge, floor), (left, low))
        for ident, corners in shapes.items():
            if len(corners) > 2:
                kit.draw(kit.path([at(p) for p in corners], True), "card" if ident else None, "ink", 1.2)
        for point in pins:
            pivot(kit, *at(point), kit.u(3.4))
        kit.text(left_edge, y + high - kit.u(6), f"from the {name}", 12, 400, "ink2")
        left_edge += by * (right - left) + gap
    words = f"1 : {scale:g}" if scale is not None else "to scale"
    kit.text(left_edge, y + high - kit.u(6), words, 12, 400, "ink3")


def _at(
    by: float, corner: tuple[float, float], origin: tuple[float, float], point: tuple[float, float]
) -> tuple[float, float]:
    """On the screen, of a point in mm; `corner` pixels is where `origin` mm lies."""
    return corner[0] + by * (point[0] - origin[0]), corner[1] - by * (point[1] - origin[1])


Shapes = dict[str, list[tuple[float, float]]]


def _corners(figure: Figure, axes: np.ndarray) -> tuple[Shapes, list[tuple[float, float]]]:
    """Outlines of all parts by id, and pivots, mm, in a view (2, 3)."""
    shapes: Shapes = {}
    for part in figure.parts:
        middle = axes @ np.array(part.at_mm)
        corners = outline(part, STILL, axes)
        shapes[part.id] = [(float(middle[0] + 1e3 * a), float(middle[1] + 1e3 * b)) for a, b in corners]
    pins = [tuple(float(v) for v in axes @ np.array(joint.at_mm)) for joint in figure.joints]
    return shapes, [(a, b) for a, b in pins]


def _span(shapes: Shapes, pins: list[tuple[float, float]]) -> tuple[float, float, float, float]:
    """Left, right, low and top, mm."""
    points = [p for corners in shapes.values() for p in corners] + pins
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    return min(xs), max(xs), min(ys), max(ys)
