"""A motor that turns on, on its card and large on the Drive bench: what sort, how it turns its joint, what it must give round the turn beside what it has."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from karakuri.catalogue import motors
from karakuri.checks.contract import TURNING
from karakuri.model.edit import Edit, Set
from karakuri.model.element import Motor
from karakuri.model.element_edits import crank_or
from karakuri.model.finding import show_reserve
from karakuri.model.labels import labels_of
from karakuri.sizing.turning import TurnFound, turns_of
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Item, Note, Pick, Sketch, Write

CAUTION = (
    "It turns on when hair, a scarf or a hand is in the way: a guard, a slipping hub or a weak enough motor, and somewhere to switch it off. Nothing that turns on a "
    "level shaft over people’s heads without a second hold."
)
MAINS = (
    "Mains: local electrical code and a licensed electrician. Fused, earthed or double insulated, out of the public’s reach; unplug it before a hand goes near. What "
    "Karakuri says of it is about torque alone."
)
SORTS = {"mains": "mains, synchronous", "geared": "geared, direct current", "servo": "a servo that turns on"}
WAYS = {"either": "either way", "plus": "one way, ahead", "minus": "one way, back"}
FIXED = {"set screw": "a set screw on round", "flat": "a set screw on a flat", "clamp": "a clamping hub"}
THROUGH = {
    "direct": "its own shaft",
    "gear": "two toothed wheels",
    "belt": "a belt or a cord",
    "lever": "a crank that rocks it",
}
FINDINGS = ("crank", "way", "time", "screw")
OF_MAINS = ("at_voltage_V", "gets_V")


def found_turning(desk: Desk, ident: str) -> TurnFound | None:
    """What the latest study found of a motor, or None."""
    if desk.study is None:
        return None
    ids = [element.id for element in desk.study.figure.elements]
    return next((each for each in desk.study.results[TURNING] or () if ids[each.i] == ident), None)


def motor_items(desk: Desk, motor: Motor) -> list[Item]:
    """All of it but its name, its main finding and what every element has."""

    def put(field: str, value: Any, words: str) -> None:
        desk.edit(Edit(f"{words} of {motor.name}", (Set(("elements", motor.id, field), value),), f"{motor.id} {field}"))

    ready = tuple((row["id"], row["name"]) for row in motors())
    items: list[Item] = [
        *((Note("nmains", MAINS, True),) if motor.sort == "mains" else ()),
        Pick("ready", "Take one of", "choose", ready, lambda key: desk.edit(_taken(motor, key))),
        Pick("sort", "Sort", SORTS[motor.sort], tuple(SORTS.items()), lambda key: put("sort", key, "sort")),
    ]
    for field, label in labels_of(Motor).items():
        if (field in OF_MAINS and motor.sort == "mains") or (field == "screw_mm" and motor.fixed == "clamp"):
            continue
        value = getattr(motor, field)
        items.append(Write(field, label.words, Quantity(value * label.si, label.kind), label.kind, lambda v, field=field, label=label: put(field, round(v / label.si, 6), label.words.lower())))  # fmt: skip
    if motor.sort == "mains":
        for field, words in (("label_Hz", "Its label is for"), ("mains_Hz", "The mains here")):
            items.append(Pick(field, words, f"{getattr(motor, field)} Hz", (("50", "50 Hz"), ("60", "60 Hz")), lambda key, field=field: put(field, int(key), "mains")))  # fmt: skip
    items += [
        Pick("fixed", "On its shaft by", FIXED[motor.fixed], tuple(FIXED.items()), lambda key: put("fixed", key, "hub")),
        Pick("way", "Turns", WAYS[motor.way], tuple(WAYS.items()), lambda key: put("way", key, "way")),
        *_pins(desk, motor, put),
        Pick("through", "Turns it by", THROUGH[motor.through.kind], tuple(THROUGH.items()), lambda key: put("through", crank_or(desk.figure, motor, key), "what lies between")),
        *_through(desk, motor),
    ]  # fmt: skip
    for end in FINDINGS:
        finding = desk.finding("turning", motor.id, end)
        if finding is not None:
            items += [
                Block(f"v{end}", finding, desk.figure.assumptions.wished_margin),
                Note(f"n{end}", finding.sentence.show(desk.units)),
            ]
            items += [Calc(f"{end}{i}", d) for i, d in enumerate(finding.derivations)]
    items.append(Sketch("turn", 130, lambda kit, x, y, w, h: draw_turn(kit, desk, motor, x, y, w, h)))
    return items


def _taken(motor: Motor, ident: str) -> Edit:
    """Another of the sorts there are, typical of its kind."""
    row = next(row for row in motors() if row["id"] == ident)
    fields = {name: value for name, value in row.items() if name not in ("id", "name")}
    if row["sort"] == "servo":
        fields |= {"at_voltage_V": 6.0, "gets_V": 6.0}
    steps = tuple(Set(("elements", motor.id, name), value) for name, value in (fields | {"origin": "typical"}).items())
    return Edit(f"{row['name']} for {motor.name}", steps)


def _pins(desk: Desk, motor: Motor, put: Callable[[str, Any, str], None]) -> list[Item]:
    if motor.through.kind == "lever":
        return []
    goes = (("round", "right round"), ("pins", "to and fro between pins"))
    joint = desk.figure.joint(motor.joint)
    items: list[Item] = [
        Pick(
            "pins",
            "Goes",
            dict(goes)["pins" if motor.pins_deg else "round"],
            goes,
            lambda key: put("pins_deg", tuple(joint.range_deg) if key == "pins" else None, "pins"),
        )
    ]
    if motor.pins_deg is None:
        return items

    def write(which: int) -> Item:
        def done(value: float) -> None:
            new = list(motor.pins_deg or joint.range_deg)
            new[which] = round(math.degrees(value), 3)
            put("pins_deg", tuple(new), "pins")

        return Write(
            f"pin {which}",
            f"Pin, {joint.ends[which]}",
            Quantity(math.radians((motor.pins_deg or joint.range_deg)[which]), "angle"),
            "angle",
            done,
        )

    return [*items, write(0), write(1)]


def _through(desk: Desk, motor: Motor) -> list[Item]:
    form = motor.through
    items: list[Item] = []
    for field, label in labels_of(type(form)).items():
        value = getattr(form, field)
        whole = isinstance(value, int)
        words = {"horn_mm": "Hole in the crank"}.get(field, label.words)

        def done(new: float, field: str = field, si: float = label.si, whole: bool = whole, words: str = words) -> None:
            value = round(new / si) if whole else round(new / si, 4)
            path = ("elements", motor.id, "through", field)
            desk.edit(Edit(f"{words.lower()} of {motor.name}", (Set(path, value),), f"{motor.id} {field}"))

        items.append(
            Write(
                f"t {field}",
                words,
                None if value is None else Quantity(value * label.si, label.kind),
                label.kind,
                done,
                "typical",
            )
        )
    return items


def draw_turn(kit: Kit, desk: Desk, motor: Motor, x: float, y: float, w: float, h: float) -> None:
    """What must be given round the turn, each way, and what there is: red where that is not enough."""
    u, found = kit.u, found_turning(desk, motor.id)
    if found is None or not found.closes.all():
        kit.text(x, y + u(20), "Waits until it turns its joint.", 12, 400, "ink2")
        return
    has = turns_of(motor, desk.figure.assumptions)
    curves = found.ways(motor.way)
    most = max(has.usable, *(float(each.max()) for each in curves)) * 1.12 or 1.0
    left, right, top, bottom = x + u(48), x + w - u(8), y + u(10), y + h - u(36)
    n = len(found.turned)

    def at(k: int, torque: float) -> tuple[float, float]:
        return left + (right - left) * k / (n - 1), bottom - (bottom - top) * torque / most

    for each in curves:
        for k in range(0, n - 1, 2):
            if each[k] > has.usable:
                kit.rect(at(k, 0.0)[0], top, (right - left) * 2 / (n - 1) + 0.5, bottom - top, "verm_t")
    kit.line(left, bottom, right, bottom, "rule")
    kit.line(left, top, left, bottom, "rule")
    for share in () if has.even else (has.passing, has.lasting):
        kit.line(*at(0, share * has.usable), *at(n - 1, share * has.usable), "ochre", 1.4, "dash")
    kit.line(*at(0, has.usable), *at(n - 1, has.usable), "moss", 1.6)
    for each, ink in zip(curves, ("indigo", "asagi"), strict=False):
        kit.polyline([at(k, float(each[k])) for k in range(0, n, 3)], ink, 1.8)
    kit.text(left - u(4), at(0, has.usable)[1], desk.show(Quantity(has.usable, "torque")), 11, 400, "moss", "r")
    finding = desk.finding("turning", motor.id)
    words = f"over {'a turn of the crank' if found.crank else 'one way' if found.fro else 'a turn'}; green: what it has"
    if finding is not None and finding.reserve is not None:
        words += f", {show_reserve(finding.reserve)} at the hardest"
    kit.text(x, bottom + u(12), kit.short(words, w, 11, 400), 11, 400, "ink2")
    more = (
        "red: not enough"
        if any(float(each.max()) > has.usable for each in curves)
        else "dashed: in passing, and for long"
        if not has.even
        else ""
    )
    kit.text(x, bottom + u(26), kit.short(more, w, 11, 400), 11, 400, "ink2")
