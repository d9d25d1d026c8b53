"""The ruled field: an indigo value on a brass line, yours to write. Sums and units may be typed; Esc puts it back."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeySequence, QPainter, QPen
from PyQt6.QtWidgets import QLineEdit, QWidget

from karakuri.errors import BadQuantity
from karakuri.units import Quantity, read_quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import font


class Field(QLineEdit):
    """Plain text on a brass line. `entered(text)` when it was changed and left, or Enter was pressed."""

    entered = pyqtSignal(str)
    stirred = pyqtSignal()

    def __init__(self, desk: Desk, name: str, parent: QWidget | None = None, right: bool = True) -> None:
        super().__init__(parent)
        self.desk = desk
        self.kept = ""
        self.setAccessibleName(name)
        self.setFrame(False)
        self.setAlignment(
            (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft) | Qt.AlignmentFlag.AlignVCenter
        )
        self.right = right
        self.editingFinished.connect(self._leave)
        self.textEdited.connect(lambda _: self.stirred.emit())
        self.dress()

    def dress(self) -> None:
        """Fonts and colours of the look."""
        self.setFont(font(self.desk.look, 14 if self.right else 13, 600 if self.right else 500))
        self.setTextMargins(0, 0, 0, 0)
        colours, palette = {k: QColor(v) for k, v in self.desk.look.colours.items()}, self.palette()
        for role, name in ((palette.ColorRole.Text, "indigo"), (palette.ColorRole.PlaceholderText, "ink3"), (palette.ColorRole.Base, "card"),
                           (palette.ColorRole.Highlight, "indigo"), (palette.ColorRole.HighlightedText, "card")):  # fmt: skip
            palette.setColor(role, colours[name])
        self.setPalette(palette)

    def show_text(self, text: str) -> None:
        """Show a value unless the hand is writing in the field."""
        self.kept = text
        if self.hasFocus() and self.isModified():
            return
        if text != self.text():
            self.setText(text)
            if self.hasFocus():
                self.selectAll()  # the hand came by Tab, or stands here: what it types next replaces the value whole
        self.setModified(False)
        if not self.hasFocus():
            self.setCursorPosition(0)

    def put_back(self) -> None:
        self.setText(self.kept)
        self.setModified(False)
        self.stirred.emit()

    def _leave(self) -> None:
        if self.isModified() and self.text() != self.kept:
            self.setModified(False)
            self.entered.emit(self.text())

    @property
    def unfinished(self) -> bool:
        """Whether an entry is being written that the figure does not have yet."""
        return self.isModified() and self.text() != self.kept

    def event(self, event) -> bool:
        """Undo and redo are the figure's, but for an entry that is not finished."""
        turns = QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo
        if event.type() == QEvent.Type.ShortcutOverride and any(map(event.matches, turns)) and not self.unfinished:
            event.ignore()
            return False
        return super().event(event)

    def keyPressEvent(self, event) -> None:
        if event.key() == Qt.Key.Key_Escape and self.text() != self.kept:
            self.put_back()
            event.accept()
            return
        super().keyPressEvent(event)

    def paintEvent(self, event) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        colours = self.desk.look.colours
        if self.hasFocus():
            painter.setPen(QPen(QColor(colours["indigo"]), 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        else:
            painter.setPen(QPen(QColor(colours["brass_f"]), 1.4))
            painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
        painter.end()


class QuantityField(Field):
    """A number in the builder's units. `changed(value SI)` on a good entry, `emptied()` on one taken away where it may be, `troubled(sentence)` on a bad one."""

    changed = pyqtSignal(float)
    emptied = pyqtSignal()
    troubled = pyqtSignal(str)

    def __init__(
        self, desk: Desk, name: str, quantity: Quantity | None, kind: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(desk, name, parent)
        self.kind = kind
        self.doubt: Callable[[float], str] | None = None
        self.may_be_empty = False
        self._asked = ""
        self.entered.connect(self._read)
        self.show_quantity(quantity)

    def show_quantity(self, quantity: Quantity | None) -> None:
        self.quantity = quantity
        self.show_text("" if quantity is None else show_number(quantity, self.desk.units))

    def _read(self, text: str) -> None:
        if self.may_be_empty and not text.strip():
            self.emptied.emit()
            return
        try:
            value = read_quantity(text, self.kind, self.desk.units)
        except BadQuantity as trouble:
            self.setModified(True)
            self.troubled.emit(
                f"{self.accessibleName()}: {trouble}. Before it was {self.kept or 'empty'}; Esc puts that back."
            )
            return
        doubt = self.doubt(value) if self.doubt is not None and text != self._asked else ""
        self._asked = text if doubt else ""
        if doubt:
            self.setModified(True)
            self.troubled.emit(f"{doubt} Enter keeps it, Esc puts back {self.kept or 'nothing'}.")
            return
        self.changed.emit(value)

    def preview(self) -> str:
        """What the typed text would give, or ''."""
        if not self.isModified() or self.text() == self.kept:
            return ""
        if self.may_be_empty and not self.text().strip():
            return f"{self.placeholderText()}, was {self.kept} · Esc puts it back"
        try:
            value = read_quantity(self.text(), self.kind, self.desk.units)
        except BadQuantity:
            return f"was {self.kept or 'empty'} · Esc puts it back"
        return (
            f"{show_number(Quantity(value, self.kind), self.desk.units)}, was {self.kept or 'empty'} · Esc puts it back"
        )

    def keyPressEvent(self, event) -> None:
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(event.key())
        if steps is not None and self.quantity is not None:
            unit = self.desk.units.unit(self.kind)
            step = 10.0 ** -max(0, len(self.text().partition(".")[2])) * (
                10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            )
            try:
                now = read_quantity(self.text(), self.kind, self.desk.units)
            except BadQuantity:
                return
            self.setText(show_number(Quantity(now + steps * step * unit.si, self.kind), self.desk.units))
            self.setModified(False)
            self.changed.emit(now + steps * step * unit.si)
            return
        super().keyPressEvent(event)
