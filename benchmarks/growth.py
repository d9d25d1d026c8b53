"""How the study grows with joints and parts: cold, and after moving one part."""

from __future__ import annotations

from collections.abc import Iterator

from benchmarks.timing import timed

PROMISE = "a table, no bound"


def measure(smoke: bool) -> Iterator[str]:
    from tests.figures import part, random_figure

    from karakuri.catalogue import servo_class
    from karakuri.model.drive import Drive
    from karakuri.model.edit import Edit, Set, apply
    from karakuri.model.figure import Figure
    from karakuri.study.reuse import Reuse
    from karakuri.study.study import study

    yield "joints  parts  cold, ms  one part moved, ms"
    for joints, extra in (
        ((2, 0), (6, 20)) if smoke else ((1, 0), (2, 0), (4, 0), (8, 0), (12, 0), (16, 0), (8, 100), (8, 300))
    ):
        figure = random_figure(5, joints)
        more = tuple(part(f"x{i}", "j0", 5.0, (float(i % 20), float(i // 20), 50.0)) for i in range(extra))
        drives = tuple(Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_20")) for j in figure.joints)
        figure = Figure(**(dict(figure) | {"parts": (*figure.parts, *more), "drives": drives}))
        reuse = Reuse()
        cold = timed(lambda figure=figure, reuse=reuse: study(figure, reuse))
        moved = apply(figure, Edit("m", (Set(("parts", figure.parts[0].id, "at_mm"), (1.0, 2.0, 3.0)),)))
        warm = timed(lambda figure=moved, reuse=reuse: study(figure, reuse))
        yield f"{joints:6} {len(figure.parts):6} {cold * 1e3:9.0f} {warm * 1e3:19.0f}"
