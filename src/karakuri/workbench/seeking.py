"""What is looked for beside the interface: holes and rods for a joint, how large a figure may get; one at a time, with how far it is, and Stop."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from karakuri.catalogue import servo_classes
from karakuri.course import Course, GivenUp
from karakuri.model.figure import Figure
from karakuri.units import Quantity
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.study.look_at import Looked
    from karakuri.workbench.desk import Desk

SHORT_RAD = 0.01
Sought = tuple[str, str]
"""What is looked for, and for which joint: ('levers', id), ('largest', id or '')."""


class Seeker(QObject):
    """What was found last, and in which figure; `under_way` names what is looked for now, with what is done and how far, 0 to 1."""

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__()
        self.desk = desk
        self.under_way: tuple[Sought, str, float] | None = None
        self._found: tuple[Sought, Any, Figure] | None = None
        self._aside = Aside("seek", in_place)
        self._aside.went.connect(self._went)

    def seek_levers(self, joint_id: str) -> None:
        """Holes and rods for a joint; nothing before anything was studied."""
        from karakuri.study.seek import levers

        study = self.desk.study
        if study is not None:
            self._begin(("levers", joint_id), study.figure, lambda course: levers(study.results, joint_id, course))

    def seek_solved(self, joint_id: str) -> None:
        """Which servo through what for a joint; nothing before anything was studied."""
        from karakuri.study.seek import solved

        study = self.desk.study
        if study is not None:
            servos = (*servo_classes(), *self.desk.drawer.servos())
            self._begin(
                ("solved", joint_id), study.figure, lambda course: solved(study.results, joint_id, servos, course)
            )

    def seek_largest(self, joint_id: str) -> None:
        """How large the figure, or what rides on a joint, may get."""
        from karakuri.study.seek import largest

        figure = self.desk.figure
        self._begin(("largest", joint_id), figure, lambda course: largest(figure, joint_id, course))

    def seek_room(self, part_id: str) -> None:
        """What still goes into a hollow part; nothing before anything was studied."""
        from karakuri.study.seek import room_left

        study = self.desk.study
        if study is not None:
            self._begin(("room", part_id), study.figure, lambda course: room_left(study.results, part_id, course))

    def seek_look(self, point_mm: tuple[float, float, float]) -> None:
        """Pose the figure so that it looks at a point, mm from its datum; told by how much it falls short where it cannot."""
        desk, figure = self.desk, self.desk.figure
        joins = figure.score.life.head_joins_deg

        def look() -> Answer:
            from karakuri.study.look_at import look_at

            found = look_at(figure, point_mm, joins if joins is not None else 180.0)
            return lambda: self._looked(found) if desk.figure is figure else None

        self._aside.then(look)

    def _looked(self, found: Looked) -> None:
        if not found.looks:
            self.desk.said.emit(
                "Nothing here looks: it wants a joint that moves as an eye, or as a head (its card on the Figure bench)."
            )
            return
        self.desk.set_whole_pose(self.desk.pose | found.pose)
        if found.off > SHORT_RAD:
            short = self.desk.show(Quantity(found.off, "angle", rounding="up"))
            self.desk.said.emit(f"It cannot look there: its ranges end {short} short of it.")

    def found(self, sought: Sought) -> Any:
        """What was found; None where that was not what was looked for last."""
        return self._found[1] if self._found is not None and self._found[0] == sought else None

    def sought(self, sought: Sought) -> bool:
        """Whether that was looked for last."""
        return self._found is not None and self._found[0] == sought

    def stale(self) -> bool:
        """Whether the figure has changed since."""
        return self._found is not None and self._found[2] is not self.desk.figure

    def stop(self) -> None:
        """Give up what is under way."""
        self._aside.stop()

    def take(self, joint_id: str, found: Any) -> None:
        """Put in a lever that was found, as one step."""
        from karakuri.study.seek import taken

        self.desk.edit(lambda: taken(self.desk.figure, joint_id, found))

    def put_in(self, joint_id: str, found: Any) -> None:
        """Fit a servo that was found and what lies between, as one step."""
        from karakuri.study.seek import put_in

        self.desk.edit(lambda: put_in(self.desk.figure, joint_id, found))

    def finish(self) -> None:
        """End, at closing."""
        self._aside.finish(0.5)

    def _begin(self, sought: Sought, figure: Figure, work: Callable[[Course], Any]) -> None:
        if self._aside.busy:
            return
        course = self._aside.course()
        self.under_way = (sought, "beginning", 0.0)
        self.desk.looked.emit()

        def look() -> Answer:
            try:
                found = work(course)
            except GivenUp:
                return self._ended
            return lambda: self._came(sought, found, figure)

        self._aside.do(look)

    def _came(self, sought: Sought, found: Any, figure: Figure) -> None:
        self._found = (sought, found, figure)
        self._ended()

    def _ended(self) -> None:
        self.under_way = None
        self.desk.looked.emit()

    def _went(self, what: str, share: float) -> None:
        if self.under_way is not None:
            self.under_way = (self.under_way[0], what, share)
            self.desk.looked.emit()
