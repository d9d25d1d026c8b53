"""After a crash: what was not saved is offered, once, and can be declined."""

from __future__ import annotations

import weakref

from karakuri.errors import Trouble


class Recovery:
    """Offers what Karakuri kept of this very figure when it stopped before it was saved."""

    def __init__(self, window) -> None:
        self._window = weakref.proxy(window)
        self.desk = window.desk
        self.copy = None

    def offer(self) -> None:
        """Ask whether to take it back, where there is something; as one undo step."""
        self.copy = self.desk.session.recoverable()
        if self.copy is not None:
            self._window.note.ask(
                f"Karakuri stopped before “{self.copy.name}” was saved. What it held on {self.copy.when()} is kept and can be taken back; one undo puts it away again.",
                ("Take it back", self.take),
                ("Leave it", self.copy.drop),
            )

    def take(self) -> None:
        """Put it on the desk."""
        try:
            session = self.desk.session.recover(self.copy)
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))
            return
        if session is not self.desk.session:
            self.desk.replace(session)
        self.desk.turn_to("figure")
        self.desk.after_edit()
