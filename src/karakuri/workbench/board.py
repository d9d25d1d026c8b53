"""The board as the window sees it: sender and stand-in are processes of their own, their reports come as signals. View state."""

from __future__ import annotations

import time
import weakref

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from karakuri.behaviour.reading import level as stands_at
from karakuri.course import Course, GivenUp
from karakuri.devices.client import SenderProcess
from karakuri.devices.driving import MOVING
from karakuri.devices.governor import LIVE_DEG_PER_S
from karakuri.devices.prepare import program_of
from karakuri.devices.standins.process import StandIn
from karakuri.errors import Trouble
from karakuri.exchange.outputs import Output, outputs
from karakuri.motion.frames import RATE_HZ
from karakuri.workbench.aside import LONG_S, Answer, Aside

JOINED = ("joined", "confirmed", "ready", *MOVING)
STEADY = ("ready", "live", "homing")
KEPT_EVENTS, KEPT_DELAYS, LEAST_OUTPUTS = 200, 3000, 16


class BoardLink(QObject):
    """`changed` on every report; `happened` when there is something new to read."""

    changed = pyqtSignal()
    happened = pyqtSignal()
    _report = pyqtSignal(dict)

    def __init__(self, desk) -> None:
        super().__init__(desk)
        self._desk = weakref.proxy(desk)
        self.state = "off"
        self.address = ""
        self.news: dict = {}
        self.events: list[tuple[float, str, str]] = []
        self.delays: list[float] = []
        self.fault = "none"
        self.read: dict[str, float] = {}
        self._sender: SenderProcess | None = None
        self._stand_in: StandIn | None = None
        self._began = time.monotonic()
        self._loading, self._connecting, self._aside = 0, False, Aside("frames")
        self._report.connect(self._heard)
        self._reload = QTimer(self, singleShot=True, interval=120)
        self._reload.timeout.connect(self._load)
        desk.changed.connect(self._figure_changed)
        desk.posed.connect(self._follow)

    # ---- what it is
    @property
    def joined(self) -> bool:
        return self.state in JOINED

    @property
    def moving(self) -> bool:
        return self.state in MOVING

    @property
    def stand_in(self) -> bool:
        return self._stand_in is not None and self.address == self._stand_in.address

    def words(self) -> str:
        """The state in plain words."""
        return {
            "off": "no board", "joined": "answers; power not confirmed", "confirmed": "powered; not yet at park",
            "ready": "stands at rest", "approaching": "brings joint after joint to park", "gathering": "goes to where the score begins", "playing": "plays",
            "live": "follows the sliders", "trying": "tries one output", "homing": "goes to park", "lost": "lost",
        }[self.state]  # fmt: skip

    def say(self, verdict: str, text: str) -> None:
        """One line of what happened."""
        self.events.append((time.monotonic() - self._began, verdict, text))
        del self.events[:-KEPT_EVENTS]
        self.happened.emit()

    # ---- actions
    def start_stand_in(self) -> None:
        """Start the stand-in and join it."""
        try:
            wanted = max([LEAST_OUTPUTS, *(output.number + 1 for output in self.outputs())])
            if self._stand_in is not None and (
                self.fault != "none" or not self._stand_in.alive or self._stand_in.outputs < wanted
            ):
                self._stand_in.close()  # one that was told to be faulty does not hear that it should be well again
                self._stand_in = None
            if self._stand_in is None:
                self._stand_in = StandIn(outputs=wanted)
            self.fault = "none"
            self.join(self._stand_in.address)
        except (Trouble, OSError) as trouble:
            self.say("fails", str(trouble))

    def join(self, address: str) -> None:
        """Join a board by its address."""
        self.address = address.strip()
        if self._sender is not None and not self._sender.alive:
            self._sender.close()
            self._sender = None
        if self._sender is None:
            self._sender = SenderProcess(self._report.emit)
        self._connecting = True
        if self._desk.figure.score.length_s > LONG_S:
            self.say("holds", "The frames of the score are made first; the board is joined then.")
        self._load()

    def confirm(self) -> None:
        self._tell("power")

    def approach(self) -> None:
        self._desk.let_be()
        self._tell("approach")

    def play(self) -> None:
        """Play on the board, the drawings along with it, from the beginning."""
        self._desk.let_be()
        self._tell("play", frame=0)

    def stop(self) -> None:
        """All motion ends where it is, and whoever moved it lets go: else it would be told to go on."""
        self._desk.let_be()
        self._tell("stop")

    def park(self) -> None:
        self._desk.let_be()
        self._tell("park")

    def leave(self) -> None:
        self._connecting = False
        self._desk.let_be()
        self._tell("leave")

    def try_fault(self, name: str) -> None:
        """A fault of the stand-in."""
        self.fault = name
        self.say("tight" if name != "none" else "holds", f"Stand-in told to be {name}." if name != "none" else "Stand-in told to be well again.")  # fmt: skip
        self._tell("say", line=f"FAULT {name}")

    def step_to(self, number: int, us: float) -> None:
        """One output to a pulse, at the pace of the sliders."""
        self._tell("live", aim={str(number): us})

    def try_output(self, number: int, us: float, pace: float = 100.0) -> None:
        """One output by itself, to a pulse, µs, at µs/s: no figure is needed."""
        self._desk.let_be()
        self._tell("try", output=number, us=us, pace=pace)

    def release(self) -> None:
        """No more pulses for what is tried."""
        self._tell("release")

    @property
    def trial(self) -> tuple[int, float] | None:
        """Which output is tried, and where it was last sent, µs."""
        found = self.news.get("trial") if self.state == "trying" else None
        return (int(found[0]), float(found[1])) if found else None

    def press(self, pin: str, level: float) -> None:
        """An input of the stand-in goes to a level, per cent, as if somebody pressed it there."""
        self._tell("say", line=f"PRESS {pin} {round(level)}")

    def _noticed(self, pin: str, level: float) -> None:
        """The board says that an input changed: what lives on it notices."""
        figure, living = self._desk.figure, self._desk.living
        plug = next((each for each in figure.plugs if each.of == "input" and each.pin("signal") == pin), None)
        if plug is None or figure.behaviour is None:
            self.say("tight", f"Pin {pin} changed, and no input is plugged in there.")
            return
        each = figure.behaviour.input(plug.item)
        self.read[plug.item] = level
        stands = stands_at(each, level)
        if self._desk.by_hand:
            self._desk.steered.hold(plug.item, stands)
        else:
            self.say("holds", f"{each.name}: {stands:.0f} %.")
        if living.running:
            living.hold(plug.item, stands)

    def _tell(self, do: str, **fields) -> None:
        if self._sender is not None:
            self._sender.tell(do, **fields)

    def outputs(self) -> tuple[Output, ...]:
        return outputs(self._desk.figure)

    # ---- keeping it up to date
    def _figure_changed(self) -> None:
        if self.joined or self._connecting:
            self._reload.start()

    def _load(self) -> None:
        """Beside the interface, for the frames of a long score take a while; the newest figure wins, and the board is joined with it."""
        self._loading += 1
        figure, number, sender = self._desk.figure, self._loading, self._sender
        course = Course(lambda: number != self._loading)

        def work() -> Answer:
            try:
                if sender is not None:
                    sender.load(program_of(figure, course))
                return self._connect
            except GivenUp:
                return lambda: None
            except (Trouble, OSError) as trouble:
                words = str(trouble)
                return lambda: self._not_loaded(words)

        self._aside.then(work)

    def _not_loaded(self, trouble: str) -> None:
        """The new frames could not be handed over."""
        words = trouble if self._connecting else f"The board plays on as before: {trouble}"
        self._heard({"say": words, "bad": True, "state": ""})
        self._connect()

    def _connect(self) -> None:
        """Join, where that is what the frames were made for."""
        if self._connecting and self._sender is not None:
            self._connecting = False
            self._sender.tell("connect", address=self.address)

    def _follow(self) -> None:
        """The sliders, a recalled pose: the board follows on the Rehearse bench once it stands."""
        desk = self._desk
        if desk.bench != "rehearse" or self.state not in STEADY or (desk.transport.running and not desk.by_hand):
            return
        lights = desk.steered.lights() if desk.by_hand else {}
        moved, aim = desk.figure.score.moved, {}
        for output in self.outputs():
            place = output.at(desk.pose)
            if output.joint is None:
                channel = moved[output.channel].id
                if channel not in lights and not output.runs:
                    continue
                place = lights.get(channel, 0.0) / 100.0  # what no hand steers does not run
            aim[str(output.number)] = float(output.value(np.array([place]))[0])
        steering = desk.figure.steering
        pace = steering.pace if desk.by_hand and steering is not None else LIVE_DEG_PER_S
        self._tell("live", aim=aim, pace=pace)

    def _heard(self, report: dict) -> None:
        if report.get("say"):
            self.say("fails" if report.get("bad") else "holds", report["say"])
        if report.get("input"):
            self._noticed(str(report["input"][0]), float(report["input"][1]))
        before = self.state
        if report.get("state"):
            self.state = report["state"]
        if "frame" in report:
            self.news = report
            self.delays = (self.delays + report.get("delays_ms", []))[-KEPT_DELAYS:]
            self._along(report)
        if before != self.state:
            if self.state == "lost":
                self._desk.transport.stop()
            if self.state == "playing":
                self._desk.transport.set_pace(1.0)
                self._desk.transport.go(0.0)
                self._desk.transport.run()
            elif before == "playing":
                self._desk.transport.stop()
        self.changed.emit()

    def _along(self, report: dict) -> None:
        """The plumb line goes with the board."""
        transport = self._desk.transport
        if self.state == "playing" and transport.running:
            at = report["frame"] / RATE_HZ
            if abs(at - transport.now) > 0.08 and at <= self._desk.figure.score.length_s:
                transport.align(at)

    def degrees(self, output: Output, us: float) -> float:
        """The angle, degrees, or per cent, that a pulse means."""
        return output.written(float(output.pulses.angle(np.array([us]))[0])) if output.pulses else us / 10

    def close(self) -> None:
        """Let the board park and end both processes."""
        self._reload.stop()
        self._loading += 1
        self._connecting = False
        self._aside.finish(0.0)
        sender, self._sender = self._sender, None
        if sender is not None:
            sender.close()
        if self._stand_in is not None:
            self._stand_in.close()
            self._stand_in = None
