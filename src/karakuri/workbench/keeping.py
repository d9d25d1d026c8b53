"""Saving, and copies for a crash: off the interface, one after the other, never more than a few seconds behind the hand."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer

from karakuri.errors import FileChanged, Trouble
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

AUTOSAVE_MS, PATIENCE_S = 4000, 10.0


class Keeping(QObject):
    """What becomes of the figure on the disk; the desk's signals tell how it went."""

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__(desk)
        self.desk, self._well = desk, True
        self._aside = Aside("save", in_place)
        self._timer = QTimer(self, singleShot=True, interval=AUTOSAVE_MS)
        self._timer.timeout.connect(lambda: self._aside.then(self._keep))

    def save(self, path: Path | None = None, over: bool = False) -> None:
        """Write the file; `saved` tells how it went, `overwritten` that another program has written it since."""
        desk, session = self.desk, self.desk.session

        def work() -> Answer:
            try:
                where = session.save(path, over)
                left = session.left_behind
                return lambda: self._saved(str(where), left)
            except FileChanged as trouble:
                said = str(trouble)
                return lambda: desk.overwritten.emit(said)
            except Trouble as trouble:
                said = str(trouble)
                return lambda: desk.saved.emit(False, said)

        self._aside.then(work)

    def _saved(self, where: str, left: list[str]) -> None:
        self.desk.saved.emit(True, where)
        if left:
            names = ", ".join(left)
            self.desk.said.emit(
                f"The figure is saved. Not beside it: {names}, which cannot be found, or another file stands in its place; nothing was written over."
            )

    def soon(self) -> None:
        """Something changed: never longer than this unkept, whatever the rhythm of edits."""
        if not self._timer.isActive():
            self._timer.start()

    def now(self) -> bool:
        """Keep a copy at once, whatever else goes on; False where nothing could be kept."""
        try:
            return self.desk.session.keep_copy()
        except Exception:  # noqa: BLE001 - the net itself calls this: nothing may leave it
            return False

    def _keep(self) -> Answer:
        well = self.desk.session.keep_copy()
        return lambda: self._kept(well)

    def _kept(self, well: bool) -> None:
        """Told once each time it begins to fail; tried again in a while."""
        if not well and self._well:
            self.desk.said.emit("No copy for a crash can be kept on this disk now: save often, or free some room.")
        self._well = well
        if not well:
            self.soon()

    def close(self) -> None:
        """End the timer; what is being saved is saved."""
        self._timer.stop()
        self._aside.finish(PATIENCE_S)
