"""The plumb line: where in the score the figure stands, and running from there. View state; neither saved nor undone."""

from __future__ import annotations

import weakref

from PyQt6.QtCore import QElapsedTimer, QObject, Qt, QTimer, pyqtSignal

FRAME_MS = 16
PACES = (1.0, 0.5, 0.25, 0.1)


class Transport(QObject):
    """Time runs on a monotonic clock; the drawings follow as fast as they can. `moved` whenever the time changed, `ran` at start and stop."""

    moved = pyqtSignal()
    ran = pyqtSignal()

    def __init__(self, desk) -> None:
        super().__init__(desk)
        self._desk = weakref.proxy(desk)
        self.now = 0.0
        self.pace = 1.0
        self.section: str = ""
        self.passes = 0
        self._from, self._clock = 0.0, QElapsedTimer()
        self._timer = QTimer(self, interval=FRAME_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    def span(self) -> tuple[float, float]:
        """What is run: the chosen section, else the whole score, s."""
        score = self._desk.figure.score
        for section in score.sections:
            if section.id == self.section:
                return section.from_s, min(section.to_s, score.length_s)
        return 0.0, score.length_s

    def go(self, at: float) -> None:
        """Hang the plumb line at a time, s; the figure takes the pose it has there."""
        self.now = min(max(0.0, at), self._desk.figure.score.length_s)
        self._from = self.now
        self._clock.restart()
        self._show()

    def align(self, at: float) -> None:
        """Set the running time to what a board says, without a stop."""
        self._from = self.now = at
        self._clock.restart()

    def run(self) -> None:
        """Run from the plumb line; from the beginning where it hangs at the end."""
        begin, end = self.span()
        if not begin <= self.now < end - 1e-3:
            self.now = begin
        self._from, self.passes = self.now, 0
        self._clock.start()
        self._timer.start()
        self.ran.emit()

    def stop(self) -> None:
        """Stop where it is."""
        if self.running:
            self._timer.stop()
            self.ran.emit()

    def toggle(self) -> None:
        (self.stop if self.running else self.run)()

    def set_pace(self, pace: float) -> None:
        """Slower, or as fast as it was written."""
        self._from, self.pace = self.now, pace
        self._clock.restart()
        self.ran.emit()

    def _tick(self) -> None:
        begin, end = self.span()
        at = self._from + self._clock.elapsed() / 1e3 * self.pace
        if at >= end:
            if not self._desk.figure.score.loops:
                self.now = end
                self._show()
                self.stop()
                return
            length = max(end - begin, 1e-3)
            self.passes += 1
            self._from, at = begin, begin + (at - begin) % length
            self._from = at
            self._clock.restart()
        self.now = at
        self._show()

    def _show(self) -> None:
        self._desk.pose_at(self.now)
        self.moved.emit()
