"""Long work beside the interface: in a thread of its own, its answer back in the interface's. One at a time."""

from __future__ import annotations

import threading
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

Answer = Callable[[], None]


class Aside(QObject):
    """`do(work)` runs work() in a thread and then, in the interface's thread, what it returned; a fault is raised there too."""

    _came = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._thread: threading.Thread | None = None
        self._came.connect(self._answer)

    @property
    def busy(self) -> bool:
        """True until the answer of the last work was dealt with."""
        return self._thread is not None

    def do(self, work: Callable[[], Answer]) -> bool:
        """Begin; False where something is still under way."""
        if self.busy:
            return False
        self._thread = threading.Thread(target=self._run, args=(work,), name="aside", daemon=True)
        self._thread.start()
        return True

    def _run(self, work: Callable[[], Answer]) -> None:
        try:
            self._came.emit(work())
        except Exception as trouble:  # noqa: BLE001 - raised again where the person is told of it
            self._came.emit(trouble)

    def _answer(self, came: object) -> None:
        self._thread = None
        if isinstance(came, Exception):
            raise came
        if callable(came):
            came()
