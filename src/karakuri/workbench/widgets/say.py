"""A sentence over the foot of the bench."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet
from karakuri.workbench.widgets.tag import Tag


class Say(Sheet):
    """A sentence over the foot of the bench, until it is pressed away or 12 s have gone."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "message", parent)
        self.text = ""
        self.hide()
        self.ok = Tag(desk, "Understood", self, self.hide)
        self.other = Tag(desk, "", self)
        self.other.hide()
        self.timer = QTimer(self, singleShot=True, interval=12000)
        self.timer.timeout.connect(self.hide)

    def say(self, text: str) -> None:
        self.text = text.replace("\n", " ")
        self.setAccessibleName(f"message: {self.text}")
        self.timer.start()
        self.show()
        self.raise_()
        self.update()

    def resizeEvent(self, event) -> None:
        size = self.ok.sizeHint()
        self.ok.setGeometry(
            self.width() - size.width() - self.u(6),
            self.height() - size.height() - self.u(4),
            size.width(),
            size.height(),
        )
        other = self.other.sizeHint()
        self.other.setGeometry(self.ok.x() - other.width() - self.u(2), self.ok.y(), other.width(), other.height())

    def draw(self, kit: Kit) -> None:
        kit.rect(1, 1, self.width() - 2, self.height() - 2, "card", "indigo", 1.6)
        kit.lines(self.u(14), self.u(18), self.text, self.width() - self.u(28), 13)
