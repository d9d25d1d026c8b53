"""The open document: figure, path, history, what is saved, autosave and recovery. No Qt, no threads."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from pathlib import Path

from karakuri.errors import EditRefused, FileChanged, FileTrouble
from karakuri.files.disk import SUFFIX, load, save, stamp
from karakuri.files.text import to_text
from karakuri.model.edit import Edit, apply, made
from karakuri.model.figure import Figure
from karakuri.model.record import Entry
from karakuri.session import copies
from karakuri.session.history import Done, History
from karakuri.session.places import remember
from karakuri.session.sounds import Sounds


class Session:
    """One open figure. Edits go through `edit`; nothing else changes it."""

    def __init__(self, figure: Figure | None = None, path: Path | None = None) -> None:
        self.figure = figure or Figure()
        self.path = path
        self.history = History()
        self.saved: Figure | None = self.figure if path is not None else None
        self.stamp = stamp(path) if path is not None else None
        self._ident = copies.new_ident()
        self._copy: Path | None = None
        self._kept: Figure | None = None
        self._taken: copies.Copy | None = None
        self._saving = threading.Lock()
        self.sounds = Sounds(*((path.parent,) if path is not None else ()))
        self.left_behind: list[str] = []

    @classmethod
    def open(cls, path: Path) -> Session:
        """Open a file. Raises FileTrouble; the figure that is open stays open then."""
        return cls(load(path), path)

    @classmethod
    def from_template(cls, path: Path) -> Session:
        """A figure from a shipped file, to be saved under a name of its own."""
        session = cls(load(path), None)
        session.sounds.folders = (path.parent,)
        return session

    def shown(self) -> None:
        """The figure is on the screen: from now on it is the one opened last."""
        if self.path is not None:
            remember(self.path)

    def edit(self, edit: Edit | Callable[[], Edit]) -> None:
        """Carry out an edit, or what a maker of edits makes now. Raises EditRefused; the figure is then as it was."""
        edit = edit if isinstance(edit, Edit) else made(edit)
        after = apply(self.figure, edit)
        self.history.push(Done(edit.name, self.figure, after, edit.merge_key))
        self.figure = after

    def undo(self) -> bool:
        """Take back the last step; False when there is none."""
        before = self.history.undo()
        if before is not None:
            self.figure = self._recorded(before)
        return before is not None

    def redo(self) -> bool:
        """Do again what was undone; False when there is nothing."""
        after = self.history.redo()
        if after is not None:
            self.figure = self._recorded(after)
        return after is not None

    def note(self, make: Callable[[], Entry]) -> None:
        """Write a line into the record. It only grows: undo changes the plan, never the record.

        Raises EditRefused when the entry cannot be made, or is about a drive that is not there.
        """
        entry = made(make)
        if entry.drive is not None and all(drive.id != entry.drive for drive in self.figure.drives):
            raise EditRefused(f"The record was not changed: there is no drive '{entry.drive}' to write about.")
        self.figure = Figure(**(dict(self.figure) | {"record": (*self.figure.record, entry)}))

    def _recorded(self, figure: Figure) -> Figure:
        """A figure from the history with the record as it is now."""
        if figure.record == self.figure.record:
            return figure
        return Figure(**(dict(figure) | {"record": self.figure.record}))

    @property
    def dirty(self) -> bool:
        """True while the file does not hold this figure."""
        return self.figure is not self.saved and self.figure != self.saved

    @property
    def changed_on_disk(self) -> bool:
        """True where the file is not the one this session read or wrote."""
        now = stamp(self.path) if self.path is not None else None
        return now is not None and self.stamp is not None and now != self.stamp

    def save(self, path: Path | None = None, over: bool = False) -> Path:
        """Write the file; saves follow one another. Raises FileTrouble, or FileChanged where another program has written it since and
        `over` is false; nothing is lost then. Returns where it went."""
        with self._saving:
            target = path or self.path
            if target is None:
                raise FileTrouble("This figure has no file yet.", (), "Save it under a name first.")
            if not target.name.endswith(SUFFIX):
                target = target.with_name(target.name + SUFFIX)
            if target == self.path and self.changed_on_disk and not over:
                raise FileChanged(
                    f"{target.name} was changed by another program since it was opened here; it was not written.", (),
                    "Keep both, take theirs, or write yours over it.",
                )  # fmt: skip
            written = self.figure
            save(written, target)
            self.left_behind = self.sounds.put_beside(written, target.parent)
            self.path, self.saved, self.stamp = target, written, stamp(target)
            self.drop_copy()
        remember(target)
        return target

    def take_theirs(self) -> None:
        """What another program wrote, as one undo step. Raises FileTrouble."""
        if self.path is None:
            return
        theirs, now = load(self.path), stamp(self.path)
        self.history.push(Done("take what another program wrote", self.figure, theirs, None))
        self.figure, self.saved, self.stamp = theirs, theirs, now

    @property
    def kept(self) -> bool:
        """True where a copy for a crash holds this very figure."""
        return self._kept is self.figure

    @property
    def kept_at(self) -> Path | None:
        """Where the last copy for a crash is, or None."""
        return self._copy

    @property
    def worth_keeping(self) -> bool:
        """True while there is something a crash would lose: a template nobody has touched is none."""
        return self.dirty and not self.kept and (self.path is not None or self.history.undo_name is not None)

    def keep_copy(self) -> bool:
        """Keep a copy for a crash where there is something to lose. False where nothing can be kept."""
        if not self.worth_keeping:
            return True
        figure = self.figure
        mode = None
        with contextlib.suppress(OSError):
            mode = self.path.stat().st_mode & 0o777 if self.path is not None else None
        place = copies.keep(self._ident, figure, self.path, mode)
        if place is None:
            return False
        if self._copy is not None and self._copy != place:
            with contextlib.suppress(OSError):
                self._copy.unlink()
        self._copy, self._kept = place, figure
        return True

    def drop_copy(self) -> None:
        """Remove this session's copy, and the one that was taken back: after a save, and when it is closed on purpose."""
        if self._copy is not None:
            with contextlib.suppress(OSError):
                self._copy.unlink()
        if self._taken is not None:
            self._taken.drop()
        self._copy = self._kept = self._taken = None

    def keep_aside(self) -> bool:
        """Leave the figure without saving it: its copy stays, to be offered when it is opened again. False where none can be kept."""
        well = self.keep_copy()
        if well:
            copies.closed(self._ident)
            self._copy = self._taken = None
        return well

    def close(self) -> None:
        """The session is over on purpose: nothing of it is offered again."""
        self.drop_copy()
        copies.closed(self._ident)

    def recoverable(self) -> copies.Copy | None:
        """A copy a crash left behind of this very figure, which differs from what is open; None where there is none."""
        for copy in copies.left_behind(self.path):
            with contextlib.suppress(FileTrouble):
                if to_text(copy.figure()) != to_text(self.figure):
                    return copy
            copy.drop()
        return None

    def recover(self, copy: copies.Copy) -> Session:
        """What a crash left behind: as one undo step where it is of this file, else as a figure of its own. Raises FileTrouble.

        It stays on the disk until the figure is saved.
        """
        figure = copy.figure()
        session = self if copy.of else Session(figure)
        session.history.push(Done("take back what was not saved", self.figure if copy.of else Figure(), figure, None))
        session.figure, session._taken = figure, copy
        session.sounds.folders = self.sounds.folders if copy.of else ()
        return session
