"""A behaviour lived in the window: ticks on a clock, visitors, what a hand does to inputs; the figure takes the pose it has."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, QObject, Qt, QTimer, pyqtSignal

from karakuri.behaviour.engine import Engine
from karakuri.behaviour.senses import TICK_HZ
from karakuri.behaviour.visitors import Visitors
from karakuri.model.figure import Figure

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

STEP_MS, MOST_TICKS = 20, 100
PACES = (1, 4, 20)


class Living(QObject):
    """`ticked` whenever time went on, `ran` at start and stop. View state; neither saved nor undone. An edit of the figure begins it anew."""

    ticked = pyqtSignal()
    ran = pyqtSignal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk = desk
        self.engine: Engine | None = None
        self.visitors: Visitors | None = None
        self.count, self.pace = 1, 1
        self._of: Figure | None = None
        self._told = 0
        self._done = 0
        self._clock = QElapsedTimer()
        self._timer = QTimer(self, interval=STEP_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        desk.changed.connect(self._changed)

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    @property
    def state(self) -> str:
        """The id of the state it is in; '' where it does not live."""
        return self.engine.state.id if self.engine is not None else ""

    def run(self) -> None:
        """Live on, or begin to."""
        if self.engine is None and not self.begin():
            return
        self.desk.transport.stop()
        self._done, self._clock = 0, QElapsedTimer()
        self._clock.start()
        self._timer.start()
        self.ran.emit()

    def stop(self) -> None:
        """Stop where it is."""
        if self.running:
            self._timer.stop()
            self.desk.sounding.hush()
            self.ran.emit()

    def toggle(self) -> None:
        (self.stop if self.running else self.run)()

    def begin(self) -> bool:
        """From the first state; False where there is none."""
        figure = self.desk.figure
        if figure.behaviour is None or not figure.behaviour.states:
            return False
        self.visitors = Visitors(figure.behaviour, figure.behaviour.seed, self.count)
        heard = {each.sha256: each for each in self.desk.voices.heard or ()}
        self.engine = Engine(
            figure,
            self.visitors.at if self.count else lambda time: {},
            heard=heard,
            can=self.desk.abilities.known(figure),
        )
        self._of, self._told = figure, 0
        self.ticked.emit()
        return True

    def again(self) -> None:
        """Begin anew, running or not as before."""
        was = self.running
        self.stop()
        self.engine = None
        if was:
            self.run()
        else:
            self.begin()

    def set_count(self, count: int) -> None:
        """So many visitors at most at a time."""
        self.count = count
        self.again()

    def set_pace(self, pace: int) -> None:
        """So many times as fast as it is."""
        self.pace, self._done = pace, 0
        self._clock.restart()
        self.ran.emit()

    def hold(self, ident: str, level: float) -> None:
        """A hand holds an input."""
        if self.engine is not None or self.begin():
            assert self.engine is not None
            self.engine.hold(ident, level)
            self.ticked.emit()

    def cue(self, word: str) -> None:
        """A cue is given."""
        if self.engine is not None:
            self.engine.cue(word)

    def _changed(self) -> None:
        if self.engine is not None and self._of is not self.desk.figure:
            self.again()

    def _tick(self) -> None:
        if self.engine is None:
            return
        due = int(self._clock.elapsed() * TICK_HZ * self.pace / 1000)
        ticks = min(due - self._done, MOST_TICKS)
        for _ in range(ticks):
            self.engine.tick()
        self._done = due  # where the computer was busy time is left out, not run after
        self._sound()
        self._pose()
        self.ticked.emit()

    def _sound(self) -> None:
        assert self.engine is not None
        said = self.engine.stage.sounded
        self._told = min(self._told, len(said))
        while self._told < len(said) and said[self._told][0] <= self.engine.now:
            if self.pace == 1:
                self.desk.sounding.say(said[self._told][1])
            self._told += 1

    def _pose(self) -> None:
        engine = self.engine
        assert engine is not None
        figure, pose = self.desk.figure, dict(self.desk.pose)
        for ribbon in engine.stage.ribbons.values():
            place = ribbon.held(engine.now)
            for joint in ribbon.channel.joints:
                pose[joint] = place * figure.joint(joint).measure.si
        self.desk.set_whole_pose(pose)
