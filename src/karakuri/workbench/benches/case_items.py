"""How a servo's case lies, on its card: so that it can be looked at for room."""

from __future__ import annotations

from karakuri.catalogue import case_mm
from karakuri.model.drive import Case, Drive
from karakuri.model.edits import set_case
from karakuri.model.transmission import Ball
from karakuri.workbench.benches.ball_items import WAYS
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Head, Item, Note, Pick, Write

UNSAID = "not said"
SIZES = ("Case, long", "wide", "high")


def case_items(desk: Desk, drive: Drive) -> list[Item]:
    """Where its case goes from its shaft, where its shaft points, and how large it is."""
    figure, case = desk.figure, drive.case
    axis = drive.transmission.shaft_axis if isinstance(drive.transmission, Ball) else figure.joint(drive.joint).axis
    along = max(range(3), key=lambda k: abs(axis[k]))
    across = {name: way for name, way in WAYS.items() if way[along] == 0}
    plus = next(name for name, way in WAYS.items() if way[along] * axis[along] > 0)
    minus = next(name for name, way in WAYS.items() if way[along] * axis[along] < 0)
    now = next((name for name, way in across.items() if case is not None and case.to == way), UNSAID if case is None else "as written")  # fmt: skip

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_case(desk.figure, drive.id, field, value, words))

    options = (("", UNSAID), *((name, name) for name in across))
    items: list[Item] = [
        Head("hcase", "Its case, for room"),
        Pick(
            "case to",
            "From its shaft it goes",
            now,
            options,
            lambda key: put("to", across.get(key), "how the case lies"),
        ),
    ]
    if case is None:
        return items
    points = (("plus", plus), ("minus", minus))
    items.append(Pick("case shaft", "Its shaft points", dict(points)[case.shaft], points, lambda key: put("shaft", key, "which way the shaft points")))  # fmt: skip
    return items + _sizes(drive, case, put)


def _sizes(drive: Drive, case: Case, put) -> list[Item]:
    sizes = case.size_mm or case_mm(drive.actuator.mass_g, drive.actuator.stepper is not None)
    out: list[Item] = []
    for k, words in enumerate(SIZES):

        def done(value: float, k: int = k) -> None:
            put("size_mm", tuple(round(value * 1e3, 3) if i == k else each for i, each in enumerate(sizes)), "size of the case")  # fmt: skip

        out.append(Write(f"case {k}", words, mm(sizes[k]), "length", done))
    if case.size_mm is None:
        out.append(Note("case guess", "As cases of that weight usually are, from memory: write your own. Without ears and shaft."))  # fmt: skip
    return out
