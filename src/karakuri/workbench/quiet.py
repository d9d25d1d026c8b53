"""Looking for what was let go of: always in the interface's thread, and thoroughly when nobody waits."""

from __future__ import annotations

from threading import Thread

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from karakuri import heap, units
from karakuri.workbench.desk import Desk

SHOWN_MS = 300
"""So long after it is there the window reads what it will need later, beside all else."""


class Quiet(QObject):
    """Tidies up once for a while nothing changed, was judged or was taken in hand, no button is held down and nothing moves; what is due before
    that, it searches now and then."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        heap.by_hand()
        self._due = QTimer(self, interval=int(heap.LOOK_S * 1e3))
        self._due.timeout.connect(heap.if_due)
        self._due.start()
        self._idle = QTimer(self, singleShot=True, interval=int(heap.IDLE_S * 1e3))
        self._idle.timeout.connect(self._tidy)
        self._learns = Thread(target=units.learn, daemon=True)  # takes 0.4 s, else at the first unit that is typed
        QTimer.singleShot(SHOWN_MS, self._learns.start)
        for signal in (desk.changed, desk.selected, desk.studied, desk.remedied):
            signal.connect(self._idle.start)

    def _tidy(self) -> None:
        desk = self._desk
        if desk.busy or desk.transport.running or QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._idle.start()
        else:
            heap.tidy()
