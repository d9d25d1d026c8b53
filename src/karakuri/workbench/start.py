"""Starts the window on what was opened."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QColor, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QToolTip

from karakuri.session.session import Session
from karakuri.study.line import Line
from karakuri.workbench.net import Net
from karakuri.workbench.quiet import Quiet
from karakuri.workbench.theme import DAY, FAMILY
from karakuri.workbench.window import Window


def application(arguments: list[str]) -> QApplication:
    """The application with its fonts and one look for menus."""
    app = cast(QApplication | None, QApplication.instance())
    if app is None:  # the style as an argument: by a call it comes back as an object, with all enumerations of styles
        app = QApplication(["karakuri", "-style", "fusion", *arguments])
    app.setApplicationName("Karakuri")
    app.setDesktopFileName("karakuri")
    load_fonts()
    app.setPalette(palette())
    QToolTip.setPalette(palette())
    font = app.font()
    font.setFamily(FAMILY)
    font.setPixelSize(13)
    app.setFont(font)
    return app


def palette() -> QPalette:
    """Our colours for what Qt draws: menus, tips, dialogs for files."""
    role, made = QPalette.ColorRole, QPalette()
    for colour, roles in {
        "paper": (role.Window, role.AlternateBase),
        "card": (role.Base, role.ToolTipBase, role.HighlightedText, role.BrightText),
        "desk": (role.Button, role.Midlight, role.Light),
        "rule": (role.Mid, role.Dark),
        "ink": (role.WindowText, role.Text, role.ButtonText, role.ToolTipText),
        "ink3": (role.PlaceholderText,),
        "indigo": (role.Highlight, role.Link, role.Accent),
    }.items():
        for each in roles:
            made.setColor(each, QColor(DAY[colour]))
    for each in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, each, QColor(DAY["ink3"]))
    return made


def load_fonts() -> None:
    """Source Sans 3, shipped with the application (OFL)."""
    folder = Path(__file__).parent / "fonts"
    for path in sorted(folder.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def start(arguments: list[str], session: Session | None, trouble: str, line: Line | None) -> int:
    """Open the window on a session, or on none and why, and run until it is closed. `--quit-when-judged` is for measuring the start."""
    sys.setswitchinterval(0.002)
    app = application(arguments)
    window = Window(session, line=line)
    Net(window).spread()
    if "--quit-when-judged" in arguments:
        window.desk.studied.connect(lambda: QTimer.singleShot(0, lambda: _leave_once_seen(window)))
    window.desk.first_answer()
    window.show()
    Quiet(window.desk)
    QTimer.singleShot(
        0, lambda: window.desk.session.shown()
    )  # once it has been painted: a figure that ends the window is not opened again
    if trouble:
        window.desk.said.emit(trouble)
    elif "--demo" not in arguments:
        window.recovery.offer()
    return int(app.exec())


def _leave_once_seen(window: Window) -> None:
    """End once the window is on the screen with all that was to be painted anew."""
    handle = window.windowHandle()
    if handle is None or not handle.isExposed():
        QTimer.singleShot(0, lambda: _leave_once_seen(window))
        return
    QApplication.sendPostedEvents()
    os._exit(0)
