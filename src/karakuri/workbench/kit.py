"""The drawing kit: every line, shape and text of the window is painted through it, and every text is recorded for the walk test."""

from __future__ import annotations

import math
import re
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QStaticText,
    QTransform,
)

from karakuri.frozen import Frozen
from karakuri.workbench.theme import FAMILY, Look

_KEEP = re.compile(r"(\d) (mm|cm|kg·cm|oz·in|kg|oz|in|N·m|g|A|V|s|N|°/s|%)(?![\w])")


@lru_cache(maxsize=512)
def _pen(colour: str, width: float, style: str, round_cap: bool) -> QPen:
    pen = QPen(QColor(colour), width)
    patterns: dict[str, list[float]] = {"dash": [4, 3], "dot": [1.2, 2.6], "chain": [9, 3, 2, 3]}
    if style:
        pen.setDashPattern([max(0.6, v / max(width, 1)) for v in patterns[style]])
    pen.setCapStyle(Qt.PenCapStyle.RoundCap if round_cap else Qt.PenCapStyle.FlatCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return pen


@lru_cache(maxsize=512)
def _brush(colour: str, alpha: float | None) -> QBrush:
    shade = QColor(colour)
    if alpha is not None:
        shade.setAlphaF(alpha)
    return QBrush(shade)


class Painted(Frozen):
    """One painted text: where (widget pixels), what, its colour, its size in pixels."""

    rect: QRectF
    text: str
    colour: str
    px: float


def font(look: Look, size: float, weight: int = 400) -> QFont:
    return _font(max(11, round(size * look.scale)), weight)[0]


@lru_cache(maxsize=128)
def _font(px: int, weight: int) -> tuple[QFont, QFontMetricsF]:
    font = QFont(FAMILY)
    font.setPixelSize(px)
    font.setWeight(QFont.Weight(weight))
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return font, QFontMetricsF(font)


@lru_cache(maxsize=8192)
def _advance(text: str, px: int, weight: int) -> float:
    return _font(px, weight)[1].horizontalAdvance(text)


@lru_cache(maxsize=2048)
def _laid(text: str, px: int, weight: int) -> tuple[QStaticText, float]:
    """A line of text laid out once, and how far its letters stand below its top: laying out is half of what painting it costs."""
    font, metrics = _font(px, weight)
    laid = QStaticText(text)
    laid.setTextFormat(Qt.TextFormat.PlainText)
    laid.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    laid.prepare(QTransform(), font)
    return laid, metrics.ascent()


def text_width(look: Look, text: str, size: float, weight: int = 400) -> float:
    return _advance(text, max(11, round(size * look.scale)), weight)


def fit(look: Look, text: str, width: float, ways: tuple[tuple[float, int], ...]) -> tuple[float, list[str]]:
    """The first size, design pixels, at which a text has no more lines than given with it; at the last size cut, with an ellipsis."""
    for size, most in ways:
        lines = wrapped(look, text, width, size)
        if len(lines) <= most:
            return size, lines
    return size, [*lines[: most - 1], lines[most - 1].rstrip(" .,:;") + " …"]


def wrapped(look: Look, text: str, width: float, size: float, weight: int = 400) -> list[str]:
    """Lines no wider than width; numbers keep their units, cos and sin their angles."""
    text = _KEEP.sub("\\1\u00a0\\2", text).replace("cos ", "cos\u00a0").replace("sin ", "sin\u00a0")
    px = max(11, round(size * look.scale))
    if _advance(text, px, weight) <= width:  # most do, and are measured once
        return [text]
    out, line = [], ""
    for word in text.split(" "):
        longer = f"{line} {word}" if line else word
        if _advance(longer, px, weight) <= width or not line:
            line = longer
        else:
            out.append(line)
            line = word
    out.append(line)
    return out


def polygon(xs: np.ndarray, ys: np.ndarray) -> QPolygonF:
    """Points from two arrays (n,), written into Qt's own memory: fifty times faster than point by point."""
    shape = QPolygonF()
    shape.resize(len(xs))
    if len(xs):
        memory = shape.data()
        memory.setsize(16 * len(xs))
        points = np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)
        points[:, 0], points[:, 1] = xs, ys
    return shape


