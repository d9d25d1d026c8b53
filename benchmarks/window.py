"""The demo in a real window with its worker, for the measurements that drag."""

from __future__ import annotations

import sys


def open_demo(bench: str, demo: str = "owl"):
    """(window, until): a demo on a bench, judged and settled; `until(done)` waits in a real event loop: nothing spins beside the worker."""
    from PyQt6.QtCore import QEventLoop, QTimer

    from karakuri.demo import demo_path
    from karakuri.session.session import Session
    from karakuri.workbench.quiet import Quiet
    from karakuri.workbench.start import application
    from karakuri.workbench.window import Window

    app = application([])
    sys.setswitchinterval(0.002)
    window = Window(Session.from_template(demo_path(demo)))
    window.show()
    Quiet(window.desk)
    window.desk.turn_to(bench)
    app.processEvents()
    desk = window.desk

    def until(done) -> None:
        loop, give_up = QEventLoop(), QTimer(singleShot=True, interval=20000)
        look = lambda: loop.quit() if done() else None  # noqa: E731
        for signal in (desk.studied, desk.remedied):
            signal.connect(look)
        give_up.timeout.connect(loop.quit)
        give_up.start()
        if not done():
            loop.exec()
        for signal in (desk.studied, desk.remedied):
            signal.disconnect(look)

    window.kept_application = app  # else it is gone with this function
    until(lambda: desk.study is not None and desk.study.settled and not desk.busy)
    return window, until
