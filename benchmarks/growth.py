"""How the study grows with joints, parts and elements between them: cold, and after moving one part."""

from __future__ import annotations

from collections.abc import Iterator

from benchmarks.timing import timed

PROMISE = "a table, no bound"


def measure(smoke: bool) -> Iterator[str]:
    from tests.figures import part, random_elements, random_figure

    from karakuri.catalogue import servo_class
    from karakuri.model.drive import Drive
    from karakuri.model.edit import Edit, Set, apply
    from karakuri.model.figure import Figure
    from karakuri.study.reuse import Reuse
    from karakuri.study.study import study

    yield "joints  parts  elements  cold, ms  one part moved, ms"
    plain = ((1, 0, 0), (2, 0, 0), (4, 0, 0), (8, 0, 0), (12, 0, 0), (16, 0, 0), (8, 100, 0), (8, 300, 0))
    strung = ((2, 0, 1), (4, 0, 2), (4, 0, 4), (8, 0, 2), (8, 0, 4))
    for joints, extra, between in ((2, 0, 0), (4, 0, 1)) if smoke else plain + strung:
        figure = random_figure(5, joints)
        if between:
            figure = random_elements(figure, 5, ("spring", "torsion", "elastic"), between)
        more = tuple(part(f"x{i}", "j0", 5.0, (float(i % 20), float(i // 20), 50.0)) for i in range(extra))
        drives = tuple(Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_20")) for j in figure.joints)
        figure = Figure(**(dict(figure) | {"parts": (*figure.parts, *more), "drives": drives}))
        reuse = Reuse()
        cold = timed(lambda figure=figure, reuse=reuse: study(figure, reuse))
        moved = apply(figure, Edit("m", (Set(("parts", figure.parts[0].id, "at_mm"), (1.0, 2.0, 3.0)),)))
        warm = timed(lambda figure=moved, reuse=reuse: study(figure, reuse))
        yield f"{joints:6} {len(figure.parts):6} {between:9} {cold * 1e3:9.0f} {warm * 1e3:19.0f}"
