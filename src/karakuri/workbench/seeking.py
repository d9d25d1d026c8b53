"""Looking for holes and a rod beside the interface: one joint at a time, with how far it is, and Stop."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from karakuri.course import Course, GivenUp
from karakuri.model.figure import Figure
from karakuri.sizing.finder import Fitted
from karakuri.study.seek import levers, taken
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk


class Seeker(QObject):
    """What was found for which joint, in which figure; `under_way` names the joint that is looked after now, with what is done and how far, 0 to 1."""

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__()
        self.desk = desk
        self.found: dict[str, tuple[Fitted, ...]] = {}
        self.under_way: tuple[str, str, float] | None = None
        self._figure: Figure | None = None
        self._aside = Aside("seek", in_place)
        self._aside.went.connect(self._went)

    def seek(self, joint_id: str) -> None:
        """Begin to look; nothing while another is looked after, or before anything was studied."""
        study = self.desk.study
        if study is None or self._aside.busy:
            return
        course, results = self._aside.course(), study.results
        self.under_way = (joint_id, "beginning", 0.0)
        self.desk.looked.emit()
        self._aside.do(lambda: self._look(joint_id, results, course))

    def stop(self) -> None:
        """Give up what is under way."""
        self._aside.stop()

    def stale(self) -> bool:
        """Whether the figure has changed since, but for what lies between servos and joints."""
        return self._figure is not None and self._figure.parts is not self.desk.figure.parts

    def take(self, joint_id: str, found: Fitted) -> None:
        """Put in what was found, as one step."""
        self.desk.edit(lambda: taken(self.desk.figure, joint_id, found))

    def finish(self) -> None:
        """End, at closing."""
        self._aside.finish(0.5)

    def _look(self, joint_id: str, results, course: Course) -> Answer:
        try:
            found = levers(results, joint_id, course)
        except GivenUp:
            return self._ended
        return lambda: self._came(joint_id, results.figure, found)

    def _came(self, joint_id: str, figure: Figure, found: tuple[Fitted, ...]) -> None:
        self._figure = figure
        self.found = {joint_id: found}
        self._ended()

    def _ended(self) -> None:
        self.under_way = None
        self.desk.looked.emit()

    def _went(self, what: str, share: float) -> None:
        if self.under_way is not None:
            self.under_way = (self.under_way[0], what, share)
            self.desk.looked.emit()
