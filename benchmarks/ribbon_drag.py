"""From a bead dragged in the window to the findings on its strip, on the demo; each step another move."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.timing import slowness, spread
from benchmarks.window import open_demo

PROMISE = "95 % at most 80 ms"


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.model.score_edits import change_move

    window, until = open_demo("score")
    desk = window.desk
    took, slow = [], []
    for turn in range(1 if smoke else 3):
        for channel in desk.figure.score.moved:
            for k in range(0, len(channel.moves), 8 if smoke else 2):
                now = desk.figure.score.channel(channel.id)
                edit, _ = change_move(now, min(k, len(now.moves) - 1), "arrival", takes=0.3 + 0.05 * turn + 0.01 * k)
                slow.append(slowness())
                begin = time.perf_counter()
                desk.edit(edit, dragging=True)
                if desk.study.figure is not desk.figure:
                    until(lambda: desk.study.figure is desk.figure)
                window.strip.repaint()
                window.benches["score"].ribbons.repaint()
                took.append(time.perf_counter() - begin)
    desk.end_drag()
    until(lambda: not desk.busy)
    yield spread("ribbon drag to findings and ribbons painted", took, slow)
    desk.session.saved = desk.figure
    window.close()
