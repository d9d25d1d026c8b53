"""How the sender keeps 50 frames a second: alone, and while the window's process edits and studies as fast as it can."""

from __future__ import annotations

import queue
import time
from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

PROMISE = "99 % of the frames within 4 ms; beside it a bare loop that only sleeps and looks at the clock, at the same time on the same machine"


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.demo import owl_path
    from karakuri.devices.client import SenderProcess
    from karakuri.devices.prepare import program_of
    from karakuri.devices.standins.process import StandIn
    from karakuri.files.disk import load
    from karakuri.model.edit import apply
    from karakuri.model.score_edits import change_move
    from karakuri.study.study import study

    owl = load(owl_path())
    reports: queue.SimpleQueue = queue.SimpleQueue()
    sender, board = SenderProcess(reports.put), StandIn()
    program = program_of(owl)
    fast = replace(program, us_per_deg=np.full(len(program.numbers), 1e6))
    sender.load(fast)
    sender.tell("connect", address=board.address)
    sender.tell("power")
    sender.tell("approach")
    seconds = 2 if smoke else 20
    try:
        while reports.get(timeout=20).get("state") != "ready":
            pass
        sender.tell("play")
        for name in ("alone", "beside edits and studies"):
            delays: list[float] = []
            bare: list[float] = []
            end, k = time.monotonic() + seconds, 0
            due = time.monotonic()
            while time.monotonic() < end:
                if name == "alone":
                    due += 0.02
                    time.sleep(max(0.0, due - time.monotonic()))
                    bare.append((time.monotonic() - due) * 1e3)
                else:
                    k += 1
                    channel = owl.score.moved[k % 6]
                    edited = apply(owl, change_move(channel, 1, "arrival", takes=0.4 + k % 50 / 100)[0])
                    study(edited)
                    sender.load(replace(program_of(edited), us_per_deg=fast.us_per_deg))
                while not reports.empty():
                    delays += reports.get().get("delays_ms", [])
            yield _line(f"sender, {name}", delays)
            if bare:
                yield _line("a bare loop", bare)
    finally:
        sender.close()
        board.close()


def _line(name: str, delays: list[float]) -> str:
    d = np.array(delays or [0.0])
    return (
        f"{name}: {len(d)} frames, late by more than 4 ms {100 * np.mean(d > 4):.2f} %, median {np.median(d):.2f} ms, "
        f"99 % {np.percentile(d, 99):.2f} ms, largest {d.max():.1f} ms"
    )
