"""What is heard of the figure's sounds, beside the interface: how loud they are, for study, ribbons and jaws; and taking one from a file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.course import GivenUp
from karakuri.errors import Trouble
from karakuri.exchange.sounds import Heard
from karakuri.model.edit import Edit, apply, made
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.sound import Sound
from karakuri.model.sound_edits import put_sound
from karakuri.motion.makers.voice import with_jaws
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp
from karakuri.study.goes_along import goes_along
from karakuri.study.study import same_body
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

PATIENCE_S = 5.0


class Voices(QObject):
    """`heard` changed: something can be listened to now, or cannot any more. What drives keep up with is kept while nothing but what moves changes."""

    changed = pyqtSignal()
    went = pyqtSignal()

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__(desk)
        self.desk = desk
        self.heard: tuple[Loudness, ...] | None = None
        self.under_way: tuple[str, float] | None = None
        self._can: dict[str, KeepsUp] = {}
        self._can_of: Figure | None = None
        self._preparing: Figure | None = None
        self._listened: object = None
        self._aside = Aside("sounds", in_place)
        self._aside.went.connect(self._on_went)

    def loudness(self, sound: Sound) -> Loudness | None:
        """How loud a sound is, where it could be listened to."""
        return next((each for each in self.heard or () if each.sha256 == sound.sha256), None)

    def whole(self, sound: Sound) -> Heard | None:
        """What is in a sound, for playing it; read now where it was not kept."""
        return self.desk.session.sounds.hear(sound)

    def listen(self) -> None:
        """Listen to what is new since the figure was last listened to; nothing is done where its sounds are the same."""
        figure, session = self.desk.figure, self.desk.session
        now = (id(session), figure.sounds)
        if now == self._listened:
            return
        self._listened = now
        if not figure.sounds:
            self.heard = ()
            return
        course = self._aside.course()

        def work() -> Answer:
            try:
                found = session.sounds.loudness(figure, course)
            except GivenUp:
                return lambda: None
            return lambda: self._came(now, found)

        self._aside.then(work)

    def again(self) -> None:
        """The files may have changed: listen once more."""
        self._listened = None
        self.listen()

    def take(self, path: Path, at_s: float) -> None:
        """Put a sound from a file on the voice at a time, with what its jaw does; told in a sentence where it cannot be."""
        figure, session = self.desk.figure, self.desk.session
        course = self._aside.course()

        def work() -> Answer:
            try:
                fields, found = session.sounds.take(path, [sound.file for sound in figure.sounds], course)
                can = _keep_up(made(lambda: put_sound(figure, fields, at_s)), figure)
            except GivenUp:
                return self._done
            except Trouble as trouble:
                said = str(trouble)
                return lambda: self._refused(said)
            return lambda: self._put(fields, found.loudness, can, at_s)

        self._aside.then(work)

    def stop(self) -> None:
        """Give up what is under way."""
        self._aside.stop()

    def edit(self, make: Callable[[], Edit], dragging: bool = False) -> bool:
        """An edit of what sounds or how a jaw goes with it, and what the jaw does then, as one step."""
        return self.desk.edit(lambda: with_jaws(self.desk.figure, make(), self._by_digest(), self.keeps_up), dragging)

    def keeps_up(self, figure: Figure, channel_id: str) -> KeepsUp:
        """What the drives of a ribbon keep up with; no limit where that is not judged. Worked out when it is first asked for."""
        self._keep_can(figure)
        if channel_id not in self._can:
            self._can[channel_id] = goes_along(figure, figure.score.moving(channel_id)) or NO_LIMIT
        return self._can[channel_id]

    def prepare(self) -> None:
        """Work out beside the interface what the jaws of the score keep up with, where that is not known: a hand may soon ask."""
        figure = self.desk.figure
        self._keep_can(figure)
        wanted = [maker.jaw for maker in figure.score.makers if isinstance(maker, Voice) and maker.jaw not in self._can]
        if not wanted or self._preparing is figure:
            return
        self._preparing = figure

        def work() -> Answer:
            can = {jaw: goes_along(figure, figure.score.moving(jaw)) or NO_LIMIT for jaw in wanted}
            return lambda: self._prepared(figure, can)

        self._aside.then(work)

    def finish(self) -> None:
        """End what is under way."""
        self._aside.finish(PATIENCE_S)

    def _by_digest(self) -> dict[str, Loudness]:
        return {each.sha256: each for each in self.heard or ()}

    def _prepared(self, figure: Figure, can: dict[str, KeepsUp]) -> None:
        if self._can_of is not None and same_body(figure, self._can_of):
            self._can = can | self._can

    def _keep_can(self, figure: Figure) -> None:
        """What is known stands while nothing but what moves changes."""
        if self._can_of is None or not (self._can_of is figure or same_body(figure, self._can_of)):
            self._can = {}
        self._can_of = figure

    def _put(self, fields: dict[str, object], loudness: Loudness, can: dict[str, KeepsUp], at_s: float) -> None:
        self._done()
        if loudness.sha256 not in self._by_digest():
            self.heard = (*(self.heard or ()), loudness)
        figure = self.desk.figure
        self._keep_can(figure)
        self._can |= can
        if self.edit(lambda: put_sound(self.desk.figure, fields, at_s)):
            self.changed.emit()

    def _refused(self, said: str) -> None:
        self._done()
        self.desk.said.emit(said)

    def _came(self, asked: object, found: tuple[Loudness, ...]) -> None:
        self._done()
        if asked == self._listened and found != self.heard:
            self.heard = found
            self.changed.emit()

    def _on_went(self, what: str, share: float) -> None:
        self.under_way = (what, share)
        self.went.emit()

    def _done(self) -> None:
        self.under_way = None
        self.went.emit()


def _keep_up(edit: Edit, figure: Figure) -> dict[str, KeepsUp]:
    """What the jaws that go with a voice after an edit keep up with, by ribbon."""

    after = apply(figure, edit)
    jaws = {maker.jaw for maker in after.score.makers if maker.kind == "voice"}
    return {jaw: goes_along(after, after.score.moving(jaw)) or NO_LIMIT for jaw in jaws}
