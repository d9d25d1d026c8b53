"""Random hands on the demo's window, with its study in the process beside it: how long each act holds the window up, and memory."""

from __future__ import annotations

import os
import random
import time
from collections.abc import Iterator

from benchmarks.window import open_demo

PROMISE = "no act holds the window up for over 0.25 s; memory level (KARAKURI_LONG_USE_S seconds, 120 if not said)"
STALL_S, BEGIN_AGAIN = 0.25, 400


def measure(smoke: bool) -> Iterator[str]:
    from PyQt6.QtCore import QCoreApplication, QEvent, QTimer
    from PyQt6.QtWidgets import QApplication
    from tests.ui.random_hands import act, closed

    window, _ = open_demo("figure")
    waits = QTimer(interval=20)  # a question or a menu waits for a hand
    waits.timeout.connect(closed)
    waits.start()
    chance = random.Random(int(os.environ.get("KARAKURI_LONG_USE_SEED", "1")))
    seconds = 4.0 if smoke else float(os.environ.get("KARAKURI_LONG_USE_S", "120"))
    took: list[float] = []
    slow: list[str] = []
    memory: list[float] = []
    begin = time.perf_counter()
    while time.perf_counter() - begin < seconds:
        before = time.perf_counter()
        what = act(window, chance)
        QApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        took.append(time.perf_counter() - before)
        if took[-1] > STALL_S:
            slow.append(f"{took[-1]:.2f} s at {before - begin:.0f} s: {what}, {window.desk.bench}")
        if len(took) % BEGIN_AGAIN == 0:
            memory.append(_rss())
        time.sleep(0.02)
    order = sorted(took)
    yield f"{len(took)} acts, longest {order[-1]:.2f} s, 99 % within {order[int(0.99 * len(order))] * 1e3:.0f} ms, over {STALL_S} s: {len(slow)}"
    yield from slow
    if memory:
        yield f"memory, MB, each {BEGIN_AGAIN} acts: " + " ".join(f"{m:.0f}" for m in memory)
    window.desk.session.saved = window.desk.figure
    window.close()


def _rss() -> float:
    with open("/proc/self/status") as told:
        return int(next(line for line in told if line.startswith("VmRSS")).split()[1]) / 1024
