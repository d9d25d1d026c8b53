"""How what is strung between two places is drawn: zigzag from ring to ring, cord, cylinder and rod, foam, a spiral about a pivot."""

from __future__ import annotations

import itertools
import math

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath

from karakuri.workbench.kit import Kit

Point = tuple[float, float]


def draw_strung(kit: Kit, kind: str, way: list[Point], slack: bool, on: bool) -> None:
    """An element along its way, pixels; `slack`: hanging loose in the pose shown."""
    ink = "indigo" if on else "brass"
    for a, b in itertools.pairwise(way[:-1]):
        kit.line(*a, *b, ink, 1.4)
    a, b = way[-2], way[-1]
    if kind == "spring":
        zigzag(kit, a, b, ink, slack)
    elif kind == "elastic":
        kit.line(*a, *b, ink, 1.2 if slack else 3.0, "dash" if slack else "")
        if not slack:
            kit.line(*a, *b, "paper", 1.0)
    elif kind in ("cord", "cable"):
        kit.line(*a, *b, ink, 1.4)
    elif kind in ("strut", "actuator"):
        _strut(kit, a, b, ink)
    elif kind == "magnets":
        _discs(kit, a, b, ink)
    else:
        _pad(kit, a, b, ink)
    for point in way:
        kit.circle(*point, kit.u(3.2), "paper", ink, 1.6)


def draw_rod(kit: Kit, foot: Point, tip: Point, bent: Point, thick: float, on: bool) -> None:
    """A rod from foot to tip, as thick as it is; dashed, as it bends, where that can be seen."""
    ink = "indigo" if on else "ink2"
    kit.line(*foot, *tip, ink, thick)
    if thick > 4:
        kit.line(*foot, *tip, "card", thick - 2.4)
    if math.dist(tip, bent) > 1.5:
        middle = (0.5 * (foot[0] + tip[0]), 0.5 * (foot[1] + tip[1]))
        path = QPainterPath(QPointF(*foot))
        path.quadTo(QPointF(*middle), QPointF(*bent))
        kit.draw(path, None, "verm", 1.6, "dash")
    for point in (foot, tip):
        kit.circle(*point, kit.u(3.2), "paper", ink, 1.6)


def draw_face(kit: Kit, kind: str, middle: Point, tip: Point, wide: float, on: bool) -> None:
    """What holds something on: two marks as far apart as its outermost ones, square to the way it comes off; one on another where that
    points at the eye."""
    ink = "indigo" if on else "brass"
    dx, dy = tip[0] - middle[0], tip[1] - middle[1]
    size = math.hypot(dx, dy)
    x, y = (dx / size, dy / size) if size > 1.0 else (0.0, -1.0)
    half = min(max(wide / 2, kit.u(6)), kit.u(60))
    for side in (-1, 1):
        cx, cy = middle[0] - side * y * half, middle[1] + side * x * half
        if kind == "magnets":
            corners = [(cx - y * kit.u(5) * a + x * kit.u(3) * b, cy + x * kit.u(5) * a + y * kit.u(3) * b) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]  # fmt: skip
            kit.draw(Kit.path(corners, True), "brass_f", ink, 1.2)
        else:
            kit.circle(cx, cy, kit.u(3), "card", ink, 1.4)
    style = "dot" if kind == "hook and loop" else "dash" if kind == "elastic" else ""
    kit.line(middle[0] + y * half, middle[1] - x * half, middle[0] - y * half, middle[1] + x * half, ink, 1.2, style)


def draw_spiral(kit: Kit, at: Point, on: bool) -> None:
    """A spring about a pivot."""
    path, r = QPainterPath(), kit.u(7)
    for i in range(49):
        angle, size = i / 48 * 5 * math.pi, r + kit.u(5) * i / 48
        point = QPointF(at[0] + size * math.cos(angle), at[1] - size * math.sin(angle))
        path.moveTo(point) if i == 0 else path.lineTo(point)
    kit.draw(path, None, "indigo" if on else "brass", 1.4)


