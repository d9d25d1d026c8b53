"""The keys of the whole window, in one table."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QApplication, QLineEdit

from karakuri.workbench.routes import BENCHES


def bind(window) -> None:
    """Shortcuts that act wherever the focus is."""
    desk, making, filing = window.desk, window.making, window.filing
    table = (
        (QKeySequence.StandardKey.Undo, desk.undo),
        (
            "Ctrl+Shift+Z",
            desk.redo,
        ),  # both by name: what a desktop calls redo may be one of them, and a key bound twice does nothing
        ("Ctrl+Y", desk.redo),
        (QKeySequence.StandardKey.Save, filing.save),
        ("Ctrl+Shift+S", filing.save_as),
        (QKeySequence.StandardKey.Open, filing.open),
        (QKeySequence.StandardKey.New, filing.new),
        ("Ctrl+J", making.joint),
        ("Ins", making.part),
        ("Ctrl+D", making.twin),
        ("Ctrl+Shift+V", making.paste),
        ("Alt+W", window.to_find),
        ("Alt+F", window.fold_findings),
        ("Alt+C", window.focus_card),
        ("Ctrl++", lambda: window.grow_text(0.1)),
        ("Ctrl+=", lambda: window.grow_text(0.1)),
        ("Ctrl+-", lambda: window.grow_text(-0.1)),
        *((f"Alt+Shift+{i + 1}", lambda i=i: window.strip.focus_remedy(i)) for i in range(3)),
        *((f"Alt+{i + 1}", lambda bench=bench: window.to_bench(bench)) for i, bench in enumerate(BENCHES)),
    )
    for keys, action in table:
        shortcut = QShortcut(QKeySequence(keys), window)
        shortcut.setAutoRepeat(False)
        shortcut.activated.connect(lambda action=action: action())


def pressed(window, event) -> bool:
    """Bare keys, which act only while no text field has the focus; the bench in front comes first. True where one answered."""
    if isinstance(QApplication.focusWidget(), QLineEdit):
        return False
    bench, modifiers = window.benches[window.desk.bench], event.modifiers()
    if hasattr(bench, "key") and bench.key(event):
        return True
    held = modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    match event.key():
        case Qt.Key.Key_F if not held:
            window.strip.go(-1 if modifiers & Qt.KeyboardModifier.ShiftModifier else 1)
        case Qt.Key.Key_W if not modifiers:
            window.focus_field("Mass")
        case Qt.Key.Key_K if not modifiers:
            window.making.pose()
        case Qt.Key.Key_Delete:
            window.making.remove()
        case Qt.Key.Key_Escape:
            window.note.hide()
            window.desk.set_preview(None)
        case _:
            return False
    return True
