"""How long a slider takes to the wire: from the word to the sender until a board hears of it. A board of its own in this process, loopback TCP."""

from __future__ import annotations

import contextlib
import re
import socket
import threading
import time
from collections.abc import Iterator

import numpy as np

from karakuri.demo import owl_path
from karakuri.devices.client import SenderProcess
from karakuri.devices.prepare import program_of
from karakuri.files.disk import load


class Board:
    """Answers the line protocol and writes down when a SET had which pulse for output 0."""

    def __init__(self) -> None:
        self.server = socket.create_server(("127.0.0.1", 0))
        self.address = f"tcp:127.0.0.1:{self.server.getsockname()[1]}"
        self.heard: list[tuple[float, int]] = []
        self.places: dict[str, str] = {}
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        peer, _ = self.server.accept()
        peer.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        rest = b""
        while data := peer.recv(65536):
            *lines, rest = (rest + data).split(b"\n")
            for line in lines:
                now, text = time.perf_counter(), line.decode()
                pairs = re.findall(r"(\d+):(\d+)", text) if text.startswith(("SET", "WAKE")) else []
                self.places |= dict(pairs)
                self.heard += [(now, int(us)) for number, us in pairs if number == "0"]
                answer = "BOARD karakuri-line 1 OUTPUTS 16 RATE 50" if text == "ID" else " ".join(["AT", *(f"{n}:{us}" for n, us in self.places.items())]) if text == "QUERY" else "OK"  # fmt: skip
                with contextlib.suppress(OSError):  # the sender may have ended
                    peer.sendall(answer.encode() + b"\n")


PROMISE = "live slider to the stand-in within 40 ms, 99 of 100"


def measure(smoke: bool) -> Iterator[str]:
    count = 20 if smoke else 300
    program, board, state = program_of(load(owl_path())), Board(), [""]
    board.places = {str(n): str(round(p)) for n, p in zip(program.numbers.tolist(), program.park.tolist(), strict=True)}
    sender = SenderProcess(lambda report: state.__setitem__(0, report.get("state") or state[0]))
    sender.load(program)
    for do in ("connect", "power", "approach"):
        sender.tell(do, address=board.address)
        time.sleep(0.6)
    while state[0] != "ready":
        time.sleep(0.05)
    took, chance = [], np.random.default_rng(1)
    park = float(program.park[0])
    for k in range(count):
        time.sleep(float(chance.uniform(0.10, 0.16)))
        before, now = board.heard[-1][1] if board.heard else round(park), time.perf_counter()
        sender.tell("live", aim={"0": park + (40 if k % 2 else -40)})
        while not any(at > now and us != before for at, us in board.heard[-20:]):
            time.sleep(0.0005)
        took.append(next(at for at, us in board.heard[-20:] if at > now and us != before) - now)
    sender.close()
    ms = np.array(took) * 1e3
    yield f"slider to the wire, {count} times: median {np.median(ms):.1f} ms, 99 of 100 within {np.percentile(ms, 99):.1f} ms, longest {ms.max():.1f} ms"
