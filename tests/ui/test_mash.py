"""Random keys, presses and drags on the real window: no fault, and the figure in the end is one that can be saved and judged."""

import random

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMenu, QMessageBox

from karakuri.files.text import from_text, to_text

PLAIN = [getattr(Qt.Key, f"Key_{c}") for c in "ABCDEFGHIKLMNOPRSTUVWXYZ01259"] + [
    Qt.Key.Key_Minus, Qt.Key.Key_Plus, Qt.Key.Key_Period, Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Tab, Qt.Key.Key_Backtab,
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Insert,
    Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Escape, Qt.Key.Key_F,
]  # fmt: skip
CTRL = [
    Qt.Key.Key_J,
    Qt.Key.Key_D,
    Qt.Key.Key_Z,
    Qt.Key.Key_Z,
    Qt.Key.Key_Y,
    Qt.Key.Key_Plus,
    Qt.Key.Key_Minus,
    Qt.Key.Key_A,
]
ALT = [getattr(Qt.Key, f"Key_{n}") for n in range(1, 7)] + [Qt.Key.Key_C, Qt.Key.Key_W, Qt.Key.Key_F]


def closed() -> None:
    """Menus and dialogs that a key opened."""
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QMenu | QDialog | QMessageBox | QFileDialog) and widget.isVisible():
            widget.close()


@pytest.mark.parametrize("seed", [1, 2])
def test_random_hands(open_window, qtbot, seed, monkeypatch):
    monkeypatch.setattr(QMenu, "exec", lambda self, *given: None)
    monkeypatch.setattr("karakuri.study.answers.wanted", lambda findings: findings[:1])
    window, chance = open_window(), random.Random(seed)
    for _ in range(260):
        target = QApplication.focusWidget() or window
        kind = chance.random()
        if kind < 0.55:
            QTest.keyClick(target, chance.choice(PLAIN))
        elif kind < 0.7:
            QTest.keyClick(target, chance.choice(CTRL), Qt.KeyboardModifier.ControlModifier)
        elif kind < 0.8:
            QTest.keyClick(target, chance.choice(ALT), Qt.KeyboardModifier.AltModifier)
        else:
            at = QPoint(chance.randrange(10, window.width() - 5), chance.randrange(50, window.height() - 10))
            under = window.childAt(at) or window
            here = under.mapFrom(window, at) if under is not window else at
            QTest.mousePress(under, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, here)
            if chance.random() < 0.4:
                QTest.mouseMove(under, here + QPoint(40, 25))
            QTest.mouseRelease(under, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, here + QPoint(20, 10))
        closed()
    qtbot.wait(20)
    figure = window.desk.figure
    assert from_text(to_text(figure)) == figure and window.desk.study is not None
