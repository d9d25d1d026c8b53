"""A list with columns: read-only rows of 18, the one in hand boxed; arrows go through it, Enter takes a row in hand."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet


@dataclass(eq=False, repr=False)
class Row:
    """A row: what it stands for, its spoken name, and a painter."""

    key: Hashable
    name: str
    paint: Callable[[Kit, float, float, bool], None]
    tall: float = 18.0
    group: bool = False
    spine: str = ""
    extra: dict = field(default_factory=dict)


class Ledger(Sheet):
    """Rows painted by their own painters; scrolls when there are more than fit."""

    picked = pyqtSignal(object)
    asked = pyqtSignal(object)

    def __init__(self, desk: Desk, name: str, parent: QWidget) -> None:
        super().__init__(desk, name, parent)
        self.title = name
        self.rows: list[Row] = []
        self.current: Hashable = None
        self.top = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_rows(self, rows: list[Row], current: Hashable) -> None:
        self.rows, self.current = rows, current
        self._speak()
        self.top = max(0.0, min(self.top, self.content() - self.height()))
        self.update()

    def _speak(self) -> None:
        row = next((row for row in self.rows if row.key == self.current), None)
        self.setAccessibleName(f"{self.title}: {row.name}" if row else self.title)

    def tall(self, row: Row) -> int:
        return self.u(row.tall)

    def content(self) -> int:
        return sum(self.tall(row) for row in self.rows)

    def reveal(self) -> None:
        y = 0
        for row in self.rows:
            if row.key == self.current:
                self.top = min(self.top, y)
                self.top = max(self.top, y + self.tall(row) - self.height())
            y += self.tall(row)

    def row_at(self, y: float) -> Row | None:
        y += self.top
        for row in self.rows:
            if y < self.tall(row):
                return row
            y -= self.tall(row)
        return None

    def rect_of(self, key: Hashable):
        """(y, height) of a row on the widget, for tests and reveals."""
        y = -self.top
        for row in self.rows:
            if row.key == key:
                return y, self.tall(row)
            y += self.tall(row)
        return None

    def mousePressEvent(self, event) -> None:
        row = self.row_at(event.position().y())
        if row is not None:
            self._take(row)

    def mouseDoubleClickEvent(self, event) -> None:
        row = self.row_at(event.position().y())
        if row is not None:
            self.asked.emit(row.key)

    def _take(self, row: Row) -> None:
        self.current = row.key
        self._speak()
        self.reveal()
        self.update()
        self.picked.emit(row.key)

    def keyPressEvent(self, event) -> None:
        keys = [row.key for row in self.rows]
        at = keys.index(self.current) if self.current in keys else -1
        step = {
            Qt.Key.Key_Down: 1,
            Qt.Key.Key_Up: -1,
            Qt.Key.Key_PageDown: 8,
            Qt.Key.Key_PageUp: -8,
            Qt.Key.Key_Home: -len(keys),
            Qt.Key.Key_End: len(keys),
        }.get(event.key())
        if step is not None and keys:
            self._take(self.rows[max(0, min(len(keys) - 1, at + step))])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current is not None:
            self.asked.emit(self.current)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event) -> None:
        self.top = max(0.0, min(self.top - event.angleDelta().y() / 2, self.content() - self.height()))
        self.update()

    def resizeEvent(self, event) -> None:
        self.top = max(0.0, min(self.top, self.content() - self.height()))
        self.reveal()

    def draw(self, kit: Kit) -> None:
        y = -self.top
        for row in self.rows:
            tall = self.tall(row)
            if y + tall > 0.5 and y < self.height() - tall * 0.4:
                on = row.key == self.current
                if y >= -0.5 and y + tall <= self.height() + 0.5:
                    if on:
                        kit.rect(3, y + 0.5, self.width() - 4, tall - 1, "sel", "indigo", 1.2)
                    if row.spine:
                        kit.rect(0, y, 3, tall, row.spine)
                    row.paint(kit, y + tall / 2, self.width(), on)
            y += tall
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)
        if self.content() > self.height():
            x, tall = self.width() - 2, self.height()
            kit.line(x, 0, x, tall, "hair", 2)
            kit.line(x, tall * self.top / self.content(), x, tall * (self.top + tall) / self.content(), "rule", 4)
