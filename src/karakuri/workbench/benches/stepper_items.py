"""A stepper on its servo's card: windings, driver, how it finds where it stands, and what comes of that."""

from __future__ import annotations

from typing import get_args

from karakuri.model.drive import Drive, Stepper
from karakuri.model.edit import Edit, Set
from karakuri.model.labels import Label, labels_of
from karakuri.units import Quantity
from karakuri.values.fields import fields_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Head, Item, Note, Pick, Write

FINDS = {"switch": "by a switch at one end", "stop": "by running against a stop", "nothing": "not at all"}
FINDINGS = ("", "margin", "home", "heat")
HOW = (
    "Its label, or its maker’s sheet, says current, ohm and mH of a winding; a meter measures ohm. What it holds with is its torque above. No exported player tells a "
    "stepper its steps yet: its driver does."
)


def stepper_items(desk: Desk, drive: Drive, stepper: Stepper) -> list[Item]:
    """Its numbers, and what was found of it."""
    name = desk.figure.joint(drive.joint).name

    def put(field: str, value: object, words: str) -> None:
        path = ("drives", drive.id, "actuator", "stepper", field)
        desk.edit(Edit(f"{words} of {name}", (Set(path, value),), f"{drive.id} stepper {field}"))

    items: list[Item] = [Head("hst", "Stepper")]
    for end in FINDINGS:
        finding = desk.finding("steps", drive.joint, *([end] if end else []))
        if finding is not None:
            items += [
                Block(f"vst{end}", finding, desk.figure.assumptions.wished_margin),
                Note(f"nst{end}", finding.sentence.show(desk.units)),
            ]
            items += [Calc(f"st{end}{i}", d) for i, d in enumerate(finding.derivations)]
    for field, label in labels_of(Stepper).items():
        value = getattr(stepper, field)
        whole = field == "steps"

        def done(v: float, field: str = field, label: Label = label, whole: bool = whole) -> None:
            put(field, round(v / label.si) if whole else round(v / label.si, 5), label.words.lower())

        items.append(Write(f"st {field}", label.words, Quantity(value * label.si, label.kind), label.kind, done))
    micros = tuple((str(m), str(m)) for m in get_args(fields_of(Stepper)["micro"].kind))
    return [
        *items,
        Pick("micro", "Microsteps to a step", str(stepper.micro), micros, lambda key: put("micro", int(key), "microsteps")),
        Pick("finds", "Finds itself", FINDS[stepper.finds], tuple(FINDS.items()), lambda key: put("finds", key, "homing")),
        Note("how st", HOW),
    ]  # fmt: skip
