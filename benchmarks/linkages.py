"""Joints through levers: how long until something is said while a part, or a hole, is dragged; how long the best holes and rod are looked for."""

from __future__ import annotations

from collections.abc import Iterator

from benchmarks.timing import slowness, spread, timed

PROMISE = (
    "edit to findings with mechanisms: median 50 ms, 95 % 80 ms; the best holes and rods of three joints within 5 s"
)
LEVERS = {
    "neck_tilt": (12.0, 25.0, 87.5, 63.5),
    "neck_roll": (12.0, 25.0, 100.0, 59.1),
    "beak": (10.0, 15.0, 57.0, 58.0),
}


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.demo import owl_path
    from karakuri.files.disk import load
    from karakuri.model.edit import Edit, Set, apply
    from karakuri.model.transmission import Ball, Lever
    from karakuri.study.reuse import Reuse
    from karakuri.study.seek import levers
    from karakuri.study.study import study

    figure = load(owl_path())
    for joint, (horn, arm, stands, rod) in LEVERS.items():
        drive = figure.drive_of(joint)
        assert drive is not None
        form = Lever(horn_mm=horn, lever_mm=arm, axes_mm=60.0, lever_deg=stands, rod_mm=rod)
        figure = apply(figure, Edit("lever", (Set(("drives", drive.id, "transmission"), form),)))
    reuse = Reuse()
    done = study(figure, reuse)
    skull = next(part for part in figure.parts if "skull" in part.name)
    drive = figure.drive_of("neck_tilt")
    assert drive is not None
    paths = {
        "a part dragged, three joints by levers": lambda k: Set(("parts", skull.id, "at_mm"), (skull.at_mm[0] + 0.31 * k, *skull.at_mm[1:])),
        "a hole dragged": lambda k: Set(("drives", drive.id, "transmission", "lever_mm"), 25.0 + 0.11 * k),
    }  # fmt: skip
    for name, step in paths.items():
        study(apply(figure, Edit("x", (step(1),))), reuse, quick=True)
        edited = [apply(figure, Edit("x", (step(k),))) for k in range(2, 4 if smoke else 40)]
        took = [(slowness(), timed(lambda e=each: study(e, reuse, quick=True))) for each in edited]
        yield spread(name, [t for _, t in took], [s for s, _ in took])
    some = list(LEVERS)[: 1 if smoke else 3]
    took = [(slowness(), timed(lambda j=joint: levers(done.results, j))) for joint in some]
    yield spread("best holes and rod of a joint", [t for _, t in took], [s for s, _ in took])
    tilt = figure.joint("neck_tilt")
    x, y, z = tilt.at_mm
    form = Ball(
        shaft_mm=(x - 60.0, y, z + 5.0), shaft_axis=tilt.axis, horn_to=(0.0, 0.0, 1.0), ball_mm=(x, y, z + 15.0)
    )
    balls = study(apply(figure, Edit("ball", (Set(("drives", drive.id, "transmission"), form),)))).results
    took = [(slowness(), timed(lambda: levers(balls, "neck_tilt"))) for _ in range(1 if smoke else 3)]
    yield spread("best horn and far ball of a joint", [t for _, t in took], [s for s, _ in took])
