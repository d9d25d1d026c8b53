"""What ribbons keep up with, for whoever writes moves into them: worked out beside the interface, kept while nothing but what moves changes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.course import GivenUp
from karakuri.model.figure import Figure
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp
from karakuri.study.goes_along import goes_along
from karakuri.study.reuse import Reuse
from karakuri.study.studied import same_body
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

PATIENCE_S = 5.0


class Abilities(QObject):
    """`under_way` says what is worked out now and how far, 0 to 1; `went` whenever that changed."""

    went = pyqtSignal()

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__(desk)
        self.desk = desk
        self.under_way: tuple[str, float] | None = None
        self._can: dict[str, KeepsUp] = {}
        self._of: Figure | None = None
        self._aside = Aside("keeps-up", in_place)
        self._aside.went.connect(self._on_went)

    def of(self, figure: Figure, channel_id: str) -> KeepsUp:
        """What a ribbon keeps up with; no limit where its drives are not judged. Worked out now where nobody did before."""
        self._keep(figure)
        if channel_id not in self._can:
            self._can[channel_id] = goes_along(figure, figure.score.moving(channel_id)) or NO_LIMIT
        return self._can[channel_id]

    def known(self, figure: Figure) -> Mapping[str, KeepsUp]:
        """What is known of a figure's ribbons, by id."""
        self._keep(figure)
        return dict(self._can)

    def ask(self, channels: Iterable[str], then: Callable[[], object] | None = None) -> None:
        """Work out what ribbons keep up with, those that are not known, and then do something in the interface's thread."""
        figure = self.desk.figure
        self._keep(figure)
        wanted = [ident for ident in channels if ident not in self._can]
        if not wanted:
            if then is not None:
                then()
            return
        course = self._aside.course()

        def work() -> Answer:
            found, reuse = {}, Reuse()
            try:
                for k, ident in enumerate(wanted):
                    channel = figure.score.moving(ident)
                    course.at(f"what {channel.name} keeps up with", k / len(wanted))
                    found[ident] = goes_along(figure, channel, reuse) or NO_LIMIT
            except GivenUp:
                return self._done
            return lambda: self._came(figure, found, then)

        self._aside.then(work)

    def stop(self) -> None:
        """Give up what is under way."""
        self._aside.stop()

    def finish(self) -> None:
        """End what is under way, for good."""
        self._aside.finish(PATIENCE_S)

    def _came(self, figure: Figure, found: dict[str, KeepsUp], then: Callable[[], object] | None) -> None:
        if self._of is not None and same_body(figure, self._of):
            self._can = found | self._can
        self._done()
        if then is not None and same_body(figure, self.desk.figure):
            then()

    def _keep(self, figure: Figure) -> None:
        if self._of is None or not (self._of is figure or same_body(figure, self._of)):
            self._can = {}
        self._of = figure

    def _on_went(self, what: str, share: float) -> None:
        self.under_way = (what, share)
        self.went.emit()

    def _done(self) -> None:
        if self.under_way is not None:
            self.under_way = None
            self.went.emit()
