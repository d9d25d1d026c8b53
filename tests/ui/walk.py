"""Walks every widget and painted string of a window and tells what a person could not read or reach."""

import numpy as np
from PyQt6.QtCore import QPoint, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QImage
from PyQt6.QtWidgets import QAbstractButton, QLineEdit, QWidget

SMALLEST, CONTRAST = 11, 4.5


def luminance(colour: QColor) -> float:
    """WCAG 2.x relative luminance."""

    def part(v):
        return v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4

    return 0.2126 * part(colour.redF()) + 0.7152 * part(colour.greenF()) + 0.0722 * part(colour.blueF())


def contrast(a: QColor, b: QColor) -> float:
    """WCAG 2.x contrast ratio."""
    x, y = luminance(a), luminance(b)
    return (max(x, y) + 0.05) / (min(x, y) + 0.05)


def pixels(widget) -> np.ndarray:
    """A widget's picture as (height, width) of 0xAARRGGBB."""
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits().asarray(image.sizeInBytes())
    return (
        np.frombuffer(bits, dtype=np.uint32)
        .reshape(image.height(), image.bytesPerLine() // 4)[:, : image.width()]
        .copy()
    )


def ground(image: np.ndarray, rect: QRectF) -> QColor:
    """The commonest colour in and just round a text."""
    part = image[
        max(0, int(rect.top()) - 1) : int(rect.bottom()) + 2, max(0, int(rect.left()) - 2) : int(rect.right()) + 3
    ]
    if part.size == 0:
        return QColor("white")
    values, counts = np.unique(part, return_counts=True)
    return QColor.fromRgb(int(values[np.argmax(counts)]))


def visible(window) -> list[QWidget]:
    return [w for w in window.middle.findChildren(QWidget) if w.isVisible()]


def walk(window) -> list[str]:
    """Every fault, each a sentence; an empty list is what is wanted."""
    faults: list[str] = []
    whole, body = pixels(window.middle), window.card.body
    for widget in visible(window):
        if hasattr(widget, "painted"):
            if widget is body or body.isAncestorOf(widget):
                faults += _texts(widget, pixels(widget))
            else:
                at = widget.mapTo(window.middle, QPoint(0, 0))
                faults += _texts(
                    widget, whole[max(0, at.y()) : at.y() + widget.height(), max(0, at.x()) : at.x() + widget.width()]
                )
        if isinstance(widget, QLineEdit):
            faults += _line(widget)
        if isinstance(widget, (QAbstractButton, QLineEdit)) or (
            hasattr(widget, "keyPressEvent")
            and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
            and hasattr(widget, "painted")
        ):
            if not widget.accessibleName().strip():
                faults.append(f"NAMELESS {type(widget).__name__}")
            if not widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
                faults.append(f"UNREACHABLE by Tab: {widget.accessibleName()}")
    return faults


def _texts(widget, image: np.ndarray) -> list[str]:
    faults, name = [], f"{type(widget).__name__} “{widget.accessibleName()[:30]}”"
    inside = QRectF(widget.rect()).adjusted(-0.6, -1.5, 0.6, 1.5)
    for i, text in enumerate(widget.painted):
        if not text.text.strip():
            continue
        if not inside.contains(text.rect):
            faults.append(f"CLIPPED {text.text!r} {_at(text.rect)} in {name} {widget.width()}x{widget.height()}")
        if text.px < SMALLEST:
            faults.append(f"SMALL {text.text!r} {text.px} px in {name}")
        ratio = contrast(QColor(text.colour), ground(image, text.rect))
        if ratio < CONTRAST:
            faults.append(f"FAINT {text.text!r} {ratio:.1f}:1 {_at(text.rect)} in {name}")
        for other in widget.painted[:i]:
            common = text.rect.intersected(other.rect)
            if common.width() > 1 and common.height() > 1.5 and other.text.strip():
                faults.append(f"OVERLAP {text.text!r} with {other.text!r} {_at(common)} in {name}")
        for child in widget.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            if child.isVisible() and QRectF(QRect(child.pos(), child.size())).adjusted(3, 3, -3, -3).intersects(
                text.rect
            ):
                faults.append(
                    f"COVERED {text.text!r} by {type(child).__name__} “{child.accessibleName()[:30]}” in {name}"
                )
    return faults + _siblings(widget)


def _siblings(widget) -> list[str]:
    """Two controls that lie over each other."""
    faults, kids = (
        [],
        [c for c in widget.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly) if c.isVisible()],
    )
    for i, a in enumerate(kids):
        for b in kids[:i]:
            common = a.geometry().intersected(b.geometry())
            if common.width() > 9 and common.height() > 9:
                faults.append(f"CONTROLS OVERLAP: “{a.accessibleName()[:30]}” and “{b.accessibleName()[:30]}”")
    return faults


def _line(field: QLineEdit) -> list[str]:
    text = field.text() or field.placeholderText()
    wide = QFontMetricsF(field.font()).horizontalAdvance(text)
    faults = []
    if wide > field.width() - 4 and not field.isModified() and field.alignment() & Qt.AlignmentFlag.AlignRight:
        faults.append(f"CLIPPED field {field.accessibleName()!r}: {text!r} {wide:.0f} of {field.width()}")
    if field.font().pixelSize() < SMALLEST:
        faults.append(f"SMALL field {field.accessibleName()!r}")
    return faults


def _at(rect) -> str:
    return f"at {rect.x():.0f},{rect.y():.0f}"
