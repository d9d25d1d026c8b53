"""A stand-in for a servo board, of 16 outputs unless told otherwise, as a process of its own: loopback TCP or a pseudo-terminal.

`python -m karakuri.devices.standins.board [--pty] [--outputs N]` writes 'ADDRESS …' and then answers the line protocol. Servos behind it follow at
600 °/s. Faults on request, a line of its own that no real board has: FAULT dies | mute | babbles | late | none; PRESS pin level.
It ends when its standard input closes.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import pty
import random
import select
import socket
import sys
import time
import tty
from dataclasses import dataclass

from karakuri.devices.protocol import LEAST_US, LONGEST, MOST_US, NAME, SILENCE_S, VERSION, read_input

OUTPUTS, FRAME_S, LATE_S, DEAD_S, PARK_MS = 16, 0.02, 0.3, 2.0, 2000
FAULTS = ("dies", "mute", "babbles", "late", "none")


@dataclass
class Channel:
    """One output: pulses in µs; `left` frames until `aim`; `wake` frames of sparse pulses still to come."""

    on: bool = False
    now: float = 1500.0
    aim: float = 1500.0
    left: int = 0
    wake: int = 0
    low: float = LEAST_US
    high: float = MOST_US
    park: float = 1500.0


class Board:
    """What the firmware does, in Python; `answer` takes a line and gives one."""

    def __init__(self, outputs: int = OUTPUTS) -> None:
        self.channels = [Channel() for _ in range(outputs)]
        self.fault = "none"
        self.events: list[str] = []
        self.quiet_since = time.monotonic()
        self.parked = True
        self.lines = 0

    def frame(self) -> None:
        """20 ms pass."""
        if not self.parked and time.monotonic() - self.quiet_since > SILENCE_S:
            self.park()
        for c in self.channels:
            c.wake = max(0, c.wake - 1)
            if c.left > 0:
                c.now += (c.aim - c.now) / c.left
                c.left -= 1

    def park(self) -> None:
        for c in self.channels:
            if c.on:
                self._aim(c, c.park, PARK_MS)
        self.parked = True

    def _aim(self, c: Channel, us: float, ms: int) -> None:
        c.aim = min(max(us, c.low), c.high)
        c.left = round(ms / 20) if c.on else 0
        if c.left == 0:
            c.now = c.aim
        c.on = True

    def answer(self, line: str) -> str:
        """The answer to one command."""
        self.lines += 1
        self.quiet_since = time.monotonic()
        word, _, rest = line.partition(" ")
        if len(line) > LONGEST:
            return f"NO a line has at most {LONGEST} letters"
        known = {"ID": self._id, "SET": self._set, "WAKE": self._wake, "LIMIT": self._limit, "QUERY": self._query,
                 "RELEASE": self._release, "PARK": self._park, "FAULT": self._fault, "PRESS": self._press}  # fmt: skip
        if word not in known:
            return "NO unknown command"
        return known[word](rest)

    def _id(self, rest: str) -> str:
        return f"BOARD {NAME} {VERSION} OUTPUTS {len(self.channels)} RATE 50"

    def _pairs(self, words: list[str]) -> list[tuple[int, int]] | None:
        out = []
        for word in words:
            a, _, b = word.partition(":")
            if not (a.isdigit() and b.isdigit()) or int(a) >= len(self.channels) or not LEAST_US <= int(b) <= MOST_US:
                return None
            out.append((int(a), int(b)))
        return out

    def _set(self, rest: str) -> str:
        words = rest.split()
        if not words or not words[0].isdigit() or int(words[0]) > 60000:
            return "NO SET wants a time in ms from 0 to 60000"
        pairs = self._pairs(words[1:])
        if pairs is None:
            return f"NO SET wants output:us, an output it has and a pulse from {LEAST_US} to {MOST_US} us"
        for output, us in pairs:
            self._aim(self.channels[output], us, int(words[0]))
        self.parked = False
        return "OK"

    def _wake(self, rest: str) -> str:
        words = rest.split()
        pairs = self._pairs(words[1:])
        if len(words) != 2 or not words[0].isdigit() or not pairs:
            return "NO WAKE wants a time in ms and output:us"
        c = self.channels[pairs[0][0]]
        c.on, c.wake, c.left = True, round(int(words[0]) / 20), 0
        c.now = c.aim = min(max(float(pairs[0][1]), c.low), c.high)
        self.parked = False
        return "OK"

    def _limit(self, rest: str) -> str:
        values = rest.split(":")
        if len(values) != 4 or not all(v.isdigit() for v in values):
            return "NO LIMIT wants output:low:high:park"
        output, low, high, park = map(int, values)
        if output >= len(self.channels) or not LEAST_US <= low <= park <= high <= MOST_US:
            return f"NO LIMIT wants an output it has and {LEAST_US} <= low <= park <= high <= {MOST_US}"
        c = self.channels[output]
        c.low, c.high, c.park = low, high, park
        return "OK"

    def _query(self, rest: str) -> str:
        return " ".join(["AT", *(f"{i}:{round(c.now)}" for i, c in enumerate(self.channels) if c.on)])

    def _release(self, rest: str) -> str:
        if rest == "ALL":
            which = list(range(len(self.channels)))
        elif rest.isdigit() and int(rest) < len(self.channels):
            which = [int(rest)]
        else:
            return "NO RELEASE wants an output it has, or ALL"
        for output in which:
            self.channels[output].on = False
        return "OK"

    def _park(self, rest: str) -> str:
        self.park()
        return "OK"

    def _press(self, rest: str) -> str:
        """An input is at another level: said of itself, as a board would."""
        if read_input(f"IN {rest}") is None:
            return "NO PRESS wants a pin and a level from 0 to 100, or a pulse such as 1500us"
        self.events.append(f"IN {rest.strip()}")
        return "OK"

    def _fault(self, rest: str) -> str:
        if rest not in FAULTS:
            return "NO FAULT is one of " + ", ".join(FAULTS)
        self.fault = rest
        return "OK"


class Wire:
    """One place to be reached at: a listening socket, or the master side of a pseudo-terminal."""

    def __init__(self, terminal: bool) -> None:
        self.server: socket.socket | None = None
        self.peer: socket.socket | int | None = None
        self.rest = b""
        if terminal:
            master, slave = pty.openpty()
            tty.setraw(master)
            self.slave, self.peer = slave, master
            self.address = os.ttyname(slave)
        else:
            self.server = socket.create_server(("127.0.0.1", 0))
            self.address = f"tcp:127.0.0.1:{self.server.getsockname()[1]}"

    def wait(self, seconds: float) -> list[str]:
        """Lines that came; a caller who is not here yet is let in."""
        watched = [x for x in (self.server, self.peer, sys.stdin) if x is not None]
        ready, _, _ = select.select(watched, [], [], max(0.0, seconds))
        if sys.stdin in ready and not sys.stdin.readline():
            raise SystemExit(0)
        if self.server is not None and self.server in ready:
            self.hang_up()
            self.peer, _ = self.server.accept()
            self.peer.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        if self.peer is not None and self.peer in ready:
            try:
                data = os.read(self._fd(), 65536)
            except OSError:
                data = b""
            if not data:
                self.hang_up()
            *lines, self.rest = (self.rest + data).split(b"\n")
            return [line.decode("ascii", "replace").strip("\r") for line in lines if line.strip()]
        return []

    def _fd(self) -> int:
        return self.peer if isinstance(self.peer, int) else self.peer.fileno() if self.peer is not None else -1

    def send(self, line: str) -> None:
        with contextlib.suppress(OSError):
            os.write(self._fd(), line.encode("ascii") + b"\n")

    def hang_up(self) -> None:
        if isinstance(self.peer, socket.socket):
            self.peer.close()
            self.peer = None
        self.rest = b""


def serve(wire: Wire, board: Board) -> None:
    """Answer until the standard input closes."""
    due, later = time.monotonic() + FRAME_S, list[tuple[float, str]]()
    while True:
        for line in wire.wait(due - time.monotonic()):
            reply = board.answer(line)
            if board.fault == "dies":
                wire.hang_up()
                time.sleep(DEAD_S)
                board.__init__()  # type: ignore[misc]
                later.clear()
                break
            if board.fault == "mute":
                continue
            if board.fault == "babbles":
                reply = "".join(random.choices("#@qzx~ ", k=12))
            if board.fault == "late":
                later.append((time.monotonic() + LATE_S, reply))
            else:
                wire.send(reply)
        for event in board.events:
            wire.send(event)
        board.events.clear()
        now = time.monotonic()
        while later and later[0][0] <= now:
            wire.send(later.pop(0)[1])
        if now >= due:
            board.frame()
            due = max(due + FRAME_S, now - FRAME_S)


def main(arguments: list[str] | None = None) -> int:
    """Say the address, then serve."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pty", action="store_true", help="a pseudo-terminal instead of loopback TCP")
    parser.add_argument("--outputs", type=int, default=OUTPUTS, help="how many it has")
    asked = parser.parse_args(arguments)
    wire = Wire(asked.pty)
    sys.stdout.write(f"ADDRESS {wire.address}\n")
    sys.stdout.flush()
    serve(wire, Board(asked.outputs))
    return 0


if __name__ == "__main__":
    sys.exit(main())
