"""What is asked of the starters, looked at beside the interface: servos fitted that hold, the figure judged before it is made."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.course import GivenUp
from karakuri.errors import Trouble
from karakuri.model.figure import Figure
from karakuri.starters.composed import Asked, Down
from karakuri.study.set_down import fitted
from karakuri.study.studied import Study
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

Question = tuple[Figure, Asked]


class Starting(QObject):
    """`ask` begins to fit and judge; what was asked before is given up. `changed` tells of every step; `then`, where given, is carried out with what was found."""

    changed = pyqtSignal()

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__()
        self.desk = desk
        self.progress: tuple[str, float] | None = None
        self._found: tuple[Question, Down, Study] | None = None
        self._wanted: Question | None = None
        self._then: Callable[[Down], object] | None = None
        self._aside = Aside("start", in_place)
        self._aside.went.connect(self._went)

    @property
    def making(self) -> bool:
        """Whether something is to be made of what is being looked at."""
        return self._then is not None

    def found(self, question: Question) -> tuple[Down, Study] | None:
        """What was found for exactly that, or None."""
        return self._found[1:] if self._found is not None and self._found[0] == question else None

    def ask(self, question: Question, then: Callable[[Down], object] | None = None) -> None:
        """Fit and judge; at once carried out where it is known already."""
        known = self.found(question)
        if known is not None:
            if then is not None:
                then(known[0])
            return
        self._wanted, self._then = question, then
        self._aside.stop()
        if not self._aside.busy:
            self._begin()

    def stop(self) -> None:
        """Give up; nothing is made."""
        self._wanted = self._then = None
        self._aside.stop()
        self._settled()

    def finish(self) -> None:
        """End, at closing."""
        self._wanted = self._then = None
        self._aside.finish(0.5)

    def _begin(self) -> None:
        question = self._wanted
        if question is None:
            return
        course = self._aside.course()
        self.progress = ("servos that hold", 0.0)
        self.changed.emit()

        def look() -> Answer:
            try:
                down, study = fitted(*question, course)
            except GivenUp:
                return self._over
            except Trouble as trouble:
                words = str(trouble)
                return lambda: self._refused(question, words)
            return lambda: self._came(question, down, study)

        self._aside.do(look)

    def _came(self, question: Question, down: Down, study: Study) -> None:
        if question != self._wanted:
            self._over()
            return
        self._found = (question, down, study)
        then, self._then, self._wanted = self._then, None, None
        self._settled()
        if then is not None:
            then(down)

    def _refused(self, question: Question, words: str) -> None:
        if question == self._wanted:
            self._wanted = self._then = None
        self.desk.said.emit(words)
        self._over()

    def _over(self) -> None:
        """Given up: what was asked for since is begun."""
        self._settled()
        self._begin()

    def _settled(self) -> None:
        self.progress = None
        self.changed.emit()

    def _went(self, what: str, share: float) -> None:
        if self.progress is not None:
            self.progress = (what, share)
            self.changed.emit()
