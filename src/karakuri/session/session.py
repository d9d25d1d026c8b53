"""The open document: figure, path, history, what is saved, autosave and recovery. No Qt, no threads."""

from __future__ import annotations

import contextlib
from pathlib import Path

from karakuri.errors import EditRefused, FileTrouble
from karakuri.files.disk import SUFFIX, load, save
from karakuri.files.text import to_text
from karakuri.model.edit import Edit, apply
from karakuri.model.figure import Figure
from karakuri.model.record import Entry
from karakuri.session.history import Done, History
from karakuri.session.places import autosave_apart, autosave_beside, left_behind, remember


class Session:
    """One open figure. Edits go through `edit`; nothing else changes it."""

    def __init__(self, figure: Figure | None = None, path: Path | None = None) -> None:
        self.figure = figure or Figure()
        self.path = path
        self.history = History()
        self.saved: Figure | None = self.figure if path is not None else None
        self._autosaved: list[Path] = []
        self._kept: Figure | None = None

    @classmethod
    def open(cls, path: Path) -> Session:
        """Open a file. Raises FileTrouble; the figure that is open stays open then."""
        session = cls(load(path), path)
        remember(path)
        return session

    @classmethod
    def from_template(cls, path: Path) -> Session:
        """A figure from a shipped file, to be saved under a name of its own."""
        return cls(load(path), None)

    def edit(self, edit: Edit) -> None:
        """Carry out an edit. Raises EditRefused; the figure is then as it was."""
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

    def note(self, entry: Entry) -> None:
        """Write a line into the record. It only grows: undo changes the plan, never the record.

        Raises EditRefused when it is about a drive that is not there.
        """
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

    def save(self, path: Path | None = None) -> Path:
        """Write the file. Raises FileTrouble; nothing is lost then. Returns where it went."""
        target = path or self.path
        if target is None:
            raise FileTrouble("This figure has no file yet.", (), "Save it under a name first.")
        if not target.name.endswith(SUFFIX):
            target = target.with_name(target.name + SUFFIX)
        written = self.figure
        save(written, target)
        self.path, self.saved = target, written
        self.drop_autosave()
        remember(target)
        return target

    def autosave(self) -> Path | None:
        """Keep a copy for a crash: beside the file, else in the state folder. None where nothing needs keeping or nothing can be."""
        if not self.dirty or self._kept is self.figure:
            return None
        places = [autosave_beside(self.path)] if self.path is not None else []
        places.append(
            autosave_apart(self.path.name.removesuffix(SUFFIX) if self.path else self.figure.name.replace("/", " "))
        )
        for place in places:
            with contextlib.suppress(FileTrouble):
                save(self.figure, place)
                self._kept = self.figure
                if place not in self._autosaved:
                    self._autosaved.append(place)
                return place
        return None

    def drop_autosave(self) -> None:
        """Remove this session's autosaves: after a save, and when it is closed on purpose."""
        for place in self._autosaved:
            with contextlib.suppress(OSError):
                place.unlink()
        self._autosaved.clear()
        self._kept = None

    def forget_autosave(self) -> None:
        """Leave the autosaves where they are, to be offered again."""
        self._autosaved.clear()

    def recoverable(self) -> Path | None:
        """An autosave a crash left behind that differs from what is open; None where there is none."""
        for place in left_behind(self.path):
            if place in self._autosaved:
                continue
            with contextlib.suppress(FileTrouble):
                if to_text(load(place)) != to_text(self.figure):
                    return place
        return None

    def recover(self, place: Path) -> None:
        """Take what a crash left behind, as one undo step; it stays on the disk until the figure is saved. Raises FileTrouble."""
        figure = load(place)
        self.history.push(Done("take back what was not saved", self.figure, figure, None))
        self.figure = figure
        self._autosaved.append(place)
