"""Random keys, presses and drags on a window: what the test of random hands and the measurement of long use both do."""

from __future__ import annotations

import random

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMenu, QMessageBox, QWidget

PLAIN = [getattr(Qt.Key, f"Key_{c}") for c in "ABCDEFGHIKLMNOPRSTUVWXYZ01259"] + [
    Qt.Key.Key_Minus, Qt.Key.Key_Plus, Qt.Key.Key_Period, Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Tab, Qt.Key.Key_Backtab,
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Insert,
    Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Escape, Qt.Key.Key_F,
]  # fmt: skip
CTRL = [getattr(Qt.Key, f"Key_{name}") for name in ("J", "D", "Z", "Z", "Y", "Plus", "Minus", "A")]
ALT = [getattr(Qt.Key, f"Key_{n}") for n in range(1, 9)] + [Qt.Key.Key_C, Qt.Key.Key_W, Qt.Key.Key_F]
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def act(window: QWidget, chance: random.Random) -> str:
    """One act; says what it was."""
    target = QApplication.focusWidget() or window
    kind = chance.random()
    if kind < 0.8:
        keys, with_, name = (
            (PLAIN, NONE, "")
            if kind < 0.55
            else (CTRL, Qt.KeyboardModifier.ControlModifier, "Ctrl+")
            if kind < 0.7
            else (ALT, Qt.KeyboardModifier.AltModifier, "Alt+")
        )
        key = chance.choice(keys)
        QTest.keyClick(target, key, with_)
        return f"{name}{key.name} in {type(target).__name__}"
    at = QPoint(chance.randrange(10, window.width() - 5), chance.randrange(50, window.height() - 10))
    under = window.childAt(at) or window
    here = under.mapFrom(window, at) if under is not window else at
    QTest.mousePress(under, LEFT, NONE, here)
    drags = chance.random() < 0.4
    if drags:
        QTest.mouseMove(under, here + QPoint(40, 25))
    QTest.mouseRelease(under, LEFT, NONE, here + QPoint(20, 10))
    return f"{'drag' if drags else 'press'} in {type(under).__name__}"


def closed() -> None:
    """Menus and dialogs that an act opened."""
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QMenu | QDialog | QMessageBox | QFileDialog) and widget.isVisible():
            widget.close()
