"""Studies in a thread of their own: frozen request, pure function, numbered answer. The latest request wins."""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import Study, study


@dataclass(frozen=True)
class Request:
    """A figure to study; `quick` while a hand is still dragging: no settling, no remedies."""

    number: int
    figure: Figure
    quick: bool


def wanted(findings: tuple[Finding, ...]) -> list[Finding]:
    """Findings whose remedies are computed at once, in the order of the strip; others when their card asks for them."""
    return [f for f in findings if f.verdict != "holds"]


class Worker(QObject):
    """Answers with `studied(number, Study)` and then `remedied(number, finding id, remedies)`, `finished(number)`."""

    studied = pyqtSignal(int, object)
    remedied = pyqtSignal(int, str, object)
    finished = pyqtSignal(int)
    broke = pyqtSignal(int, str)

    def __init__(self, in_place: bool = False) -> None:
        super().__init__()
        self._reuse = Reuse()
        self._in_place = in_place
        self._next: Request | None = None
        self._latest = 0
        self._closing = False
        self._wake = threading.Condition()
        self._thread: threading.Thread | None = None
        self._answered = threading.Event()
        self._last: Study | None = None
        self._asked: list[tuple[int, Finding]] = []
        self.took = 0.0

    def ask(self, request: Request) -> None:
        """Study this figure; whatever was asked before is dropped."""
        self._latest = request.number
        if self._in_place:
            self._answer(request)
            return
        with self._wake:
            self._next = request
            self._answered.clear()
            self._wake.notify()
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="study", daemon=True)
            self._thread.start()

    def offer(self, number: int, finding: Finding) -> None:
        """Remedies of a finding that holds, such as a smaller class for an oversized servo, once the others are done."""
        if self._in_place:
            self._offer_one(number, finding)
            return
        with self._wake:
            self._asked.append((number, finding))
            self._wake.notify()

    def wait(self, seconds: float) -> bool:
        """Let the thread have the processor for a moment; True when it has answered. Painting beside it would slow both."""
        return self._thread is not None and self._answered.wait(seconds)

    def close(self) -> None:
        """End the thread and wait for it."""
        with self._wake:
            self._closing = True
            self._latest = -1
            self._wake.notify()
        if self._thread is not None:
            self._thread.join(10)
            self._thread = None

    def _run(self) -> None:
        while True:
            with self._wake:
                while self._next is None and not self._asked and not self._closing:
                    self._wake.wait()
                if self._closing:
                    return
                request, self._next = self._next, None
                asked = self._asked.pop(0) if request is None and self._asked else None
            if request is not None:
                self._answer(request)
            if asked is not None:
                self._offer_one(*asked)

    def _stale(self, request: Request) -> bool:
        return request.number != self._latest

    def _answer(self, request: Request) -> None:
        begin = time.perf_counter()
        try:
            done = study(request.figure, self._reuse, request.quick, stop=lambda: self._stale(request), base=self._last)
        except Exception as trouble:  # noqa: BLE001 - whatever goes wrong in a study must reach the person, not end the thread
            self.broke.emit(request.number, f"{type(trouble).__name__}: {trouble}")
            return
        if request.quick:
            self.took = time.perf_counter() - begin
        if self._stale(request):
            return
        self._last = done
        self.studied.emit(request.number, done)
        self._answered.set()
        if request.quick:
            return
        self._offer(request, done)
        if not self._stale(request):
            self.finished.emit(request.number)

    def _offer_one(self, number: int, finding: Finding) -> None:
        if number == self._latest and self._last is not None:
            offered = remedies(self._last, finding, self._reuse, lambda: number != self._latest)
            self.remedied.emit(number, finding.id, offered)

    def _offer(self, request: Request, done: Study) -> None:
        for finding in wanted(done.findings):
            if self._stale(request):
                return
            offered = remedies(done, finding, self._reuse, lambda: self._stale(request))
            if not self._stale(request):
                self.remedied.emit(request.number, finding.id, offered)
