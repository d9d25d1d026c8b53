"""What is heard of the figure's sounds, beside the interface: how loud they are, for study, ribbons and jaws; and taking one from a file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from karakuri.course import GivenUp
from karakuri.errors import Trouble
from karakuri.exchange.sounds import Heard
from karakuri.model.edit import Edit
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.sound import Sound
from karakuri.model.sound_edits import free_jaw, put_sound
from karakuri.motion.makers.voice import with_jaws
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

PATIENCE_S = 5.0


class Voices(QObject):
    """`changed`: something can be listened to now, or cannot any more."""

    changed = pyqtSignal()
    went = pyqtSignal()

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__(desk)
        self.desk = desk
        self.heard: tuple[Loudness, ...] | None = None
        self.under_way: tuple[str, float] | None = None
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
            except GivenUp:
                return self._done
            except Trouble as trouble:
                said = str(trouble)
                return lambda: self._refused(said)
            return lambda: self._put(fields, found.loudness, at_s)

        self._aside.then(work)

    def stop(self) -> None:
        """Give up what is under way."""
        self._aside.stop()

    def edit(self, make: Callable[[], Edit], dragging: bool = False) -> bool:
        """An edit of what sounds or how a jaw goes with it, and what the jaw does then, as one step."""
        return self.desk.edit(
            lambda: with_jaws(self.desk.figure, make(), self._by_digest(), self.desk.abilities.of), dragging
        )

    def prepare(self) -> None:
        """Work out beside the interface what the jaws of the score keep up with: a hand may soon ask."""
        makers = self.desk.figure.score.makers
        self.desk.abilities.ask(maker.jaw for maker in makers if isinstance(maker, Voice))

    def finish(self) -> None:
        """End what is under way."""
        self._aside.finish(PATIENCE_S)

    def _by_digest(self) -> dict[str, Loudness]:
        return {each.sha256: each for each in self.heard or ()}

    def _put(self, fields: dict[str, object], loudness: Loudness, at_s: float) -> None:
        self._done()
        if loudness.sha256 not in self._by_digest():
            self.heard = (*(self.heard or ()), loudness)
        figure = self.desk.figure
        jaws = {maker.jaw for maker in figure.score.makers if isinstance(maker, Voice)} | {free_jaw(figure)} - {None}
        self.desk.abilities.ask(sorted(j for j in jaws if j), lambda: self._put_now(fields, at_s))

    def _put_now(self, fields: dict[str, object], at_s: float) -> None:
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
