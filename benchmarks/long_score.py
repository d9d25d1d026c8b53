"""64 ribbons over an hour, 20 000 moves: painting while dragging and scrolling, one edit's validation, and saving."""

from __future__ import annotations

import random
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.timing import spread, timed

PROMISE = "drag and scroll at least 40 a second (25 ms), save at most 0.5 s off the interface, an edit validated in at most 10 ms"


def long_figure(channels: int, length_s: float, moves: int):
    """A row of nodding sticks, each with its own moves; seeded."""
    from karakuri.catalogue import servo_class
    from karakuri.model.channel import JointChannel
    from karakuri.model.drive import Drive
    from karakuri.model.figure import Figure
    from karakuri.model.joint import Joint
    from karakuri.model.moves import Row, moves_of
    from karakuri.model.part import Part
    from karakuri.model.score import Score

    chance = random.Random(5)
    joints = tuple(Joint(id=f"j{i}", name=f"joint {i}", at_mm=(0.0, 10.0 * i, 100.0)) for i in range(channels))
    parts = tuple(Part(id=f"p{i}", name=f"stick {i}", rides_on=f"j{i}", mass_g=40.0, at_mm=(0.0, 10.0 * i, 130.0), mass_origin="weighed") for i in range(channels))  # fmt: skip
    drives = tuple(Drive(id=f"d{i}", joint=f"j{i}", actuator=servo_class("class_10")) for i in range(channels))
    step = length_s / moves
    made = tuple(
        JointChannel(id=f"c{i}", name=f"joint {i}", joints=(f"j{i}",),
                moves=moves_of([Row(round(k * step + 0.1, 3), round(step * chance.uniform(0.3, 0.8), 3), float(chance.randint(-28, 28))) for k in range(moves)]))
        for i in range(channels)
    )  # fmt: skip
    return Figure(
        name="long", joints=joints, parts=parts, drives=drives, scores=(Score(length_s=length_s, channels=made),)
    )


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.model.edit import apply
    from karakuri.model.score_edits import change_move
    from karakuri.session.session import Session
    from karakuri.workbench.start import application
    from karakuri.workbench.window import Window

    app = application([])
    figure = long_figure(8 if smoke else 64, 600.0 if smoke else 3600.0, 50 if smoke else 313)
    window = Window(Session(figure))
    window.show()
    window.desk.turn_to("score")
    for _ in range(5):
        app.processEvents()
    begin = time.perf_counter()
    while (window.desk.busy or not window.desk.study.settled) and time.perf_counter() < begin + 400:
        app.processEvents()
        time.sleep(0.01)
    yield f"first study with all remedies, in its worker: {time.perf_counter() - begin:.0f} s"
    ribbons = window.benches["score"].ribbons
    turns = 5 if smoke else 60
    for words, (t0, t1) in (("whole", (0.0, figure.score.length_s)), ("half a minute", (100.0, 130.0))):
        ribbons.show_span(t0, t1)
        scrolling, dragging = [], []
        for k in range(turns):
            ribbons.scroll_by(ribbons.row_tall() * (1 if k % 2 else -1))
            ribbons.show_span(ribbons.t0 + 0.05, ribbons.t1 + 0.05)
            scrolling.append(timed(ribbons.repaint))
        channel = ribbons.rows()[0][0]
        for k in range(turns):
            now = window.desk.figure.score.channel(channel.id)
            begin = time.perf_counter()
            window.desk.edit(change_move(now, 20, "arrival", takes=1.0 + 0.01 * k)[0], dragging=True)
            ribbons.repaint()
            dragging.append(time.perf_counter() - begin)
        yield spread(f"scroll, {words}", scrolling)
        yield spread(f"drag, {words}", dragging)
    channel = window.desk.figure.score.moved[0]
    yield spread("one edit, applied and validated", [timed(lambda k=k: apply(window.desk.figure, change_move(channel, 3, "arrival", takes=1.0 + k / 100)[0])) for k in range(turns)])  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        session = window.desk.session
        yield spread("save", [timed(lambda: session.save(Path(folder) / "long.karakuri")) for _ in range(2 if smoke else 5)])  # fmt: skip
    window.desk.close()
    window.desk.session.saved = window.desk.figure
    window.close()
