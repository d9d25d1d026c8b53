"""What can wait until nobody does: searching for what was let go of."""

from __future__ import annotations

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from karakuri import heap
from karakuri.workbench.desk import Desk


class Quiet(QObject):
    """Tidies up once for a while nothing changed, was judged or was taken in hand, no button is held down and nothing moves."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        self._timer = QTimer(self, singleShot=True, interval=int(heap.IDLE_S * 1e3))
        self._timer.timeout.connect(self._idle)
        for signal in (desk.changed, desk.selected, desk.studied, desk.remedied):
            signal.connect(self._timer.start)

    def _idle(self) -> None:
        desk = self._desk
        if desk.busy or desk.transport.running or QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._timer.start()
        else:
            heap.tidy()
