"""What the sender is told and what it makes of it: it joins, confirms, approaches, plays, follows the sliders, tries, stops, parks, loses. What it does in each frame
is in states/.

Frame k is due at start + k ÷ 50 on the monotonic clock; one that goes out more than 4 ms after that is counted as late.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from karakuri.devices.governor import FRAME_S, LIVE_DEG_PER_S, MOST_DEG_PER_S, Governor
from karakuri.devices.known import Known, Trial
from karakuri.devices.link import Link
from karakuri.devices.program import Program
from karakuri.devices.protocol import (
    SILENCE_S,
    BoardTrouble,
    Identity,
    limit_line,
    read_identity,
    read_input,
    read_places,
    release_line,
    set_line,
    wake_line,
    well,
)
from karakuri.devices.states import STEPS
from karakuri.devices.states.trying import LEAST_US, MOST_PACE, MOST_US, PACE_US_PER_S, WAKES_S

LATE_S, ASK_S, PATIENCE_S, UNSURE_S = 0.004, 0.15, 1.0, SILENCE_S * 0.8
BABBLE, GREETINGS = 8, 6
MOVING = tuple(STEPS)


class Sender(Known):
    """States: off (no board), joined (a board answers, its power not confirmed), confirmed, approaching, ready (standing still),
    gathering (going to where the score has it), playing, live, homing, trying (one output by itself), lost. Only `tick` touches the board, and every
    pulse goes through the governor, but those of one output that is tried by itself, which has limits and a pace of its own. `clock` and `open_link` are for tests."""

    # ---- commands
    def obey(self, command: dict[str, Any]) -> None:
        """Carry out one command; what can't be done now is told as a sentence."""
        do = command.get("do")
        try:
            action = getattr(self, f"_do_{do}", None)
            if action is None:
                self.say(f"The sender was asked for '{do}', which it does not know.")
            else:
                action(command)
        except BoardTrouble as trouble:
            self._lose(str(trouble))

    def _do_load(self, command: dict[str, Any]) -> None:
        program: Program = command["program"]
        same = self.program is not None and np.array_equal(self.program.numbers, program.numbers)
        self.program, self.governor = program, Governor(program)
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
        self.link = link = self.open_link(self.address)
        identity = self._greet(link)
        if self.program is not None and np.any(self.program.numbers >= identity.outputs):
            self._hang_up()
            raise BoardTrouble(
                f"The board has {identity.outputs} outputs, the figure wants number {int(self.program.numbers.max())}. "
                "Number the outputs anew, or take a larger board."
            )
        self.outputs = identity.outputs
        self._limits(wait=True)
        self.heard = self.clock()
        self._where()
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
                    self.tell(line)
                    continue
                answer = self.link.ask(line)
                if answer != "OK":
                    raise BoardTrouble(f"The board was told a limit, '{line}'; expected OK, found {answer[:60]!r}.")

    def _where(self) -> None:
        if self.link is None or self.program is None:
            return
        places = self._asked_where(self.link)
        p = self.program
        for o, number in enumerate(p.numbers.tolist()):
            low, high = sorted((p.low[o], p.high[o]))
            claimed = places.get(number)
            # A place beyond its limits is not believed, and never sent back: such a joint is woken like one that is not known.
            self.known[o] = bool(p.lights[o]) or (claimed is not None and low - 1 <= claimed <= high + 1)
            if claimed is not None and self.known[o] and not p.lights[o]:
                self.now[o] = min(max(claimed, low), high)

    def _asked_where(self, link: Link) -> dict[int, float]:
        """Where the board says it stands, µs by output; that it answered is that it is there, however long nobody had listened."""
        places = read_places(link.ask("QUERY"))
        self.heard = self.clock()
        return places

    def _do_power(self, command: dict[str, Any]) -> None:
        if self.state == "joined":
            self.state = "confirmed"
            self.say("Power confirmed.")

    def _do_approach(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in (
            "confirmed",
            "ready",
            "live",
            "homing",
            "playing",
            "gathering",
            "trying",
        ):
            self.say("Before anything moves, confirm that the board is powered and everybody is clear.")
            return
        self._end_trial()
        self.turn, self.wait_until, self.aim = 0, 0.0, self.program.park.astype(float)
        self.still()
        self._begin("approaching")

    def _do_play(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in ("ready", "live"):
            self.say("It plays once every joint has been brought to park.")
            return
        self.frame = min(max(0, int(command.get("frame", 0))), max(0, len(self.program.values) - 1))
        self._begin("gathering")

    def _do_live(self, command: dict[str, Any]) -> None:
        if self.program is None or self.state not in ("ready", "live", "playing", "homing", "gathering"):
            self.say("The sliders drive it once every joint has been brought to park.")
            return
        self.told_at = self.clock()
        self.live_pace = min(max(float(command.get("pace", LIVE_DEG_PER_S)), 1.0), MOST_DEG_PER_S)
        for number, us in command["aim"].items():
            for o in np.flatnonzero(self.program.numbers == int(number)).tolist():
                low, high = sorted((self.program.low[o], self.program.high[o]))
                self.aim[o] = min(max(float(us), low), high) if math.isfinite(float(us)) else self.now[o]
        if self.state != "live":
            others = {int(n) for n in command["aim"]}
            for o, number in enumerate(self.program.numbers.tolist()):
                if number not in others:
                    self.aim[o] = self.program.park[o] if self.program.runs[o] else self.now[o]
            self._begin("live")

    def _do_try(self, command: dict[str, Any]) -> None:
        """One output by itself to a pulse, µs, at a pace, µs/s: before a figure exists, or outward beyond its soft limits to where it grinds."""
        number, us = int(command["output"]), float(command["us"])
        pace = min(max(float(command.get("pace", PACE_US_PER_S)), 1.0), MOST_PACE)
        if self.state not in ("confirmed", "ready", "live", "trying") or self.link is None:
            self.say(
                "Before an output is tried, confirm that the board is powered and everybody is clear; what moves is stopped first."
            )
            return
        if not 0 <= number < self.outputs or not LEAST_US <= us <= MOST_US:
            self.say(
                f"An output from 0 to {self.outputs - 1} and a pulse from {LEAST_US:.0f} to {MOST_US:.0f} µs can be tried."
            )
            return
        if self.state != "trying" or self.trial.number != number:
            self._end_trial()
            self.tell(limit_line(number, LEAST_US, MOST_US, 1500.0))
            which = [] if self.program is None else np.flatnonzero(self.program.numbers == number).tolist()
            there = bool(which) and bool(self.known[which[0]])
            self.trial = Trial(number, float(self.now[which[0]]) if there else us, pace)
            if not there:  # nobody knows where it stands: it is woken with sparse pulses, and creeps
                self.trial.woken_until = self.clock() + WAKES_S
                self.tell(wake_line(round(WAKES_S * 1e3), number, us))
        self.trial.aim, self.trial.pace = us, pace
        if self.state != "trying":
            self._begin("trying")
            self.say(f"Output {number} is tried by itself.")

    def _end_trial(self) -> None:
        """Its limits are those of the figure again, and it is not known any more to stand within them."""
        self._still_on_trial()
        number, self.trial = self.trial.number, Trial()
        if number < 0 or self.program is None:
            return
        for o in np.flatnonzero(self.program.numbers == number).tolist():
            self.known[o] = False
        self._limits()

    def _still_on_trial(self) -> None:
        """Where the output that is tried is known to run something, that stands still, at once."""
        p = self.program
        if p is None:
            return
        for o in np.flatnonzero(p.runs & (p.numbers == self.trial.number)).tolist():
            self.trial.aim = self.trial.now = float(p.park[o])
            self.tell(set_line(0, [(self.trial.number, self.trial.now)]))

    def _do_release(self, command: dict[str, Any]) -> None:
        """No more pulses for the output that is tried."""
        if self.state == "trying":
            self.tell(release_line(self.trial.number))
            number = self.trial.number
            self._end_trial()
            self.state = "confirmed"
            self.say(f"Output {number} gets no more pulses.")

    def _do_stop(self, command: dict[str, Any]) -> None:
        self.still()  # in every state: a board may have been left running
        if self.state == "trying":  # it holds where it is; what it was tried for goes on from there
            if self.clock() < self.trial.woken_until:
                self.tell(release_line(self.trial.number))  # it creeps on its own: no more pulses
                self._end_trial()
                self.state = "confirmed"
                self.say("Stopped while it was creeping: it gets no more pulses.")
                return
            self.trial.aim = self.trial.now
            self._still_on_trial()
            self.say(f"Output {self.trial.number} stopped at {self.trial.now:.0f} µs.")
            return
        if self.state in MOVING:
            unfinished = self.state == "approaching"
            self.aim = self.now.copy()
            if self.link is not None and self.program is not None:
                self.send([o for o in range(len(self.now)) if self.known[o]], 0)
                if unfinished and self.turn < len(self.known) and not self.known[self.turn]:
                    self.tell(
                        release_line(int(self.program.numbers[self.turn]))
                    )  # it creeps on its own: no more pulses
            self.state = "confirmed" if unfinished else "ready"
            self.say(
                "Stopped. It stands where it is."
                + (" What runs stands still." if self.program is not None and np.any(self.program.runs) else "")
            )

    def _do_park(self, command: dict[str, Any]) -> None:
        if self.program is not None and self.state in ("ready", "live", "playing", "gathering"):
            self.aim = self.program.park.astype(float)
            self._begin("homing")

    def _do_say(self, command: dict[str, Any]) -> None:
        line = str(command["line"])
        if self.link is not None and line.split(" ")[0] in (
            "FAULT",
            "QUERY",
            "PRESS",
        ):  # nothing that moves goes round the governor
            self.tell(line)

    def _do_leave(self, command: dict[str, Any]) -> None:
        if self.link is None or self.state in ("off", "lost"):
            self._hang_up()
            self.say("No board was joined.")
            return
        self._still_on_trial()
        self.still()
        self.tell("PARK")
        self._hang_up()
        self.say("The board was let go, and told to park.")

    def _begin(self, state: str) -> None:
        self.state = state
        self.due = self.clock() + FRAME_S

    def _hang_up(self) -> None:
        if self.link is not None:
            self.link.close()
        self.link, self.state = None, "off"
        self.known = np.zeros(len(self.now), dtype=bool)

    def _lose(self, text: str) -> None:
        """The board is gone, or never was there: only one that was joined parks by itself."""
        joined = self.state not in ("off", "lost")
        self._hang_up()
        self.state = "lost"
        parks = f" The board parks by itself after {SILENCE_S:g} s of silence. Connect again once it is back."
        self.say(text + (parks if joined else ""), bad=True)

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
        delay = self.clock() - self.due
        if self.clock() - self.spoken > UNSURE_S and self.state != "joined":
            self._look_again()
        if self.state in MOVING:
            self.sent += 1
            self.delays.append(delay)
            if delay > LATE_S:
                self.late += 1
            self.worst_late = max(self.worst_late, delay)
            STEPS[self.state](self)
        if self.link is not None and self.clock() - self.asked > ASK_S:
            self.asked = self.clock()
            self.tell("QUERY")  # what it does, and so that neither side takes a figure that stands still for silence

    def _look_again(self) -> None:
        """Nothing was said for so long that the board may have begun to park: ask where it stands before anything is sent."""
        known = self.known.copy()
        self._where()
        self.known &= (
            known  # one that was still being woken creeps on: that it has pulses does not mean that it is there
        )
        self.spoken = self.clock()
        if self.state == "trying" and self.link is not None:
            stands = self._asked_where(self.link).get(self.trial.number)
            if stands is None or not LEAST_US <= stands <= MOST_US:
                self._end_trial()
                self.state = "confirmed"
                self.say("The board does not say any more where the output stands that was tried.")
            else:
                self.trial.now = self.trial.aim = stands  # it may have begun to park by itself: on from there, not back
        if self.state == "playing":
            self.state = "gathering"
        if bool(np.any(known & ~self.known)) and self.state != "approaching":
            self.state = "confirmed"
            self.say("The board does not say any more where it stands: bring every joint to park again.")

    def _listen(self) -> None:
        if self.link is None:
            return
        for line in self.link.lines():
            event = read_input(line)
            if event is not None:
                self.heard = self.clock()
                self.report({"input": list(event)})
            elif well(line):
                self.heard = self.clock()
                self.answers += 1
                if line.startswith("AT"):
                    self.reported = read_places(line)
                if line.startswith("NO"):
                    self.refused += 1
                    if self.refused <= 5:
                        self.say(f"The board refused: {line[3:80]}.", bad=True)
            else:
                self.nonsense += 1
                if self.nonsense == 1:
                    self.say(f"The board answered nonsense, {line[:30]!r}; expected OK, NO or AT.", bad=True)
                if self.nonsense >= BABBLE:
                    raise BoardTrouble(
                        f"The board has answered nonsense {self.nonsense} times and is not trusted any more."
                    )
        if self.clock() - self.heard > PATIENCE_S:
            raise BoardTrouble(f"The board has been silent for {PATIENCE_S:g} s.")

    def news(self) -> dict[str, Any]:
        """The state, where everything stands, and how the frames kept their time."""
        delays, self.delays = np.array(self.delays[-500:]) if self.delays else np.zeros(1), []
        places = {} if self.program is None else {int(n): round(float(v), 1) for n, v in zip(self.program.numbers, self.now, strict=True)}  # fmt: skip
        return {
            "state": self.state, "frame": self.frame, "sent": self.sent, "late": self.late, "answers": self.answers,
            "refused": self.refused, "nonsense": self.nonsense, "worst_ms": round(self.worst_late * 1e3, 2),
            "delays_ms": [round(d * 1e3, 3) for d in delays.tolist()] if self.sent else [], "places": places,
            "outputs": self.outputs, "trial": [self.trial.number, round(self.trial.now, 1)] if self.state == "trying" else None,
            "hurried": self.hurried, "reported": self.reported, "quiet_ms": round((self.clock() - self.heard) * 1e3) if self.link else None,
        }  # fmt: skip
