"""Figures from and to files, leaving one for another, and what becomes of a file that another program has written."""

from __future__ import annotations

import weakref
from pathlib import Path

from PyQt6.QtWidgets import QApplication, QLineEdit

from karakuri.demo import demo_path
from karakuri.errors import Trouble
from karakuri.files.disk import SUFFIX
from karakuri.session.session import Session
from karakuri.workbench.desk import NEW
from karakuri.workbench.dialogs import ask, figure_to_open, figure_to_save


class Filing:
    """`leave_by` and `settle_change` carry out what was answered, which is what tests and scripts use."""

    def __init__(self, window) -> None:
        self._window = weakref.proxy(window)
        self.desk = window.desk
        self._told_of: object = None
        self.desk.overwritten.connect(self._overwritten)
        self.desk.saved.connect(self._saved)

    def new(self) -> None:
        self.desk.turn_to(NEW)
        self._window.focus_field("Name")

    def open(self) -> None:
        path = figure_to_open(self.desk.session, self._window.middle)
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> None:
        try:
            session = Session.open(path)
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))
            return
        self.replace(session)

    def open_demo(self, name: str) -> bool:
        """A demo, by the name it has on the command line."""
        return self.replace(Session.from_template(demo_path(name)))

    def replace(self, session: Session) -> bool:
        """Put another figure on the desk, once nothing of this one can be lost."""
        if not self.may_leave():
            return False
        self.desk.replace(session)
        session.shown()
        self.desk.turn_to("figure")
        if session.path is not None:
            self._window.recovery.offer()
        return True

    def save(self) -> None:
        self.leave_field()
        if self.desk.session.path is None:
            self.save_as()
        else:
            self.desk.keeping.save()

    def save_as(self) -> None:
        self.leave_field()
        path = figure_to_save(self.desk.session, self._window.middle)
        if path is not None:
            self.desk.keeping.save(path)

    def _saved(self, well: bool, text: str) -> None:
        self._window.top.note = ""
        self._window.top.refresh()
        if not well:
            self.desk.said.emit(text)

    def leave_field(self) -> None:
        """What is being typed counts before it is saved."""
        focus = QApplication.focusWidget()
        if isinstance(focus, QLineEdit) and focus.isModified():
            focus.editingFinished.emit()

    def may_leave(self) -> bool:
        """True when nothing the builder made can be lost by leaving this figure."""
        session = self.desk.session
        if not self.desk.take_written():
            self.desk.said.emit("The take is being written down: leave once that is done.")
            return False
        if not session.dirty or (session.path is None and session.history.undo_name is None):
            return True
        text = f"{session.figure.name} has changes that are not saved."
        more = "A copy of it is offered again the next time Karakuri starts."
        answers = {"save": "Save", "aside": "Keep a copy, unsaved", "stay": "Stay"}
        return self.leave_by(ask(self.desk, self._window.middle, text, more, answers))

    def leave_by(self, way: str) -> bool:
        """Carry out the choice of may_leave."""
        session = self.desk.session
        if way == "stay":
            return False
        if way == "aside":
            if not session.keep_aside():
                self.desk.said.emit("It cannot be kept on this disk: save it, or stay.")
                return False
            return True
        path = session.path or figure_to_save(session, self._window.middle)
        if path is None:
            return False
        try:
            session.save(path)
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))
            return False
        return True

    def _overwritten(self, text: str) -> None:
        """The file was changed by another program: both, theirs, or mine."""
        answers = {"both": "Keep both", "theirs": "Take theirs", "mine": "Write mine over it", "stay": "Stay"}
        self.settle_change(ask(self.desk, self._window.middle, text, "", answers))

    def settle_change(self, way: str) -> None:
        """Carry out the choice of what becomes of a file changed by another program."""
        session = self.desk.session
        if way == "mine":
            self.desk.keeping.save(over=True)
        elif way == "theirs":
            try:
                session.take_theirs()
            except Trouble as trouble:
                self.desk.said.emit(str(trouble))
                return
            self.desk.after_edit()
        elif way == "both" and session.path is not None:
            stem = session.path.name.removesuffix(SUFFIX)
            free = (session.path.with_name(f"{stem} (mine{'' if n == 1 else f' {n}'}){SUFFIX}") for n in range(1, 1000))
            self.desk.keeping.save(next(path for path in free if not path.exists()))

    def look_at_disk(self) -> None:
        """Back from another window: the file may have been changed there; told once for each change."""
        session = self.desk.session
        if session.changed_on_disk and session.stamp != self._told_of:
            self._told_of = session.stamp
            self.desk.said.emit(f"{session.path.name} was changed by another program. Saving asks what becomes of it.")
