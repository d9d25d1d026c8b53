"""Studies beside the window: orders go to a process of its own, numbered answers come back as signals. The latest order wins."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.loudness import Loudness
from karakuri.study.line import Line
from karakuri.study.orders import Answer, Broke, Finished, GiveUp, Message, Offer, Order, Remedied, Studied, Went

if TYPE_CHECKING:
    from karakuri.study.answers import Answers


class Worker(QObject):
    """Answers with `studied(number, Study)` and then `remedied(number, finding id, remedies)`, `further(number, Study)` where more of it was judged, `finished(number)`."""

    studied = pyqtSignal(int, object)
    further = pyqtSignal(int, object)
    remedied = pyqtSignal(int, str, object)
    finished = pyqtSignal(int)
    went = pyqtSignal(int, str, float)
    broke = pyqtSignal(int, str)

    def __init__(self, in_place: bool = False, line: Line | None = None) -> None:
        super().__init__()
        self.latest = line.order.number if line is not None and line.order is not None else -1
        self._line = line or Line()
        self._here = self._answers() if in_place else None
        self._answered = threading.Event()
        self._reader: threading.Thread | None = None

    def _answers(self) -> Answers:
        from karakuri.study.answers import Answers

        return Answers(self._tell, lambda: self.latest)

    def ask(self, number: int, figure: Figure, quick: bool, heard: tuple[Loudness, ...] | None = None) -> None:
        """Study this figure; whatever was asked before is dropped."""
        self.latest = number
        order = Order(number, figure, quick, heard)
        if self._here is not None:
            self._here.order(order)
            return
        self._answered.clear()
        self._send(order)

    def give_up(self, number: int) -> None:
        """Wait for nothing that was asked before."""
        self.latest = number
        if self._here is None:
            self._send(GiveUp(number))

    def ordered(self, figure: Figure) -> bool:
        """Whether a study of this very figure is under way already: ordered before there was a window."""
        order = self._line.order
        return order is not None and order.figure is figure

    def offer(self, number: int, finding: Finding) -> None:
        """Remedies of a finding that holds, such as a smaller class for an oversized servo, once the others are done."""
        if self._here is not None:
            self._here.offer(Offer(number, finding.id))
        else:
            self._send(Offer(number, finding.id))

    def listen(self) -> None:
        """Begin to tell of answers; those that came before have waited."""
        if self._here is None and (self._reader is None or not self._reader.is_alive()):
            self._reader = threading.Thread(target=self._read, name="answers", daemon=True)
            self._reader.start()

    def wait(self, seconds: float) -> bool:
        """Whether the newest order is answered within that time."""
        return self._answered.wait(seconds)

    def close(self) -> None:
        """End the process and wait for the thread that reads."""
        self.latest = -1
        self._line.close()
        if self._reader is not None:
            self._reader.join(10)
            self._reader = None

    def _send(self, message: Message) -> None:
        try:
            self._line.send(message)
        except OSError as trouble:
            self.broke.emit(self.latest, f"no process can be begun: {trouble.strerror}")
            return
        self.listen()

    def _read(self) -> None:
        while (answer := self._line.read()) is not None:
            self._tell(answer)

    def _tell(self, answer: Answer) -> None:
        if isinstance(answer, Went):
            self.went.emit(answer.number, answer.what, answer.share)
            return
        if isinstance(answer, Studied):
            (self.further if answer.further else self.studied).emit(answer.number, answer.study)
        elif isinstance(answer, Remedied):
            self.remedied.emit(answer.number, answer.finding, answer.remedies)
        elif isinstance(answer, Finished):
            self.finished.emit(answer.number)
        elif isinstance(answer, Broke):
            self.broke.emit(answer.number, answer.why)
        if answer.number == self.latest:
            self._answered.set()