def zigzag(kit: Kit, a: Point, b: Point, ink: str, slack: bool, turns: int = 9) -> None:
    """A coil seen from the side; straight hooks at both ends; dashed where it hangs slack."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = math.hypot(dx, dy)
    if size < 4:
        return
    x, y, half = dx / size, dy / size, kit.u(5)
    hook = min(size * 0.15, kit.u(9))
    points = [a, (a[0] + x * hook, a[1] + y * hook)]
    inner = size - 2 * hook
    for i in range(2 * turns):
        along, side = hook + inner * (i + 0.5) / (2 * turns), half if i % 2 else -half
        points.append((a[0] + x * along - y * side, a[1] + y * along + x * side))
    points += [(b[0] - x * hook, b[1] - y * hook), b]
    kit.polyline(points, ink, 1.5, "dash" if slack else "")


def _strut(kit: Kit, a: Point, b: Point, ink: str) -> None:
    middle = (a[0] + 0.55 * (b[0] - a[0]), a[1] + 0.55 * (b[1] - a[1]))
    kit.line(*a, *middle, ink, kit.u(8))
    kit.line(*a, *middle, "card", kit.u(8) - 3)
    kit.line(*middle, *b, ink, 2.4)


def _discs(kit: Kit, a: Point, b: Point, ink: str) -> None:
    """Two discs seen from the side, with the gap between them."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = math.hypot(dx, dy) or 1.0
    x, y, half, thick = dx / size, dy / size, kit.u(7), kit.u(4)
    kit.line(*a, *b, ink, 1.0, "dot")
    for (cx, cy), way in ((a, -1.0), (b, 1.0)):
        tx, ty = cx + way * x * thick, cy + way * y * thick
        corners = [(cx - y * half, cy + x * half), (tx - y * half, ty + x * half), (tx + y * half, ty - x * half), (cx + y * half, cy - x * half)]  # fmt: skip
        kit.draw(Kit.path(corners, True), "brass_f", ink, 1.2)


def _pad(kit: Kit, a: Point, b: Point, ink: str) -> None:
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = math.hypot(dx, dy) or 1.0
    x, y, half = dx / size, dy / size, kit.u(9)
    corners = [
        (a[0] - y * half, a[1] + x * half),
        (b[0] - y * half, b[1] + x * half),
        (b[0] + y * half, b[1] - x * half),
        (a[0] + y * half, a[1] - x * half),
    ]
    path = Kit.path(corners, True)
    kit.hatch(path, ink, 4)
    kit.draw(path, None, ink, 1.2)


def strung_mark(kit: Kit, kind: str, x: float, y: float, wide: float) -> None:
    """What stands before its name in a list."""
    if kind == "motor":
        kit.circle(x + wide / 2, y, wide * 0.36, "brass_f", "brass", 1.4)
        kit.line(x + wide / 2, y, x + wide * 0.9, y - wide * 0.3, "brass", 1.6)
    elif kind == "torsion":
        kit.circle(x + wide / 2, y, wide * 0.36, None, "brass", 1.4)
        kit.circle(x + wide / 2, y, 1.6, "brass")
    elif kind == "fastening":
        kit.rect(x, y - 3, wide * 0.4, 6, "brass_f", "brass", 1.2)
        kit.rect(x + wide * 0.6, y - 3, wide * 0.4, 6, "brass_f", "brass", 1.2)
    elif kind == "wearer":
        kit.circle(x + wide / 2, y - wide * 0.15, wide * 0.28, None, "indigo", 1.4)
        kit.line(x + wide * 0.1, y + wide * 0.45, x + wide * 0.9, y + wide * 0.45, "indigo", 1.4)
    elif kind == "spring":
        step = wide / 6
        kit.polyline([(x + i * step, y + (3 if i % 2 else -3) * (0 < i < 6)) for i in range(7)], "brass", 1.3)
    else:
        kit.line(x, y, x + wide, y, "brass", 4 if kind == "pad" else 2.4 if kind == "elastic" else 1.6)
