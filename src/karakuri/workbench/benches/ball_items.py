"""What lies between a servo and its joint in space, on the servo's card: where the shaft is and points, the horn, the far ball, and what each is fixed to."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from karakuri.bodies.linkages.ball import rod_m
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.part import BASE
from karakuri.model.transmission import Ball, Bevel
from karakuri.model.transmission_edits import may_share, set_bevel, set_pair, set_transmission
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Head, Item, Note, Pick, Write

Put = Callable[[str, Any, str], None]
WAYS = {
    "ahead": (1.0, 0.0, 0.0),
    "back": (-1.0, 0.0, 0.0),
    "to its left": (0.0, 1.0, 0.0),
    "to its right": (0.0, -1.0, 0.0),
    "up": (0.0, 0.0, 1.0),
    "down": (0.0, 0.0, -1.0),
}
COORDINATES = ((0, "ahead"), (2, "above"), (1, "to its left"))


def ways_to_turn(desk: Desk, joint_id: str) -> tuple[tuple[str, str], ...]:
    """What could turn a joint together with another servo: a key and its words for each."""
    others = may_share(desk.figure, joint_id)
    pairs = ((f"pair {other.id}", f"two rods, with the servo of {other.name}") for other in others)
    wheels = ((f"bevel {other.id}", f"bevel wheels, with the servo of {other.name}") for other in others)
    return (*pairs, *wheels)


def turn_by(desk: Desk, joint_id: str, drive: Drive, key: str) -> None:
    """Put between a joint and its servo what a key of the choice means."""
    kind, _, other = key.partition(" ")
    if kind == "pair":
        desk.edit(lambda: set_pair(desk.figure, joint_id, other))
    elif other:
        desk.edit(lambda: set_bevel(desk.figure, joint_id, other))
    else:
        desk.edit(lambda: set_transmission(desk.figure, drive.id, kind))


def fixed_items(desk: Desk, drive: Drive) -> list[Item]:
    """What the servo's body is fixed to."""
    names = _names(desk)
    on = desk.figure.mounted_on(drive)

    def put(key: str) -> None:
        desk.edit(
            Edit(
                f"servo of {desk.figure.joint(drive.joint).name} fixed elsewhere",
                (Set(("drives", drive.id, "rides_on"), key),),
            )
        )

    return [Pick("servo on", "Servo fixed to", names[on], tuple(names.items()), put)]


def ball_items(desk: Desk, drive: Drive, form: Ball, put: Put) -> list[Item]:
    """Places and directions of shaft, horn and ball."""
    names = _names(desk)
    on = form.ball_on or drive.joint
    return [
        *fixed_items(desk, drive),
        Head("hshaft", "Middle of the horn, on the shaft"),
        *_place(form, "shaft_mm", put, "shaft"),
        _way(form, "shaft_axis", "Shaft points", put),
        _way(form, "horn_to", "Horn points", put),
        Head("hball", "Far ball, with every joint at 0"),
        Pick("ball on", "Screwed to", names[on], tuple(names.items()), lambda key: put("ball_on", key, "what the ball is screwed to")),
        *_place(form, "ball_mm", put, "ball"),
        Write("rod_mm", "Rod, ball to ball", Quantity(rod_m(form), "length"), "length", lambda v: put("rod_mm", round(v * 1e3, 3), "rod")),
        *_free(form, put),
    ]  # fmt: skip


def bevel_items(desk: Desk, drive: Drive, form: Bevel, put: Put) -> list[Item]:
    """With whose servo, and which way."""
    figure = desk.figure
    ways = (("same", "goes the same way"), ("opposite", "goes the other way"))
    return [
        *fixed_items(desk, drive),
        Note("bevel", f"Two servos share these wheels: this one and that of {figure.joint(form.partner).name}. Both alike turn what carries the wheel between; both against each other turn that."),
        Pick("turns", "Wheel between", dict(ways)[form.turns], ways, lambda key: put("turns", key, "way")),
    ]  # fmt: skip


def _names(desk: Desk) -> dict[str, str]:
    return {BASE: "the base"} | {joint.id: f"what {joint.name} carries" for joint in desk.figure.joints}


def _place(form: Ball, field: str, put: Put, words: str) -> list[Item]:
    at = getattr(form, field)

    def write(which: int, label: str) -> Item:
        def done(value: float) -> None:
            new = list(at)
            new[which] = round(value * 1e3, 3)
            put(field, tuple(new), words)

        return Write(f"{field} {'xyz'[which]}", f"{words.capitalize()}, {label}", mm(at[which]), "length", done)

    return [write(which, label) for which, label in COORDINATES]


def _way(form: Ball, field: str, words: str, put: Put) -> Item:
    """One of six ways, or as it is written, which stays until another is chosen."""
    way = getattr(form, field)
    size = math.hypot(*way)
    unit = tuple(v / size for v in way)
    known = next((name for name, each in WAYS.items() if math.dist(each, unit) < 1e-6), "")
    written = ", ".join(f"{v:.2f}" for v in unit)
    options = tuple((name, name) for name in WAYS)
    return Pick(field, words, known or f"along {written}", options, lambda key: put(field, WAYS[key], words.lower()))


def _free(form: Ball, put: Put) -> list[Item]:
    if form.rod_mm is None:
        return [
            Note("rod free", "The rod is as long as the horn, standing as written, needs it. Write what you measure.")
        ]
    free = (("", "as written"), ("free", "such that the horn stands as written"))
    return [Pick("rod free", "Rod length", "as written", free, lambda key: put("rod_mm", None, "rod") if key else None)]
