"""Out and in, with file dialogs: frames as CSV both ways, the player as a folder."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from karakuri.errors import Trouble
from karakuri.exchange.frames_csv import read, take_over, write
from karakuri.exchange.outputs import score_frames
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.size import controllers
from karakuri.files.disk import read_text, write_files, write_text
from karakuri.workbench.aside import Answer, Aside

LONG_S, LARGE = 120.0, 200_000
"""Length of a score in s, and bytes of a table, from which the work is done beside the interface."""


class Exports:
    """Deeds of the window. Each `…_to` or `…_from` does it without asking where, which is what tests and scripts use."""

    def __init__(self, window) -> None:
        self._window = weakref.proxy(window)
        self.aside = Aside()

    def _start(self, name: str) -> str:
        path = self._window.desk.session.path
        return str((path.parent if path else Path.home()) / name)

    def _stem(self) -> str:
        return self._window.desk.figure.name.lower().replace(" ", "-").replace("/", "-")

    def export_frames(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            None, "Export frames", self._start(f"{self._stem()}.csv"), "Tables (*.csv)"
        )
        if name:
            self.export_frames_to(Path(name))

    def export_frames_to(self, path: Path) -> bool:
        """The frames of the score into a CSV."""
        figure = self._window.desk.figure

        def work() -> Answer:
            made = score_frames(figure)
            write_text(write(figure, made), path)
            held = [c.name for c, n in zip(figure.score.channels, made.clamped.tolist(), strict=True) if n]
            said = (
                f" {', '.join(held)} was held at the edge of its soft band where the score leaves it." if held else ""
            )
            home = f" A way home of {made.home_s:.2f} s was added." if made.home_s else ""
            return self._saying(f"{len(made.times)} frames are in {path.name}.{said}{home}")

        return self._tried(work, figure.score.length_s > LONG_S)

    def import_frames(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            None, "Take frames over", self._start(""), "Tables (*.csv);;All files (*)"
        )
        if name:
            self.import_frames_from(Path(name))

    def import_frames_from(self, path: Path) -> bool:
        """Moves that follow a CSV, as one edit."""
        desk = self._window.desk
        figure = desk.figure

        def work() -> Answer:
            edit, off = take_over(figure, read(read_text(path), path.name))
            moves = sum(len(step.value) for step in edit.steps if step.path[-1] == "moves")
            said = f"{moves} moves follow {path.name}; the largest difference is {off:.2f} of a degree, mm or per cent."

            def answer() -> None:
                desk.edit(edit)
                desk.said.emit(said)

            return answer

        return self._tried(work, path.is_file() and path.stat().st_size > LARGE)

    def export_player(self) -> None:
        name = QFileDialog.getExistingDirectory(None, "A folder for the player", self._start(""))
        if name:
            self.export_player_to(Path(name) / f"{self._stem()}-player")

    def export_player_to(self, folder: Path) -> bool:
        """The player's files into a folder."""
        desk = self._window.desk
        controller = next(c for c in controllers() if c.id == desk.chosen_controller)
        figure, pulses = desk.figure, desk.chosen_pulses

        def work() -> Answer:
            write_files(folder, bundle(figure, controller, pulses))
            return self._saying(f"The player is in {folder.name}; its README.txt says how to wire, build and send it.")

        return self._tried(work, figure.score.length_s > LONG_S)

    def _saying(self, words: str) -> Answer:
        return lambda: self._window.desk.said.emit(words)

    def _tried(self, work: Callable[[], Answer], long: bool) -> bool:
        """Do it, beside the interface where it is long. False where it was refused, which is told."""

        def careful() -> Answer:
            try:
                return work()
            except Trouble as trouble:
                return self._saying(str(trouble))

        desk = self._window.desk
        if long:
            begun = self.aside.do(careful)
            desk.said.emit(
                "Under way; it is told when it is done." if begun else "Something else is still under way; wait for it."
            )
            return begun
        try:
            work()()
        except Trouble as trouble:
            desk.said.emit(str(trouble))
            return False
        return True
