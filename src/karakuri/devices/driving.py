"""What the sender does with a board, frame by frame: join, confirm, approach, play, follow the sliders, stop, park, lose.

Frame k is due at start + k ÷ 50 on the monotonic clock; one that goes out more than 4 ms after that is counted as late.
"""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from karakuri.devices.link import Link
from karakuri.devices.program import Program
from karakuri.devices.protocol import (
    SILENCE_S,
    BoardTrouble,
    Identity,
    limit_line,
    read_identity,
    read_places,
    release_line,
    set_lines,
    wake_line,
    well,
)

FRAME_S, LATE_S, ASK_S, PATIENCE_S = 0.02, 0.004, 0.15, 1.0
APPROACH_DEG_PER_S, LIVE_DEG_PER_S = 20.0, 60.0
BABBLE, GREETINGS = 8, 6


class Sender:
    """States: off (no board), joined (a board answers, its power not confirmed), ready (confirmed, standing still), approaching,
    playing, live, homing, lost. Only `tick` touches the board."""

    def __init__(self, report: Any) -> None:
        self.report = report
        self.state = "off"
        self.link: Link | None = None
        self.address = ""
        self.program: Program | None = None
        self.now: NDArray[np.float64] = np.zeros(0)
        self.known: NDArray[np.bool_] = np.zeros(0, dtype=bool)
        self.aim: NDArray[np.float64] = np.zeros(0)
        self.frame, self.due = 0, time.monotonic()
        self.turn, self.wait_until = 0, 0.0
        self.sent = self.late = self.answers = self.refused = self.nonsense = 0
        self.worst_late = 0.0
        self.delays: list[float] = []
        self.heard = self.asked = 0.0
        self.reported: dict[int, float] = {}

    # ---- commands
    def obey(self, command: dict[str, Any]) -> None:
        """Carry out one command; what can't be done now is told as a sentence."""
        do = command.get("do")
        try:
            deed = getattr(self, f"_do_{do}", None)
            if deed is None:
                self.say(f"The sender was asked for '{do}', which it does not know.")
            else:
                deed(command)
        except BoardTrouble as trouble:
            self._lose(str(trouble))

    def say(self, text: str) -> None:
        self.report({"say": text, "state": self.state})

    def _do_load(self, command: dict[str, Any]) -> None:
        program: Program = command["program"]
        same = self.program is not None and np.array_equal(self.program.numbers, program.numbers)
        self.program = program
        if not same:
            self.now, self.aim = program.park.astype(float), program.park.astype(float)
            self.known = np.zeros(len(program.numbers), dtype=bool)
            if self.state not in ("off", "joined", "lost"):
                self.state = "confirmed"
                self.say("The outputs are others now: bring every joint to park again.")
        if self.link is not None and self.state not in ("off", "lost"):
            self._limits()

    def _do_connect(self, command: dict[str, Any]) -> None:
        self._hang_up()
        self.address = command["address"]
        self.link = link = Link(self.address)
        identity = self._greet(link)
        if self.program is not None and np.any(self.program.numbers >= identity.outputs):
            self._hang_up()
            raise BoardTrouble(
                f"The board has {identity.outputs} outputs, the figure wants number {int(self.program.numbers.max())}. "
                "Number the outputs anew, or take a larger board."
            )
        self._limits(wait=True)
        self._where()
        self.heard = time.monotonic()
        self.state = "joined"
        self.say(f"A board with {identity.outputs} outputs answers at {self.address}.")

    def _greet(self, link: Link) -> Identity:
        """Ask who it is; a board that has just been plugged in takes a moment, and its first words may be garbled."""
        for attempt in range(GREETINGS):
            try:
                return read_identity(link.ask("ID", 0.5))
            except BoardTrouble:
                if attempt == GREETINGS - 1:
                    raise
                link.lines(0.1)
        raise AssertionError

    def _limits(self, wait: bool = False) -> None:
        if self.program is None or self.link is None:
            return
        p = self.program
        for o in range(len(p.numbers)):
            if not p.lights[o]:
                line = limit_line(int(p.numbers[o]), p.low[o], p.high[o], p.park[o])
                if not wait:
                    self.link.send(line)
                    continue
                answer = self.link.ask(line)
                if answer != "OK":
                    raise BoardTrouble(f"The board was told a limit, '{line}'; expected OK, found {answer[:60]!r}.")

    def _where(self) -> None:
        if self.link is None or self.program is None:
            return
        places = read_places(self.link.ask("QUERY"))
        for o, number in enumerate(self.program.numbers.tolist()):
            self.known[o] = number in places or bool(self.program.lights[o])
            if number in places:
                self.now[o] = places[number]

    def _do_power(self, command: dict[str, Any]) -> None:
        if self.state == "joined":
            self.state = "confirmed"
            self.say("Power confirmed.")

    def _do_approach(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in ("confirmed", "ready", "live", "homing", "playing"):
            self.say("Before anything moves, confirm that the board is powered and everybody is clear.")
            return
        self.turn, self.wait_until, self.aim = 0, 0.0, self.program.park.astype(float)
        self._begin("approaching")

    def _do_play(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in ("ready", "live"):
            self.say("It plays once every joint has been brought to park.")
            return
        self.frame = int(command.get("frame", 0))
        self._begin("playing")

    def _do_live(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in ("ready", "live", "playing", "homing"):
            self.say("The sliders drive it once every joint has been brought to park.")
            return
        for number, us in command["aim"].items():
            for o in np.flatnonzero(self.program.numbers == int(number)).tolist():
                low, high = sorted((self.program.low[o], self.program.high[o]))
                self.aim[o] = min(max(float(us), low), high)
        if self.state != "live":
            others = {int(n) for n in command["aim"]}
            for o, number in enumerate(self.program.numbers.tolist()):
                if number not in others:
                    self.aim[o] = self.now[o]
            self._begin("live")

    def _do_stop(self, command: dict[str, Any]) -> None:
        if self.state in ("approaching", "playing", "live", "homing"):
            unfinished = self.state == "approaching"
            self.aim = self.now.copy()
            if self.link is not None and self.program is not None:
                self._send([o for o in range(len(self.now)) if self.known[o]], 0)
                if unfinished and self.turn < len(self.known) and not self.known[self.turn]:
                    self.link.send(
                        release_line(int(self.program.numbers[self.turn]))
                    )  # it creeps on its own: no more pulses
            self.state = "confirmed" if unfinished else "ready"
            self.say("Stopped. It stands where it is.")

    def _do_park(self, command: dict[str, Any]) -> None:
        if self.program is not None and self.state in ("ready", "live", "playing"):
            self.aim = self.program.park.astype(float)
            self._begin("homing")

    def _do_say(self, command: dict[str, Any]) -> None:
        if self.link is not None:
            self.link.send(str(command["line"]))

    def _do_leave(self, command: dict[str, Any]) -> None:
        if self.link is not None and self.state not in ("off", "lost"):
            self.link.send("PARK")
        self._hang_up()
        self.say("The board was let go; it parks by itself.")

    def _begin(self, state: str) -> None:
        self.state = state
        self.due = time.monotonic() + FRAME_S

    def _hang_up(self) -> None:
        if self.link is not None:
            self.link.close()
        self.link, self.state = None, "off"
        self.known = np.zeros(len(self.now), dtype=bool)

    def _lose(self, text: str) -> None:
        self._hang_up()
        self.state = "lost"
        self.say(f"{text} The board parks by itself after {SILENCE_S:g} s of silence. Connect again once it is back.")

    # ---- frames
    def tick(self) -> None:
        """One frame, if a frame is due in this state, and what the board has said."""
        if self.link is None or self.state in ("off", "lost"):
            return
        try:
            self._frame()
            self._listen()
        except BoardTrouble as trouble:
            self._lose(str(trouble))

    def _frame(self) -> None:
        delay = time.monotonic() - self.due
        if self.state in ("playing", "live", "homing", "approaching"):
            self.sent += 1
            self.delays.append(delay)
            if delay > LATE_S:
                self.late += 1
            self.worst_late = max(self.worst_late, delay)
            getattr(self, f"_{self.state}")()
        if self.link is not None and time.monotonic() - self.asked > ASK_S:
            self.asked = time.monotonic()
            self.link.send(
                "QUERY"
            )  # what it does, and so that neither side takes a figure that stands still for silence

    def _send(self, which: list[int], ms: int) -> None:
        p, link = self.program, self.link
        if p is None or link is None:
            return
        for line in set_lines(ms, [(int(p.numbers[o]), self._pulse(o)) for o in which]):
            link.send(line)

    def _pulse(self, o: int) -> float:
        """A light goes out as 500 … 2500 µs for 0 … 100 %."""
        p = self.program
        return 500.0 + 2.0 * self.now[o] if p is not None and p.lights[o] else float(self.now[o])

    def _approaching(self) -> None:
        """One joint at a time, at 20 °/s; one whose place is not known is woken with sparse pulses for as long as its range takes."""
        p, link = self.program, self.link
        if p is None or link is None:
            return
        while self.turn < len(p.numbers) and p.lights[self.turn]:
            self.now[self.turn] = p.park[self.turn]
            self.known[self.turn] = True
            self._send([self.turn], 0)
            self.turn += 1
        if self.turn >= len(p.numbers):
            self.state = "ready"
            self.say("Every joint is at park.")
            return
        o = self.turn
        if not self.known[o]:
            if self.wait_until == 0.0:
                takes = p.whole(o) / APPROACH_DEG_PER_S
                self.wait_until = time.monotonic() + takes
                link.send(wake_line(round(takes * 1e3), int(p.numbers[o]), p.park[o]))
            elif time.monotonic() >= self.wait_until:
                self.now[o], self.known[o], self.wait_until = p.park[o], True, 0.0
            else:
                self._send([i for i in range(o) if self.known[i]], 20)
            return
        if self._step(o, p.park[o], APPROACH_DEG_PER_S):
            self.turn += 1
        self._send([i for i in range(o + 1) if self.known[i]], 20)

    def _step(self, o: int, to: float, deg_per_s: float) -> bool:
        """One frame's step towards a pulse; True when it is there."""
        p = self.program
        most = (deg_per_s * p.us_per_deg[o] if p is not None and not p.lights[o] else 1000.0) * FRAME_S
        by = min(max(to - self.now[o], -most), most)
        self.now[o] += by
        return bool(abs(to - self.now[o]) < 1e-6)

    def _playing(self) -> None:
        p = self.program
        if p is None:
            return
        if self.frame >= len(p.values):
            if not p.loops:
                self.state = "ready"
                self.say("The score is over; it stands at park.")
                return
            self.frame = 0
        self.now = p.values[self.frame].astype(float)
        self._send(list(range(len(p.numbers))), 20)
        self.frame += 1

    def _live(self) -> None:
        for o in range(len(self.now)):
            self._step(o, self.aim[o], LIVE_DEG_PER_S)
        self._send(list(range(len(self.now))), 20)

    def _homing(self) -> None:
        there = [self._step(o, self.aim[o], APPROACH_DEG_PER_S) for o in range(len(self.now))]
        self._send(list(range(len(self.now))), 20)
        if all(there):
            self.state = "ready"
            self.say("It is at park.")

    def _listen(self) -> None:
        if self.link is None:
            return
        for line in self.link.lines():
            if well(line):
                self.heard = time.monotonic()
                self.answers += 1
                if line.startswith("AT"):
                    self.reported = read_places(line)
                if line.startswith("NO"):
                    self.refused += 1
                    if self.refused <= 5:
                        self.say(f"The board refused: {line[3:80]}.")
            else:
                self.nonsense += 1
                if self.nonsense == 1:
                    self.say(f"The board answered nonsense, {line[:30]!r}; expected OK, NO or AT.")
                if self.nonsense >= BABBLE:
                    raise BoardTrouble(
                        f"The board has answered nonsense {self.nonsense} times and is not trusted any more."
                    )
        if time.monotonic() - self.heard > PATIENCE_S:
            raise BoardTrouble(f"The board has been silent for {PATIENCE_S:g} s.")

    def news(self) -> dict[str, Any]:
        """The state, where everything stands, and how the frames kept their time."""
        delays, self.delays = np.array(self.delays[-500:]) if self.delays else np.zeros(1), []
        places = {} if self.program is None else {int(n): round(float(v), 1) for n, v in zip(self.program.numbers, self.now, strict=True)}  # fmt: skip
        return {
            "state": self.state, "frame": self.frame, "sent": self.sent, "late": self.late, "answers": self.answers,
            "refused": self.refused, "nonsense": self.nonsense, "worst_ms": round(self.worst_late * 1e3, 2),
            "delays_ms": [round(d * 1e3, 3) for d in delays.tolist()] if self.sent else [], "places": places,
            "reported": self.reported, "quiet_ms": round((time.monotonic() - self.heard) * 1e3) if self.link else None,
        }  # fmt: skip
