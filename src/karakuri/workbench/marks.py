"""The marks: tumblers, tags, plumb bobs, pivots, centres of mass, and where a mass came from."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainterPath, QPen, QPolygonF

from karakuri.workbench.kit import Kit


def tumbler(kit: Kit, cx: float, cy: float, h: float, verdict: str) -> None:
    """A self-righting doll: upright holds, leaning is tight, upside down fails, dashed is not yet judged."""
    p = kit.p
    p.save()
    p.translate(cx, cy)
    colour = {"holds": "moss", "tight": "ochre", "fails": "verm", "not yet judged": "ink2"}[verdict]
    floor, line = 0.46 * h, max(1.2, h * 0.075)
    if verdict != "not yet judged":
        kit.pen(None)
        kit.brush(colour)
        thick = max(1.3, 0.075 * h)
        if verdict == "fails":
            for side in (-1, 1):
                p.drawPolygon(
                    QPolygonF(
                        [
                            QPointF(side * 0.58 * h, floor - 0.24 * h - thick * 0.5),
                            QPointF(side * 0.24 * h, floor - 0.13 * h - thick * 0.5),
                            QPointF(side * 0.24 * h, floor - 0.13 * h + thick * 0.6),
                            QPointF(side * 0.58 * h, floor - 0.24 * h + thick * 0.6),
                        ]
                    )
                )
        else:
            p.drawRect(QRectF(-0.52 * h, floor - thick * 0.5, 1.04 * h, thick))
    body, r = QPainterPath(), 0.36 * h
    body.moveTo(-r, 0)
    body.cubicTo(-r, -0.26 * h, -0.18 * h, -0.28 * h, -0.18 * h, -0.44 * h)
    body.cubicTo(-0.19 * h, -0.70 * h, 0.19 * h, -0.70 * h, 0.18 * h, -0.44 * h)
    body.cubicTo(0.18 * h, -0.28 * h, r, -0.26 * h, r, 0)
    body.arcTo(QRectF(-r, -r, 2 * r, 2 * r), 0, -180)
    body.closeSubpath()
    turn = {"holds": 0, "tight": 36, "fails": 180, "not yet judged": 0}[verdict]
    if verdict == "fails":
        p.translate(0, -0.17 * h)
    else:
        p.translate(-0.12 * h if verdict == "tight" else 0, floor - r - line * 0.3)
    p.rotate(turn)
    if verdict == "tight":
        kit.draw(body, None, colour, line)
        p.save()
        p.setClipPath(body, Qt.ClipOperation.IntersectClip)
        kit.pen(None)
        kit.brush(colour)
        p.rotate(-turn)
        p.drawRect(QRectF(-h, -0.02 * h, 2 * h, h))
        p.restore()
    elif verdict == "not yet judged":
        pen = QPen(QColor(kit.look.colours[colour]), line)
        pen.setDashPattern([max(1.9, 0.15 * h) / line, max(1.3, 0.085 * h) / line])
        p.setPen(pen)
        kit.brush(None)
        p.drawPath(body)
    else:
        kit.draw(body, colour, None)
        kit.line(-0.3 * h, -0.33 * h, 0.3 * h, -0.33 * h, "card", max(1, line * 0.75))
    p.restore()


def moving_head(kit: Kit, cx: float, cy: float, h: float) -> None:
    """The mark of the program: a head with an eye and a jaw, tilted on its pivot, and where it came from."""
    p = kit.p
    p.save()
    p.translate(cx, cy + 0.40 * h)
    line = max(1.2, 0.06 * h)
    for turn, solid in ((-24, False), (16, True)):
        p.save()
        p.rotate(turn)
        head = QPainterPath()
        head.addEllipse(QPointF(0, -0.62 * h), 0.27 * h, 0.30 * h)
        if solid:
            kit.draw(head, "card", None)
            kit.pen(None)
            kit.brush("indigo")
            p.drawEllipse(QPointF(0.09 * h, -0.70 * h), 0.055 * h, 0.055 * h)
            kit.line(0.02 * h, -0.52 * h, 0.27 * h, -0.50 * h, "indigo", line)
            kit.line(0, -0.33 * h, 0, 0, "card", 1.6 * line)
        else:
            kit.draw(head, None, "card", 0.7 * line)
            kit.line(0, -0.33 * h, 0, 0, "card", 0.7 * line)
        p.restore()
    kit.pen(None)
    kit.brush("brass_f")
    p.drawEllipse(QPointF(0, 0), 0.095 * h, 0.095 * h)
    p.restore()


def tag_path(x: float, y: float, w: float, h: float, cut: float) -> QPainterPath:
    """The one button shape: its left corners are cut."""
    return Kit.path([(x + cut, y), (x + w, y), (x + w, y + h), (x + cut, y + h), (x, y + h - cut), (x, y + cut)], True)


def arrow(kit: Kit, x: float, y: float, w: float, colour: str = "ink3") -> None:
    kit.line(x, y, x + w, y, colour, 1.3, round_cap=True)
    kit.polyline([(x + w - 4, y - 3.2), (x + w, y), (x + w - 4, y + 3.2)], colour, 1.3)


def unfold(kit: Kit, x: float, y: float, colour: str = "indigo") -> None:
    kit.polyline([(x - 3.5, y - 1.8), (x, y + 1.8), (x + 3.5, y - 1.8)], colour, 1.4)


def bob(kit: Kit, x: float, y: float, h: float, fill: str = "brass_f", line: str = "ink", width: float = 1.0) -> None:
    """A plumb bob hanging from (x, y)."""
    path, w = QPainterPath(), h * 0.62
    path.moveTo(x - w * 0.16, y)
    path.lineTo(x + w * 0.16, y)
    path.lineTo(x + w * 0.16, y + h * 0.16)
    path.cubicTo(x + w * 0.66, y + h * 0.2, x + w * 0.56, y + h * 0.55, x, y + h)
    path.cubicTo(x - w * 0.56, y + h * 0.55, x - w * 0.66, y + h * 0.2, x - w * 0.16, y + h * 0.16)
    path.closeSubpath()
    kit.draw(path, fill, line, width)


def centre(kit: Kit, x: float, y: float, r: float, colour: str = "indigo") -> None:
    """Centre of mass: a ring with a drop."""
    kit.circle(x, y, r, "card", colour, 1.6)
    drop = QPainterPath()
    drop.moveTo(x, y - r * 0.62)
    drop.cubicTo(x + r * 0.75, y + r * 0.25, x + r * 0.45, y + r * 0.68, x, y + r * 0.68)
    drop.cubicTo(x - r * 0.45, y + r * 0.68, x - r * 0.75, y + r * 0.25, x, y - r * 0.62)
    kit.draw(drop, colour, None)


def pivot(kit: Kit, x: float, y: float, r: float, selected: bool = False) -> None:
    """A brass disc with an ink eye."""
    if selected:
        kit.circle(x, y, r + 3.5, None, "indigo", 1.8)
    kit.circle(x, y, r, "brass_f", "ink", 1.2)
    kit.circle(x, y, r * 0.34, "ink")


def origin(kit: Kit, x: float, y: float, kind: str) -> None:
    """Where a mass came from: weighing pan, page with a cut corner, layers of a print, a ring for the typical, a dashed ring for a guess."""
    if kind == "weighed":
        kit.line(x - 6, y - 1, x + 6, y - 1, "ink2", 1.3)
        pan = QPainterPath(QPointF(x - 5, y - 1))
        pan.cubicTo(x - 4, y + 5, x + 4, y + 5, x + 5, y - 1)
        kit.draw(pan, "brass_t", "ink2", 1.1)
    elif kind == "data sheet":
        page = Kit.path(
            [(x - 4, y - 5.5), (x + 1.5, y - 5.5), (x + 4, y - 3), (x + 4, y + 5.5), (x - 4, y + 5.5)], True
        )
        kit.draw(page, "card", "ink2", 1.1)
        kit.line(x - 2, y - 1, x + 2, y - 1, "ink2")
        kit.line(x - 2, y + 2, x + 2, y + 2, "ink2")
    elif kind == "slicer":
        for k in range(4):
            kit.line(x - 5 + 0.6 * k, y + 4.5 - 3 * k, x + 5 - 0.6 * k, y + 4.5 - 3 * k, "ink2", 1.3)
    else:
        kit.circle(x, y, 4, None, "brass_f", 1.4, "dash" if kind == "guess" else "")


def slip(kit: Kit, cx: float, cy: float, count: int, verdict: str) -> None:
    """On the rail: a torn slip where something fails, a slanted one where something is tight."""
    s = kit.look.scale
    if verdict == "fails":
        pts = [(-8, -8), (8, -8), (8, 5), (4, 9), (0, 5), (-4, 9), (-8, 5)]
        kit.draw(Kit.path([(cx + a * s, cy + b * s) for a, b in pts], True), "verm", None)
        kit.text(cx, cy - 1.5 * s, str(count), 11, 700, "card", "c")
    else:
        pts = [(-6, -8), (9, -8), (6, 7), (-9, 7)]
        kit.draw(Kit.path([(cx + a * s, cy + b * s) for a, b in pts], True), "ochre_t", "ochre", 1.2)
        kit.text(cx, cy, str(count), 11, 700, "ochre", "c")


def glyph(
    kit: Kit, name: str, cx: float, cy: float, colour: str = "ink", patch: str = "brass_f", k: float = 1.0
) -> None:
    """Bench glyphs in a box of 28, drawn as paths."""
    p = kit.p
    p.save()
    p.translate(cx, cy)
    p.scale(k, k)
    kit.pen(colour, 1.6, round_cap=True)
    kit.brush(None)
    GLYPHS[name](kit, colour, patch)
    p.restore()


def _seg(kit: Kit, *ends: float) -> None:
    kit.p.drawLine(QPointF(ends[0], ends[1]), QPointF(ends[2], ends[3]))


def _figure(kit: Kit, colour: str, patch: str) -> None:
    kit.brush(patch)
    kit.p.drawEllipse(QPointF(0, -6.5), 5.5, 6)
    kit.brush(None)
    _seg(kit, 0, -0.5, 0, 3)
    block = QPainterPath(QPointF(-11, 12))
    block.cubicTo(-11, 5, -6, 3, 0, 3)
    block.cubicTo(6, 3, 11, 5, 11, 12)
    block.closeSubpath()
    kit.p.drawPath(block)
    _seg(kit, -5, 12, -5, 8)
    _seg(kit, 5, 12, 5, 8)


def _drive(kit: Kit, colour: str, patch: str) -> None:
    kit.brush(patch)
    kit.p.drawEllipse(QPointF(-6, 5), 6, 6)
    kit.brush(None)
    for ends in ((-6, 5, -9.5, -6), (-9.5, -6, 9, -9), (9, -9, 7.5, 9), (3, 10, 12, 10)):
        _seg(kit, *ends)
    kit.brush(colour)
    for x, y, r in ((-6, 5, 1.1), (-9.5, -6, 1.7), (9, -9, 1.7)):
        kit.p.drawEllipse(QPointF(x, y), r, r)


def _balance(kit: Kit, colour: str, patch: str) -> None:
    for ends in ((-3.5, -12, -3.5, -6), (-12, -3.2, 12, -7.2), (-10, -3.5, -10, 2), (7, -6.4, 7, 0)):
        _seg(kit, *ends)
    pan = QPainterPath(QPointF(-13.5, 2))
    pan.lineTo(-6.5, 2)
    pan.quadTo(-7, 7, -10, 7)
    pan.quadTo(-13, 7, -13.5, 2)
    kit.p.drawPath(pan)
    kit.brush(patch)
    weight = QPainterPath(QPointF(5.6, 0))
    weight.lineTo(8.4, 0)
    weight.cubicTo(13, 4, 10.5, 8, 7, 12)
    weight.cubicTo(3.5, 8, 1, 4, 5.6, 0)
    kit.p.drawPath(weight)


def _limits(kit: Kit, colour: str, patch: str) -> None:
    leaf = QPainterPath(QPointF(-6.6, -7))
    leaf.lineTo(-3, 1)
    leaf.quadTo(0, 0, 3, 1)
    leaf.lineTo(6.6, -7)
    leaf.quadTo(0, -9.5, -6.6, -7)
    kit.draw(leaf, patch, None)
    kit.pen(colour, 1.6, round_cap=True)
    kit.brush(None)
    for x in (-12, 12):
        _seg(kit, 0, 11, x, -4.5)
    rim = QPainterPath(QPointF(-12, -4.5))
    rim.quadTo(0, -13, 12, -4.5)
    kit.p.drawPath(rim)
    _seg(kit, 0, 11, -4.3, -8)
    _seg(kit, 0, 11, 4.3, -8)
    kit.brush(colour)
    kit.p.drawEllipse(QPointF(0, 11), 1.5, 1.5)


def _score(kit: Kit, colour: str, patch: str) -> None:
    steps = ((-12, 7, -5, 7, -2, 1), (-2, 1, 2, 1, 5, -6), (5, -6, 12, -6, 12, -6))
    for a, b, c, d, e, f in steps:
        way = QPainterPath(QPointF(a, b))
        way.lineTo(c, d)
        way.cubicTo(c + 2, d, e - 2, f, e, f)
        kit.p.drawPath(way)
    _seg(kit, -12, 11.5, 12, 11.5)
    kit.brush(patch)
    for x, y in ((-2, 1), (5, -6), (12, -6)):
        kit.p.drawEllipse(QPointF(x, y), 2.6, 2.6)


def _rehearse(kit: Kit, colour: str, patch: str) -> None:
    for turn, fill in ((-16, None), (18, patch)):
        kit.p.save()
        kit.p.translate(-5 if fill is None else 6, 1)
        kit.p.rotate(turn)
        kit.brush(fill)
        kit.p.drawRoundedRect(QRectF(-3.4, -9, 6.8, 19), 1.2, 1.2)
        kit.p.restore()
    kit.brush(None)
    for ends in ((-1, -12, -2, -9.5), (2.5, -13, 2.2, -10), (6, -12.2, 4.6, -9.8)):
        _seg(kit, *ends)


def _power(kit: Kit, colour: str, patch: str) -> None:
    """A vessel with a spout over a wheel."""
    kit.brush(patch)
    kit.p.drawPolygon(QPolygonF([QPointF(-11, -10), QPointF(-1, -10), QPointF(-3, 1), QPointF(-9, 1)]))
    kit.brush(None)
    _seg(kit, -2, -6, 5, -4)
    kit.p.drawEllipse(QPointF(5, 5), 7, 7)
    for x, y in ((0, -7), (6, -3.5), (6, 3.5), (0, 7), (-6, 3.5), (-6, -3.5)):
        _seg(kit, 5, 5, 5 + x, 5 + y)


def _book(kit: Kit, colour: str, patch: str) -> None:
    kit.p.drawRect(QRectF(-9, -12, 19, 24))
    kit.brush(patch)
    kit.p.drawRect(QRectF(0, -8, 6.5, 9))
    kit.brush(None)
    _seg(kit, -5, -12, -5, 12)
    for y in (-8, -2.7, 2.7, 8):
        _seg(kit, -9, y, -5, y)


def _turned(kit: Kit, colour: str, patch: str, back: bool) -> None:
    way = QPainterPath(QPointF(6 if back else -6, 4))
    s = 1 if back else -1
    way.cubicTo(s * 6, -5, s * -2, -6, s * -6, -1)
    kit.p.drawPath(way)
    kit.p.drawPolyline(QPolygonF([QPointF(s * -6.3, -6), QPointF(s * -6.3, -0.6), QPointF(s * -0.8, -0.8)]))


def _fit(kit: Kit, colour: str, patch: str) -> None:
    """A ring with a wedge in its seam, and the thing that goes in."""
    kit.brush(patch)
    kit.p.drawEllipse(QPointF(0, 1), 6.0, 6.0)
    kit.brush(None)
    kit.p.drawArc(QRectF(-11, -10, 22, 22), 105 * 16, 330 * 16)
    _seg(kit, -3, -13, -2, -8)
    _seg(kit, 3, -13, 2, -8)


GLYPHS = {
    "fit": _fit,
    "figure": _figure,
    "drive": _drive,
    "balance": _balance,
    "limits": _limits,
    "score": _score,
    "power": _power,
    "rehearse": _rehearse,
    "book": _book,
    "undo": lambda kit, c, p: _turned(kit, c, p, True),
    "redo": lambda kit, c, p: _turned(kit, c, p, False),
}


def polar(cx: float, cy: float, angle_deg: float, r: float) -> tuple[float, float]:
    """A point at an angle from straight up, clockwise."""
    return cx + r * math.sin(math.radians(angle_deg)), cy - r * math.cos(math.radians(angle_deg))