class Kit:
    """A painter with a look and a record of texts. Coordinates are real pixels; text sizes are in design pixels, scaled here."""

    def __init__(self, painter: QPainter, look: Look) -> None:
        self.p, self.look, self.rec = painter, look, []
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)

    def u(self, px: float) -> int:
        return self.look.u(px)

    def pen(self, name: str | None, width: float = 1.0, style: str = "", round_cap: bool = False) -> None:
        if name is None:
            self.p.setPen(Qt.PenStyle.NoPen)
        else:
            self.p.setPen(_pen(self.look.colours[name], width, style, round_cap))

    def brush(self, name: str | None, alpha: float | None = None) -> None:
        if name is None:
            self.p.setBrush(Qt.BrushStyle.NoBrush)
        else:
            self.p.setBrush(_brush(self.look.colours[name], alpha))

    def rect(
        self,
        x: float,
        y: float,
        w: float,
        h: float,
        fill: str | None = None,
        line: str | None = None,
        width: float = 1.0,
        style: str = "",
    ) -> None:
        self.pen(line, width, style)
        self.brush(fill)
        self.p.drawRect(QRectF(x, y, w, h))

    def line(
        self,
        x1: float,
        y1: float,
        x2: float,
        y2: float,
        name: str = "hair",
        width: float = 1.0,
        style: str = "",
        round_cap: bool = False,
    ) -> None:
        self.pen(name, width, style, round_cap)
        self.p.drawLine(QPointF(x1, y1), QPointF(x2, y2))

    def circle(
        self,
        x: float,
        y: float,
        r: float,
        fill: str | None = None,
        line: str | None = None,
        width: float = 1.0,
        style: str = "",
    ) -> None:
        self.pen(line, width, style)
        self.brush(fill)
        self.p.drawEllipse(QPointF(x, y), r, r)

    @staticmethod
    def path(points: list[tuple[float, float]], close: bool = False) -> QPainterPath:
        shape = QPainterPath(QPointF(*points[0]))
        for point in points[1:]:
            shape.lineTo(QPointF(*point))
        if close:
            shape.closeSubpath()
        return shape

    def draw(
        self,
        path: QPainterPath,
        fill: str | None = None,
        line: str | None = "ink",
        width: float = 1.0,
        style: str = "",
        alpha: float | None = None,
    ) -> None:
        self.pen(line, width, style)
        self.brush(fill, alpha)
        self.p.drawPath(path)

    def polyline(self, points: list[tuple[float, float]], name: str, width: float = 1.0, style: str = "") -> None:
        self.pen(name, width, style, True)
        self.brush(None)
        self.p.drawPolyline(QPolygonF([QPointF(*point) for point in points]))

    def hatch(self, path: QPainterPath, name: str, gap: float = 5, width: float = 1.0, angle: float = 45) -> None:
        """Slanted lines within a path: not allowed, or not reached."""
        p, box = self.p, path.boundingRect()
        p.save()
        p.setClipPath(path, Qt.ClipOperation.IntersectClip)
        self.pen(name, width)
        reach, c = math.hypot(box.width(), box.height()) / 2 + 4, box.center()
        ux, uy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
        k = -reach
        while k < reach:
            x, y = c.x() - uy * k, c.y() + ux * k
            p.drawLine(QPointF(x - ux * reach, y - uy * reach), QPointF(x + ux * reach, y + uy * reach))
            k += gap
        p.restore()

    def width(self, text: str, size: float = 13, weight: int = 400) -> float:
        return text_width(self.look, text, size, weight)

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 13,
        weight: int = 400,
        colour: str = "ink",
        align: str = "l",
        ground: str | None = None,
    ) -> float:
        """One line; y is the middle of the letters, align l, c or r. Returns where it ends."""
        px = max(11, round(size * self.look.scale))
        font, advance = _font(px, weight)[0], _advance(text, px, weight)
        left = x if align == "l" else x - advance if align == "r" else x - advance / 2
        base = y + px * 0.34
        if ground:
            self.rect(left - 3, y - px * 0.6, advance + 6, px * 1.2, ground)
        self.p.setFont(font)
        self.pen(colour)
        laid, ascent = _laid(text, px, weight)
        self.p.drawStaticText(QPointF(left, base - ascent), laid)
        box = QRectF(left, base - px * 0.68, advance, px * 0.86)
        shift = self.p.transform()
        box = box if shift.isIdentity() else shift.mapRect(box)
        self.rec.append(Painted(box, text, self.look.colours[colour], px))
        return left + advance

    def short(self, text: str, room: float, size: float = 13, weight: int = 400) -> str:
        """As many whole words of a text as fit; of a single word, as many letters."""
        while len(text) > 1 and self.width(text, size, weight) > room:
            text = text.rsplit(" ", 1)[0].rstrip(" ,:") if " " in text.strip() else text[:-1]
        return text

    def lines(
        self,
        x: float,
        y: float,
        text: str,
        width: float,
        size: float = 13,
        weight: int = 400,
        colour: str = "ink",
        leading: float | None = None,
    ) -> float:
        """A paragraph from y (middle of its first line) down. Returns the middle of the line after the last."""
        step = self.u(leading or size * 1.3)
        for line in wrapped(self.look, text, width, size, weight):
            self.text(x, y, line, size, weight, colour)
            y += step
        return y
