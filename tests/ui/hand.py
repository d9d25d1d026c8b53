"""A builder's hand on mouse and keyboard, counted.

One action is one click, one drag, one shortcut or key, or one field filled in (its text and the Tab or Enter that leaves it).
"""

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu

from karakuri.workbench.widgets.tag import Choice, RemedyTag, Tag


class Hand:
    def __init__(self, window, qtbot) -> None:
        self.window, self.qtbot, self.actions = window, qtbot, 0

    # ---- what a hand does
    def click(self, widget, at: QPoint | None = None) -> None:
        self.actions += 1
        assert widget.isVisible() and widget.isEnabled(), widget.accessibleName()
        self.reveal(widget)
        QTest.mouseClick(
            widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at or widget.rect().center()
        )
        self.qtbot.wait(1)

    def key(self, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        self.actions += 1
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifier)
        self.qtbot.wait(1)

    def ctrl(self, key) -> None:
        self.key(key, Qt.KeyboardModifier.ControlModifier)

    def alt(self, key) -> None:
        self.key(key, Qt.KeyboardModifier.AltModifier)

    def fill(self, text: str, leave=Qt.Key.Key_Tab) -> None:
        """Write into the field in hand, in place of what it holds, and leave it."""
        self.actions += 1
        field = QApplication.focusWidget()
        assert isinstance(field, QLineEdit), type(field)
        field.selectAll()
        if not text:
            QTest.keyClick(field, Qt.Key.Key_Delete)
        for letter in text:
            QApplication.sendEvent(field, QKeyEvent(QKeyEvent.Type.KeyPress, 0, Qt.KeyboardModifier.NoModifier, letter))
        QTest.keyClick(field, leave)
        self.qtbot.wait(1)

    def drag(self, widget, start: QPointF, by: QPointF, during=None) -> None:
        self.actions += 1
        self._mouse(widget, QMouseEvent.Type.MouseButtonPress, start)
        for k in range(1, 9):
            self._mouse(widget, QMouseEvent.Type.MouseMove, start + by * (k / 8))
            self.qtbot.wait(2)
            if during is not None:
                during()
        self._mouse(widget, QMouseEvent.Type.MouseButtonRelease, start + by)
        self.qtbot.wait(1)

    def _mouse(self, widget, kind, at: QPointF) -> None:
        button = Qt.MouseButton.NoButton if kind == QMouseEvent.Type.MouseMove else Qt.MouseButton.LeftButton
        held = Qt.MouseButton.NoButton if kind == QMouseEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
        QApplication.sendEvent(
            widget, QMouseEvent(kind, at, widget.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        )

    def press(self, table, row) -> None:
        """A press on a row of a ledger."""
        above = sum(table.tall(each) for each in table.rows[: table.rows.index(row)])
        self.click(table, QPoint(40, round(above - table.top) + table.tall(row) // 2))

    def choose(self, choice: Choice, words: str) -> None:
        """A press on the choice, a press on the word: two actions."""
        self.click(choice)
        menu: QMenu = choice.menu
        self.qtbot.waitUntil(menu.isVisible)
        action = next(a for a in menu.actions() if a.text().startswith(words))
        self.actions += 1
        QTest.mouseClick(
            menu, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, menu.actionGeometry(action).center()
        )
        self.qtbot.waitUntil(lambda: not menu.isVisible())
        self.qtbot.wait(1)

    # ---- what an eye finds
    def reveal(self, widget) -> None:
        area = self.window.card.area
        if area.widget().isAncestorOf(widget):
            area.ensureWidgetVisible(widget, 10, 20)

    def field(self, label: str) -> QLineEdit:
        return next(
            e
            for e in self.window.card.body.editors.values()
            if isinstance(e, QLineEdit) and e.accessibleName() == label
        )

    def choice(self, label: str) -> Choice:
        return next(
            e
            for e in self.window.card.body.editors.values()
            if isinstance(e, Choice) and e.accessibleName().startswith(f"{label}:")
        )

    def tag(self, words: str) -> Tag:
        return next(t for t in self.window.middle.findChildren(Tag) if t.isVisible() and t.label.startswith(words))

    def remedies(self) -> list[RemedyTag]:
        return [t for t in self.window.strip.findChildren(RemedyTag) if t.isVisible()]

    def wait_judged(self) -> None:
        """Until all is judged, and the remedies no longer hold still after a click."""
        self.qtbot.waitUntil(
            lambda: (
                not self.window.desk.busy
                and self.window.desk.study is not None
                and self.window.desk.study.figure is self.window.desk.figure
                and not self.window.strip._held.isActive()
            ),
            timeout=20000,
        )
        self.qtbot.wait(5)


def painted(widget) -> str:
    """All that a widget has written on itself."""
    return " ".join(text.text for text in widget.painted).replace("\u00a0", " ")
