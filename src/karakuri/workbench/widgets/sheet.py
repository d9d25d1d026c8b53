"""Base of everything painted: a widget, or a button, that draws through the kit and keeps what it wrote."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QAbstractButton, QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, Painted


class Drawn:
    """What a sheet and a press share: the look's sizes, and painting by `draw(kit)` with a record of its texts in `painted`."""

    desk: Desk
    painted: list[Painted]

    def u(self, px: float) -> int:
        return self.desk.look.u(px)

    def draw(self, kit: Kit) -> None:
        raise NotImplementedError

    def paintEvent(self, event) -> None:
        painter = QPainter(self)
        kit = Kit(painter, self.desk.look)
        try:
            self.draw(kit)
        finally:
            painter.end()
        self.painted = kit.rec


class Sheet(Drawn, QWidget):
    """A painted page or picture."""

    def __init__(self, desk: Desk, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.painted = []
        self.setAccessibleName(name)


class Press(Drawn, QAbstractButton):
    """A button that draws itself; hover and focus show by its own marks."""

    def __init__(self, desk: Desk, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.painted = []
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)

    def hot(self) -> bool:
        return self.underMouse() and self.isEnabled()

    def sizeHint(self) -> QSize:
        return QSize(self.u(80), self.u(28))

    def keyPressEvent(self, event) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
            return
        super().keyPressEvent(event)
