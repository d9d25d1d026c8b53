"""Out and in, with file dialogs: every exporter, and frames back in."""

from __future__ import annotations

import os
import weakref
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from karakuri.course import ALONE, Course, GivenUp
from karakuri.errors import Trouble
from karakuri.exchange.contract import Exporter, Media, export
from karakuri.exchange.exporters import EXPORTERS
from karakuri.exchange.frames_csv import read, take_over
from karakuri.exchange.meshes import SUFFIXES, read_mesh, told_of, with_mesh
from karakuri.files.disk import read_text
from karakuri.study.goes_along import all_go_along
from karakuri.workbench.aside import LONG_S, Answer, Aside
from karakuri.workbench.benches.picture_page import lay
from karakuri.workbench.dialogs import beside, picture_to_lay, sound_to_take, stem_of
from karakuri.workbench.wishes import DRAWER_IN, DRAWER_OUT, LAY, MESH, PASTE, SOUND, TAKE_OVER, TWIN, doing

LARGE = 4_000
"""Length of a score in s, and bytes of a table, from which the work is done beside the interface."""


class Exports:
    """What the window can do with files of other kinds. Each `…_to` or `…_from` does it without asking where, which is what tests and scripts use."""

    def __init__(self, window) -> None:
        self._window = weakref.proxy(window)
        self.aside = Aside("files")
        self.aside.went.connect(self._went)

    def close(self) -> None:
        """What is under way is given up; nothing of it is left."""
        self.aside.finish(1.0)

    def _start(self, name: str) -> str:
        return beside(self._window.desk.session, name)

    def _stem(self) -> str:
        return stem_of(self._window.desk.session)

    def carry_out(self, words: str) -> None:
        """What find-or-do, or a card, asks for by its words."""
        if words == TAKE_OVER:
            self.import_frames()
        others = {
            TWIN: self._window.making.twin,
            DRAWER_OUT: self.write_drawer,
            DRAWER_IN: self.read_drawer,
            PASTE: self._window.making.paste,
            MESH: self.take_mesh,
            SOUND: self.take_sound,
        }
        others |= {words_of: partial(self.lay_picture, view) for view, words_of in LAY.items()}
        if words in others:
            others[words]()
        for exporter in EXPORTERS:
            if words == doing(exporter):
                self.export(exporter)

    def lay_picture(self, view: str) -> None:
        """Ask for a picture, and lay it behind an elevation."""
        path = picture_to_lay(self._window.desk.session, self._window.middle)
        if path is not None:
            lay(self._window.desk, view, path)

    def take_sound(self) -> None:
        """Ask for a sound, and put it on the voice at the plumb line."""
        desk = self._window.desk
        path = sound_to_take(desk.session, self._window.middle)
        if path is not None:
            desk.voices.take(path, round(desk.transport.now, 2))

    def take_mesh(self) -> None:
        """Ask for a mesh, and give the part in hand its shape."""
        name, _ = QFileDialog.getOpenFileName(
            self._window.middle, "Take a shape from a mesh", self._start(""), f"Meshes ({' '.join('*' + s for s in SUFFIXES)});;All files (*)"
        )  # fmt: skip
        if name:
            self.take_mesh_from(Path(name))

    def take_mesh_from(self, path: Path) -> bool:
        """The part in hand gets the shape of a mesh file, read beside the interface."""
        desk, session = self._window.desk, self._window.desk.session
        if desk.subject.kind != "part":
            desk.said.emit("Take a part in hand first; nothing was changed.")
            return False
        ident = desk.subject.id
        folder = session.path.parent if session.path is not None else None
        file = os.path.relpath(path, folder) if folder is not None and folder in path.parents else str(path)

        def work(course: Course) -> Answer:
            shape, holes = read_mesh(path, course)
            return lambda: (
                desk.edit(lambda: with_mesh(desk.figure, ident, shape, file)) and desk.said.emit(told_of(shape, holes))
            )

        return self._tried(work, True, f"Reading {path.name}")

    def export(self, exporter: Exporter) -> None:
        """Ask where to, and write there."""
        if exporter.suffix:
            name, _ = QFileDialog.getSaveFileName(
                self._window.middle,
                f"Export {exporter.name}",
                self._start(f"{self._stem()}{exporter.suffix}"),
                f"*{exporter.suffix}",
            )
            where = Path(name)
        else:
            name = QFileDialog.getExistingDirectory(
                self._window.middle, f"A folder for {exporter.name}", self._start("")
            )
            where = Path(name) / f"{self._stem()}-{exporter.id}"
        if name:
            self.export_to(exporter, where)

    def export_to(self, exporter: Exporter, where: Path) -> bool:
        """What an exporter makes of the figure, with what was chosen for it."""
        desk = self._window.desk
        figure, chosen, data = desk.figure, desk.chosen(exporter), desk.session.sounds.data
        known = desk.abilities.known(figure)

        def work(course: Course) -> Answer:
            media = Media(data, lambda: all_go_along(figure, known, course))
            notes = export(exporter, figure, chosen, where, course, media)
            return self._saying(" ".join([f"Written to {where.name}.", *notes]))

        slow = exporter.id == "player" and figure.behaviour is not None  # what drives keep up with is worked out first
        return self._tried(work, slow or figure.score.length_s > LONG_S, f"Writing {where.name}")

    def import_frames(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._window.middle, "Take frames over", self._start(""), "Tables (*.csv);;All files (*)"
        )
        if name:
            self.import_frames_from(Path(name))

    def import_frames_from(self, path: Path) -> bool:
        """Moves that follow a CSV, as one edit."""
        desk = self._window.desk
        figure = desk.figure

        def work(course: Course) -> Answer:
            edit, off = take_over(figure, read(read_text(path), path.name, course), course=course)
            moves = sum(len(step.value) for step in edit.steps if step.path[-1] == "moves")
            words = (
                f"{moves} moves follow {path.name}; the largest difference is {off:.2f} of a degree, mm or per cent."
            )

            def answer() -> None:
                desk.edit(edit)
                desk.said.emit(words)

            return answer

        return self._tried(work, path.is_file() and path.stat().st_size > LARGE, f"Taking {path.name} over")

    def write_drawer(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self._window.middle, "Write my drawer", self._start("my-servos.json"), "*.json"
        )
        if name:
            self.write_drawer_to(Path(name))

    def write_drawer_to(self, path: Path) -> bool:
        """The drawer of servos into a file."""
        return self._tried(lambda course: self._wrote(path))

    def _wrote(self, path: Path) -> Answer:
        self._window.desk.drawer.write_to(path)
        return self._saying(f"{len(self._window.desk.drawer.servos())} servos are in {path.name}.")

    def read_drawer(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window.middle, "Take servos", self._start(""), "*.json")
        if name:
            self.read_drawer_from(Path(name))

    def read_drawer_from(self, path: Path) -> bool:
        """Servos of a file into the drawer."""
        desk = self._window.desk

        def work(course: Course) -> Answer:
            count = desk.drawer.take_from(path)
            return lambda: (desk.selected.emit(), desk.said.emit(f"{count} servos of {path.name} are in the drawer."))

        return self._tried(work)

    def _saying(self, words: str) -> Answer:
        return lambda: self._window.desk.said.emit(words)

    def _tried(self, work: Callable[[Course], Answer], long: bool = False, doing: str = "") -> bool:
        """Do it, beside the interface where it is long. False where it was refused, which is told."""
        desk = self._window.desk
        if long:
            if self.aside.busy:
                desk.said.emit("Something else is still under way; wait for it, or stop it.")
                return False
            self._doing, course = doing, self.aside.course()
            self._ask(f"{doing}.")
            return self.aside.do(lambda: self._careful(work, course))
        try:
            work(ALONE)()
        except Trouble as trouble:
            desk.said.emit(str(trouble))
            return False
        return True

    def _careful(self, work: Callable[[Course], Answer], course: Course) -> Answer:
        """The work, in a thread of its own; however it ends, the question whether to stop it goes."""
        try:
            answer = work(course)
        except GivenUp:
            answer = self._saying(
                f"Stopped: {self._doing[0].lower()}{self._doing[1:]} was given up; nothing was changed."
            )
        except Trouble as trouble:
            answer = self._saying(str(trouble))
        except Exception as fault:  # noqa: BLE001 - raised again where the person is told of it
            answer = _raising(fault)

        def done() -> None:
            self._window.note.settle()
            answer()

        return done

    def _went(self, what: str, share: float) -> None:
        if self.aside.busy:
            self._ask(f"{self._doing}: {what}, {100 * share:.0f} %.")

    def _ask(self, text: str) -> None:
        self._window.note.ask(text, ("Stop", self.aside.stop))


def _raising(fault: Exception) -> Answer:
    def answer() -> None:
        raise fault

    return answer
