"""Driving by hand in the window: what mouse, keys, a board's inputs or a simulated hand say, fifty times a second onto the figure, and into the score."""

from __future__ import annotations

from collections import deque
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject, Qt, QTimer, pyqtSignal

from karakuri.behaviour.hand.contract import TICK_S
from karakuri.behaviour.hand.grasp import Grasp, Steer, pace_of
from karakuri.behaviour.hand.standin import SimulatedHand
from karakuri.exchange.recorded import LEAST_S, Take, recorded, written_down
from karakuri.model.behaviour import ANALOG
from karakuri.model.figure import Figure
from karakuri.workbench.aside import Answer, Aside

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

STEP_MS, MOST_TICKS, KEPT, MOST_S = 20, 10, 400, 600.0


class Steerer(QObject):
    """`ticked` whenever time went on or an input changed, `ran` at start and stop of driving and recording. View state; neither saved nor undone."""

    ticked = pyqtSignal()
    ran = pyqtSignal()

    def __init__(self, desk: Desk, in_place: bool) -> None:
        super().__init__(desk)
        self.desk = desk
        self.hand: Grasp | None = None
        self.levels: dict[str, float] = {}
        self.trying = False
        self.told = ""
        self.sensitivity = 2
        self.trace: deque[dict[str, tuple[float, float]]] = deque(maxlen=KEPT)
        self._of: Figure | None = None
        self._simulated: SimulatedHand | None = None
        self._frames: list[dict[str, float]] | None = None
        self._begins = 0.0
        self._ticks, self._done = 0, 0
        self._aside = Aside("recording", in_place)
        self._clock = QElapsedTimer()
        self._timer = QTimer(self, interval=STEP_MS)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        desk.changed.connect(self._changed)

    # ---- what it is
    @property
    def running(self) -> bool:
        return self._timer.isActive()

    @property
    def recording(self) -> bool:
        return self._frames is not None

    @property
    def writing(self) -> bool:
        """Whether a take is being written down."""
        return self._aside.busy

    @property
    def recorded_s(self) -> float:
        """How long what is being recorded is so far."""
        return len(self._frames or ()) * TICK_S

    @property
    def moved(self) -> bool:
        """Whether anything is there to drive it by."""
        steering = self.desk.figure.steering
        return steering is not None and bool(steering.grips)

    def level(self, ident: str) -> float:
        """Where an input stands, 0 to 100: what nobody touched rests in its middle, or is off."""
        if ident in self.levels:
            return self.levels[ident]
        behaviour = self.desk.figure.behaviour
        each = next((i for i in behaviour.inputs if i.id == ident), None) if behaviour is not None else None
        return 50.0 if each is not None and each.kind in ANALOG else 0.0

    def pose(self) -> dict[str, float]:
        """Where joints in hand are, rad or m."""
        figure, out = self.desk.figure, dict[str, float]()
        for steer in self.grasped.values():
            for joint in steer.lead.channel.joints:
                out[joint] = steer.now * figure.joint(joint).measure.si
        return out

    def lights(self) -> dict[str, float]:
        """Lights and motors in hand, by id, per cent."""
        return {ident: steer.now for ident, steer in self.grasped.items() if steer.lead.channel.leads is None}

    # ---- actions
    def hold(self, ident: str, level: float) -> None:
        """An input is held at a level, 0 to 100, until it is held otherwise."""
        self.levels[ident] = min(max(level, 0.0), 100.0)
        self.ticked.emit()

    def sense(self, which: int) -> None:
        """Fine (0), middle (1) or full (2), where no input chooses."""
        self.sensitivity = which
        if self.hand is not None:
            self.hand.sensitivity = which
        self.ran.emit()

    def run(self) -> None:
        """Take hold, with ribbons where the figure stands."""
        if self.running or not self._begin():
            return
        self.desk.living.stop()
        self.told = ""
        self.desk.abilities.ask(
            [ident for ident, steer in self.grasped.items() if steer.lead.channel.leads is not None], self._learned
        )
        self._ticks = self._done = 0
        self.trace.clear()
        self._clock.start()
        self._timer.start()
        self.ran.emit()

    def stop(self) -> None:
        """Let go; what was recorded is written down."""
        if self.recording:
            self.finish()
        if self.running:
            self._timer.stop()
            self.hand = None
            self.desk.posed.emit()  # a board that goes along hears that nobody steers what runs
            self.ran.emit()

    def toggle(self) -> None:
        (self.stop if self.running else self.run)()

    def try_it(self) -> None:
        """A simulated hand takes over, or leaves."""
        self.trying = not self.trying
        self._simulated = None
        self.levels.clear()
        if self.trying:
            self.run()
        self.ran.emit()

    def record(self) -> None:
        """From the plumb line on, the score running under it; from where the score has each ribbon, softly to where the hand is: a score does not jump."""
        self.run()
        if not self.running or self.recording:
            return
        transport = self.desk.transport
        length = self.desk.figure.score.length_s
        self._begins = round(transport.now / TICK_S) * TICK_S if transport.now < length - 1e-3 else 0.0
        transport.set_pace(1.0)
        self.hand = None
        transport.go(self._begins)
        self._begin()
        self._learned()
        transport.run()
        self._frames = [{ident: steer.now for ident, steer in self.grasped.items()}]
        self.ran.emit()

    def finish(self) -> None:
        """Write down what was recorded, beside the interface."""
        frames, self._frames = self._frames, None
        self.desk.transport.stop()
        self.ran.emit()
        if not frames or (len(frames) - 1) * TICK_S < LEAST_S:
            self._tell(f"nothing was recorded: a take lasts {LEAST_S:g} s or longer")
            return
        figure, within = self.desk.figure, self.desk.figure.steering.within if self.desk.figure.steering is not None else 1.0  # fmt: skip
        mine = {channel.id for channel in figure.score.moved}
        times = self._begins + np.arange(len(frames)) * TICK_S
        places = {i: np.array([frame[i] for frame in frames]) for i in frames[0] if i in mine and all(i in f for f in frames)}  # fmt: skip

        def work() -> Answer:
            done = written_down(figure, Take(times, places), within)

            def answer() -> None:
                if not done.moves:
                    self._tell("nothing was recorded: no ribbon in hand moved")
                elif self.desk.edit(lambda: recorded(self.desk.figure, done, float(times[-1]))):
                    worst = max(done.off, key=lambda ident: done.off[ident])
                    sign = self.desk.figure.measure(self.desk.figure.score.moving(worst)).sign
                    off = f"{done.off[worst]:.2f}{'' if sign == '°' else ' '}{sign}"
                    self._tell(
                        f"{done.frames} places on {len(done.moves)} ribbons became {done.made} moves, {off} off at most"
                    )

            return answer

        self._aside.then(work)

    def _tell(self, words: str) -> None:
        self.told = words
        self.ran.emit()

    def close(self) -> None:
        """Let go, writing nothing."""
        self._frames = None
        self._timer.stop()
        self._aside.finish(0.0)

    # ---- time
    def _begin(self) -> bool:
        if not self.moved:
            return False
        figure = self.desk.figure
        self.hand = Grasp(figure, self._stands(figure), self.desk.abilities.known(figure))
        self.hand.sensitivity, self._of = self.sensitivity, figure
        return True

    @property
    def grasped(self) -> dict[str, Steer]:
        """Ribbons in hand, by id."""
        return self.hand.ribbons if self.hand is not None else {}

    def _learned(self) -> None:
        """It is known now what drives keep up with."""
        figure = self.desk.figure
        if self.hand is not None and self._of is figure:
            can = self.desk.abilities.known(figure)
            for ident, steer in self.hand.ribbons.items():
                steer.pace = pace_of(figure, self.hand.steering, ident, steer.lead, can)
        self.ran.emit()

    def _stands(self, figure: Figure) -> dict[str, float]:
        out = {ident: steer.now for ident, steer in self.grasped.items()}
        for channel in figure.score.moved:
            if channel.leads is not None:
                out[channel.id] = self.desk.place(channel.leads) / figure.joint(channel.leads).measure.si
        return out

    def _changed(self) -> None:
        if self.running and self._of is not self.desk.figure and not self._begin():
            self.stop()

    def _tick(self) -> None:
        if self.hand is None or not self.moved:
            return
        due = int(self._clock.elapsed() / STEP_MS)
        for _ in range(min(due - self._done, MOST_TICKS)):
            self._once()
        self._done = due  # where the computer was busy time is left out, not run after
        transport = self.desk.transport
        if transport.running and (transport.passes or not self.recording):
            transport.stop()
        pose = dict(self.desk.pose) | self.pose()
        self.desk.set_whole_pose(pose)
        self.ticked.emit()
        if self.recorded_s >= MOST_S:
            self.finish()

    def _once(self) -> None:
        assert self.hand is not None
        self._ticks += 1
        levels = {ident: self.level(ident) for ident in self.hand.steering.inputs}
        if self.trying:
            figure = self.desk.figure
            if self._simulated is None and figure.behaviour is not None:
                self._simulated = SimulatedHand(figure.behaviour, self.hand.steering)
                self._ticks = 0
            levels |= self._simulated.at(self._ticks * TICK_S) if self._simulated is not None else {}
            self.levels |= levels
        self.hand.tick(levels)
        now = {ident: steer.now for ident, steer in self.hand.ribbons.items()}
        self.trace.append({ident: (steer.asked, steer.now) for ident, steer in self.hand.ribbons.items()})
        if self._frames is not None:
            self._frames.append(now)
