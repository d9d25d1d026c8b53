"""Stop: in sight on every bench while a board is joined; at least 44 px."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Press

LEAST = 44


class StopButton(Press):
    """A press ends all motion where it is. Esc does the same."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Stop all motion, Esc", parent)
        self.clicked.connect(lambda: desk.board.stop())
        self.hide()

    def size_wanted(self) -> tuple[int, int]:
        return max(LEAST, self.u(66)), max(LEAST, self.u(56))

    def draw(self, kit: Kit) -> None:
        w, h, cut = self.width(), self.height(), self.u(9)
        shape = Kit.path([(cut, 1), (w - cut, 1), (w - 1, cut), (w - 1, h - cut), (w - cut, h - 1), (cut, h - 1),
                          (1, h - cut), (1, cut)], True)  # fmt: skip
        kit.draw(shape, "indigo" if self.isDown() or self.hot() else "ink", "ink", 2)
        kit.text(w / 2, h / 2 - self.u(7), "Stop", 16, 700, "card", "c")
        kit.text(w / 2, h / 2 + self.u(12), "Esc", 11, 500, "card", "c")
        if self.hasFocus():
            kit.draw(shape, None, "brass_f", 2.5)
