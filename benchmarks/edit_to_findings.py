"""From an edit in the window to the findings on its strip, each timed edit another part or pivot of the demo."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.timing import slowness, spread
from benchmarks.window import open_demo

PROMISE = "median at most 50 ms, 95 % at most 80 ms while dragging; settled within 0.5 s of letting go"


def measure(smoke: bool) -> Iterator[str]:
    for demo in ("owl", "walrus", "lamplighter"):
        yield from _of(demo, smoke)


def _moved(collection: str, item, turn: int):
    """A part or a pivot a little elsewhere, or the second end of what is strung."""
    from karakuri.model.edit import Set

    if collection == "elements":
        x, y, z = item.ends[1].at_mm
        end = type(item.ends[1])(rides_on=item.ends[1].rides_on, at_mm=(x + 1.0 + turn, y, z + 1.0))
        return Set((collection, item.id, "ends"), (item.ends[0], end))
    x, y, z = item.at_mm
    return Set((collection, item.id, "at_mm"), (x + 1.0 + turn, y, z + 1.0))


def _of(demo: str, smoke: bool) -> Iterator[str]:
    from karakuri.model.edit import Edit

    window, until = open_demo("figure", demo)
    desk = window.desk
    items = [("parts", part) for part in desk.figure.parts] + [("joints", joint) for joint in desk.figure.joints]
    items += [("elements", each) for each in desk.figure.elements if hasattr(each, "ends")]
    items = items[::12] if smoke else items
    dragging, settling, settled, shown, slow = [], [], [], [], []
    desk.hurried.connect(lambda: shown.append(time.perf_counter()))
    for turn in range(1 if smoke else 3):
        for collection, item in items:
            edit = Edit("move", (_moved(collection, item, turn),))
            slow.append(slowness())
            begin = time.perf_counter()
            shown.clear()
            desk.edit(edit, dragging=True)
            if not shown:
                until(lambda: desk.study.figure is desk.figure)
                window.strip.repaint()
                shown.append(time.perf_counter())
            dragging.append(shown[0] - begin)
            begin = time.perf_counter()
            desk.end_drag()
            until(lambda: desk.study.figure is desk.figure and desk.study.settled)
            settling.append(time.perf_counter() - begin)
            until(lambda: not desk.busy)
            settled.append(time.perf_counter() - begin)
    yield spread(f"{demo}: dragging, edit to findings on the strip", dragging, slow)
    yield spread(f"{demo}: let go to settled findings", settling, slow)
    yield spread(f"{demo}: let go to all remedies", settled, slow)
    desk.session.saved = desk.figure
    window.close()
