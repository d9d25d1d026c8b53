"""What the sender and all its states know of a board and its outputs, and the one place pulses leave by."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from karakuri.devices.governor import LIVE_DEG_PER_S, Governor
from karakuri.devices.link import Link
from karakuri.devices.program import Program
from karakuri.devices.protocol import set_lines


class Known:
    """`now` (o,) µs or per mille, where each output of the program was last sent; `known` (o,) whether it really stands there; `aim` (o,) where it is
    wanted; `frame` of the score, `turn` which output is approached, `told_at` when somebody last said where the sliders are. `state` is the id of what it does; beside it how frames kept their time and what the board
    answered."""

    def __init__(
        self,
        report: Callable[[dict[str, Any]], None],
        clock: Callable[[], float] = time.monotonic,
        open_link: Callable[[str], Link] = Link,
    ) -> None:
        self.report, self.clock, self.open_link = report, clock, open_link
        self.state = "off"
        self.link: Link | None = None
        self.address, self.outputs = "", 0
        self.program: Program | None = None
        self.governor: Governor | None = None
        self.now: NDArray[np.float64] = np.zeros(0)
        self.known: NDArray[np.bool_] = np.zeros(0, dtype=bool)
        self.aim: NDArray[np.float64] = np.zeros(0)
        self.frame, self.due, self.spoken = 0, self.clock(), self.clock()
        self.turn, self.wait_until = 0, 0.0
        self.trial = Trial()
        self.live_pace = LIVE_DEG_PER_S
        self.told_at = self.clock()
        self.sent = self.late = self.answers = self.refused = self.nonsense = 0
        self.worst_late = 0.0
        self.delays: list[float] = []
        self.heard = self.asked = 0.0
        self.reported: dict[int, float] = {}
        self.hurried = True

    def say(self, text: str, bad: bool = False) -> None:
        """Tell what happened; `bad` where something went wrong."""
        self.report({"say": text, "bad": bad, "state": self.state})

    def tell(self, line: str) -> None:
        """One line to the board, and when that was."""
        if self.link is not None:
            self.link.send(line)
            self.spoken = self.clock()

    def send(self, which: list[int], ms: int) -> None:
        """Pulses of the program's outputs leave here; what is sent lies within the limits."""
        p = self.program
        if p is None or self.governor is None:
            return
        self.now = self.governor.inside(self.now)
        for line in set_lines(ms, [(int(p.numbers[o]), self._pulse(o)) for o in which]):
            self.tell(line)

    def still(self) -> None:
        """What runs is told to stand still, at once."""
        p = self.program
        if p is not None and np.any(p.runs):
            self.now, self.aim = np.where(p.runs, p.park, self.now), np.where(p.runs, p.park, self.aim)
            self.send(np.flatnonzero(p.runs).tolist(), 0)

    def _pulse(self, o: int) -> float:
        """A light goes out as 500 … 2500 µs for 0 … 100 %."""
        p = self.program
        return 500.0 + 2.0 * self.now[o] if p is not None and p.lights[o] else float(self.now[o])


class Trial:
    """One output that is tried by itself: its number, where it was last sent and where it is wanted, µs, at what pace, µs/s, and until when it is woken, s."""

    def __init__(self, number: int = -1, now: float = 1500.0, pace: float = 0.0) -> None:
        self.number, self.now, self.aim, self.pace, self.woken_until = number, now, now, pace, 0.0
