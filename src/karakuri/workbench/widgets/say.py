"""A sentence over the foot of the bench."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.widgets.sheet import Sheet
from karakuri.workbench.widgets.tag import Tag

Choice = tuple[str, Callable[[], object]]


class Say(Sheet):
    """A sentence over the foot of the bench, until it is pressed away or 12 s have gone; or a question, until it is answered."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "message", parent)
        self.text = ""
        self._answers: tuple[Choice, ...] = ()
        self._question, self._at = "", (0, 0, 0)
        self.hide()
        self.ok, self.other = (
            Tag(desk, "Understood", self, lambda: self._press(0)),
            Tag(desk, "", self, lambda: self._press(1)),
        )
        self.other.hide()
        self.timer = QTimer(self, singleShot=True, interval=12000)
        self.timer.timeout.connect(self.hide)

    def say(self, text: str) -> None:
        """Tell something; a question that is not answered yet stands behind it."""
        if self._answers:
            self._show(f"{text} {self._question}")
            return
        self._show(text)
        self.timer.start()

    def ask(self, text: str, *answers: Choice) -> None:
        """Ask something, with one or two answers: it stays until it is answered, or settled."""
        self._answers, self._question = answers, text
        self.ok.set_label(answers[0][0])
        self.other.setVisible(len(answers) > 1)
        if len(answers) > 1:
            self.other.set_label(answers[1][0])
        self._show(text)
        self.timer.stop()
        self.resizeEvent(None)

    def settle(self) -> None:
        """What was asked needs no answer any more."""
        self._answers = ()
        self.hide()
        self.other.hide()
        self.ok.set_label("Understood")
        self.resizeEvent(None)

    def _press(self, which: int) -> None:
        answers = self._answers
        self.settle()
        if answers:
            answers[which][1]()

    def place(self, x: int, foot: int, width: int) -> None:
        """Over a foot, as wide; as tall as what it says and the answers under it need."""
        self._at = (x, foot, width)
        lines = len(wrapped(self.desk.look, self.text, width - self.u(28), 13))
        tall = max(self.u(86), self.u(12) + round(lines * self.u(13 * 1.3)) + self.u(36))
        self.setGeometry(x, foot - tall, width, tall)

    def _show(self, text: str) -> None:
        self.text = text.replace("\n", " ")
        self.setAccessibleName(f"message: {self.text}")
        self.place(*self._at)
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
