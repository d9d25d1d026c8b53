"""Starts the window on a figure: the one named, the demo, or the last one."""

from __future__ import annotations

import os
import sys
from importlib.resources import files
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QColor, QFontDatabase
from PyQt6.QtWidgets import QApplication, QToolTip

from karakuri.demo import owl_path
from karakuri.errors import Trouble
from karakuri.session.places import last_figures
from karakuri.session.session import Session
from karakuri.workbench.net import Net
from karakuri.workbench.theme import DAY, FAMILY
from karakuri.workbench.window import Window


def application(arguments: list[str]) -> QApplication:
    """The application with its fonts and one look for menus."""
    app = cast(QApplication, QApplication.instance() or QApplication(["karakuri", *arguments]))
    app.setApplicationName("Karakuri")
    app.setDesktopFileName("karakuri")
    app.setStyle("Fusion")
    load_fonts()
    palette = QToolTip.palette()
    palette.setColor(palette.ColorRole.ToolTipBase, QColor(DAY["card"]))
    palette.setColor(palette.ColorRole.ToolTipText, QColor(DAY["ink"]))
    QToolTip.setPalette(palette)
    font = app.font()
    font.setFamily(FAMILY)
    font.setPixelSize(13)
    app.setFont(font)
    return app


def load_fonts() -> None:
    """Source Sans 3, shipped with the application (OFL)."""
    folder = Path(str(files("karakuri.workbench") / "fonts"))
    for path in sorted(folder.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def start(arguments: list[str]) -> int:
    """Open the window and run until it is closed. `--demo` opens the owl; `--quit-when-judged` is for measuring the start."""
    sys.setswitchinterval(0.002)
    app = application(arguments)
    names = [a for a in arguments if not a.startswith("--")]
    trouble = ""
    session = None
    try:
        if "--demo" in arguments:
            session = Session.from_template(owl_path())
        elif names:
            session = Session.open(Path(names[0]))
        elif last_figures():
            session = Session.open(last_figures()[0])
    except Trouble as told:
        trouble = str(told)
    window = Window(session)
    Net(window).spread()
    if "--quit-when-judged" in arguments:
        window.desk.studied.connect(lambda: QTimer.singleShot(0, lambda: (window.middle.repaint(), os._exit(0))))
    window.desk.first_answer()
    window.show()
    QTimer.singleShot(
        0, lambda: window.desk.session.shown()
    )  # once it has been painted: a figure that ends the window is not opened again
    if trouble:
        window.desk.said.emit(trouble)
    elif "--demo" not in arguments:
        window.offer_recovery()
    return int(app.exec())
