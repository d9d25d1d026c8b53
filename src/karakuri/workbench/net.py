"""The net below the window: what no one foresaw is caught, the figure is kept aside at once, the person is told and goes on.

Qt ends the program when an exception leaves a slot and nobody has said what to do with it: this says what.
"""

from __future__ import annotations

import sys
import threading
import traceback
import weakref
from types import TracebackType
from typing import TYPE_CHECKING

from karakuri.session.places import note_fault

if TYPE_CHECKING:
    from karakuri.workbench.window import Window

MOST_TOLD = 20


class Net:
    """One per window. The same fault is told once, so that a drawing that cannot be painted does not cover the window."""

    def __init__(self, window: Window) -> None:
        self._window = weakref.ref(window)
        self._seen: set[str] = set()

    def spread(self) -> None:
        """Catch from now on, in every thread."""
        sys.excepthook = self.caught
        threading.excepthook = lambda fall: self.caught(fall.exc_type, fall.exc_value, fall.exc_traceback)

    def caught(self, kind: type[BaseException], fault: BaseException | None, trace: TracebackType | None) -> None:
        """Keep the figure, write the fault down, tell it."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, fault or kind(), trace)
            return
        text = "".join(traceback.format_exception(kind, fault, trace))
        where = traceback.extract_tb(trace)[-1:] if trace is not None else []
        key = f"{kind.__name__} {where}"
        if key in self._seen or len(self._seen) >= MOST_TOLD:
            return
        self._seen.add(key)
        sys.stderr.write(text)
        window = self._window()
        doing = window.desk.doing if window is not None else "starting"
        log = note_fault(f"while {doing}\n{text}")
        if window is None:
            return
        kept = window.desk.keeping.now()
        aside = "A copy of what you made is kept" if kept else "No copy of it could be kept on this disk: save it now"
        written = f" What happened is written in {log}." if log is not None else ""
        window.desk.said.emit(
            f"Something went wrong while {doing} ({kind.__name__}). {aside}; the figure is as it was and you can go on. "
            f"If it comes again, undo the last step.{written}"
        )
