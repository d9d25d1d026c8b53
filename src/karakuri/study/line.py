"""The line to the process that studies: orders go down it, answers come up. One that breaks is laid again, with the newest order."""

from __future__ import annotations

import contextlib
import threading
from typing import Any

from karakuri.study.courier import ANEW, WINDOW, Courier
from karakuri.study.launch import StudyProcess, launch
from karakuri.study.orders import Answer, Broke, Message, Order

ENDED = "the process that studies ended twice on this figure, perhaps for want of memory"


class Line:
    """For one who orders, from any thread, and one who reads, in a thread of its own."""

    def __init__(self, process: StudyProcess | None = None) -> None:
        self._process = process
        self._courier = Courier(WINDOW)
        self._lock = threading.Lock()
        self._generation = 0
        self._again_for = -1
        self._closed = False
        self.order: Order | None = None

    def send(self, message: Message) -> None:
        """Send an order, an offer, or that nothing is waited for. Raises OSError where no process can be begun."""
        with self._lock:
            if isinstance(message, Order):
                self.order = message
            if self._closed:
                return
            if self._process is None:
                self._process = launch()
            with contextlib.suppress(OSError):  # one that has ended is begun again by whoever reads
                if self._courier.full:
                    self._courier.clear()
                    self._generation += 1
                    self._process.wire.send_bytes(ANEW)
                self._process.wire.send_bytes(self._courier.pack(message))

    def read(self) -> Answer | None:
        """The next answer, when it comes; None once the line is closed. An answer that cannot be read, or that never comes, is Broke."""
        while True:
            with self._lock:
                process = self._process
            if process is None or self._closed:
                return None
            try:
                data = process.wire.recv_bytes()
            except (EOFError, OSError):
                broke = self._again(process)
                if broke is not None:
                    return broke
                continue
            with self._lock:
                if int.from_bytes(data[:4], "little") != self._generation:
                    continue  # of before both sides began anew: an answer to an order that is not the newest
                try:
                    answer: Any = self._courier.unpack(data[4:])
                except Exception as trouble:  # noqa: BLE001 - told like any other fault of a study
                    answer = Broke(self.order.number if self.order else -1, f"{type(trouble).__name__}: {trouble}")
            return answer  # type: ignore[no-any-return]

    def close(self) -> None:
        """End the process; whoever reads is woken."""
        with self._lock:
            self._closed = True
            process, self._process = self._process, None
        if process is not None:
            process.end()

    def _again(self, process: StudyProcess) -> Broke | None:
        """The process is gone though nobody closed the line: another gets the newest order, once; then it is told."""
        process.end()
        with self._lock:
            if self._closed or self._process is not process:
                return None
            self._process, self._courier, self._generation = None, Courier(WINDOW), 0
            order = self.order
        again = order if order is not None and order.number != self._again_for else None
        self._again_for = order.number if order is not None else -1
        try:
            with self._lock:
                if not self._closed and self._process is None:  # who sends meanwhile has begun it
                    self._process = launch()
            if again is not None:
                self.send(again)
        except OSError as trouble:
            return Broke(self._again_for, f"no process can be begun: {trouble.strerror}")
        return Broke(self._again_for, ENDED) if again is None else None
