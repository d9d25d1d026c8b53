"""Work beside the interface, one thing after another; its answer comes back in the interface's thread."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.course import Course

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

Answer = Callable[[], object]
EACH_S, LONG_S = 0.3, 120.0
"""So often it is told how far work is; a score so long takes long enough to be told of."""


class Aside(QObject):
    """`then(work)` runs work() after all that was asked for before and then, in the interface's thread, what it returned; a fault is raised
    there too. `in_place` does it at once in the caller's thread, for tests."""

    went = pyqtSignal(str, float)
    _came = pyqtSignal(object)

    def __init__(self, name: str, in_place: bool = False) -> None:
        super().__init__()
        self._name, self._in_place = name, in_place
        self._pool: ThreadPoolExecutor | None = None
        self._under_way: set[Future[Answer]] = set()
        self._came.connect(self._answer)
        self._stopped = False

    @property
    def busy(self) -> bool:
        """True until the answers of all that was asked for were dealt with."""
        return bool(self._under_way)

    def course(self) -> Course:
        """For work that takes long: `went` is emitted now and then, and `stop` ends it."""
        last = time.monotonic()

        def went(what: str, share: float) -> None:
            nonlocal last
            if time.monotonic() - last > EACH_S:
                last = time.monotonic()
                self.went.emit(what, share)

        self._stopped = False
        return Course(lambda: self._stopped, went)

    def stop(self) -> None:
        """End the work under way that follows a course."""
        self._stopped = True

    def do(self, work: Callable[[], Answer]) -> bool:
        """Begin; False where something is still under way."""
        if self.busy:
            return False
        self.then(work)
        return True

    def then(self, work: Callable[[], Answer]) -> None:
        """Begin once all before it is done."""
        if self._in_place:
            work()()
            return
        if self._pool is None:
            from concurrent.futures import ThreadPoolExecutor  # not before somebody asks: the first screen does not

            self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix=self._name)
        future = self._pool.submit(work)
        self._under_way.add(future)
        future.add_done_callback(self._came.emit)

    def finish(self, seconds: float) -> None:
        """Wait so long for what is under way; nothing more begins, and no answer is dealt with."""
        self._stopped = True
        if self._pool is not None:
            from concurrent.futures import wait

            wait(self._under_way, seconds)
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _answer(self, future: Future[Answer]) -> None:
        self._under_way.discard(future)
        if not future.cancelled():
            future.result()()
