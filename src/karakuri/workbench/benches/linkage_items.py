"""What lies between a servo and its joint, on the servo's card."""

from __future__ import annotations

from karakuri.bodies.linkages import shares
from karakuri.bodies.linkages.belt import length_mm
from karakuri.bodies.linkages.lever import rod_m
from karakuri.catalogue import stuff_of
from karakuri.model.drive import Drive
from karakuri.model.finding import show_reserve
from karakuri.model.labels import Label, labels_of
from karakuri.model.rod import STUFFS
from karakuri.model.transmission import Ball, Belt, Bevel, Gear, Lever
from karakuri.model.transmission_edits import WORDS, set_holes, set_number
from karakuri.sizing.finder import arm_mm, rod_mm
from karakuri.units import Quantity, digits
from karakuri.values.fields import fields_of
from karakuri.workbench.benches.ball_items import ball_items, bevel_items, turn_by, ways_to_turn
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Item, Note, Pick, Write, WriteText

FINDINGS = (("", "vl"), ("crosses", "vlc"), ("rod", "vlr"), ("mesh", "vlm"), ("shaft", "vls"), ("support", "vlp"))
SHARED = "bevel"
HOW = {
    "gear": "Count teeth. A module of 1 means 20 teeth on 20 mm; printed wheels play by 0.1 to 0.3 mm where they meet.",
    "belt": "Measure across the belt’s middle, and from shaft to pivot. A toothed one does not slip; its tooth pitch is printed on it.",
    "lever": "Measure from the middle of the shaft to the hole, hole to hole along the rod, and from shaft to pivot.",
    "ball": "Measure from the datum, ahead, above and to its left, with every joint at 0: the middle of the horn on its shaft, and the far ball.",
    "bevel": "Count teeth. Both servos’ wheels have the same; the wheel between may be another.",
}


def linkage_items(desk: Desk, joint_id: str, drive: Drive) -> list[Item]:
    """The kind; what was found of it; its numbers; itself to scale."""
    form = drive.transmission

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_number(desk.figure, drive.id, field, value, words))

    items: list[Item] = [
        Head("hx", "What turns the joint"),
        Pick("through", "Turned by", WORDS[form.kind].split(",")[0] if form.kind == SHARED else WORDS[form.kind], _ways(desk, joint_id), lambda key: turn_by(desk, joint_id, drive, key)),
    ]  # fmt: skip
    if form.kind == "direct":
        return items
    for rule, end, key in (
        *(("linkage", end, key) for end, key in FINDINGS),
        ("strain", "rod", "vsr"),
        ("strain", "shaft", "vss"),
    ):
        finding = desk.finding(rule, joint_id, *([end] if end else []))
        if finding is not None:
            items += [Block(key, finding, desk.figure.assumptions.wished_margin), Note(f"n{key}", finding.sentence.show(desk.units))]  # fmt: skip
            items += [Calc(f"{key}{i}", d) for i, d in enumerate(finding.derivations)]
    items += _numbers(form, put)
    if isinstance(form, Ball):
        items += [
            *ball_items(desk, drive, form, put),
            *_of_rod(desk, drive, form, put, ("horn_holes_mm", "Horn holes, mm")),
        ]
    if isinstance(form, Bevel):
        items += bevel_items(desk, drive, form, put)
    if isinstance(form, Lever):
        items += _of_lever(desk, drive, form, put)
    if isinstance(form, Lever) or (isinstance(form, Ball) and shares(desk.figure, drive) == (joint_id,)):
        items += _sought(desk, joint_id)
    return [*items, Note("nx", HOW[form.kind])]


def _ways(desk: Desk, joint_id: str) -> tuple[tuple[str, str], ...]:
    """What may turn a joint: by itself, and together with another that has a servo."""
    return (*((kind, words) for kind, words in WORDS.items() if kind != SHARED), *ways_to_turn(desk, joint_id))


def _numbers(form: Gear | Belt | Lever | Ball | Bevel, put) -> list[Item]:
    items: list[Item] = []
    for field, label in labels_of(type(form)).items():
        if isinstance(form, Ball) and field == "rod_mm":  # with the ball's place
            continue
        value = getattr(form, field)
        whole = isinstance(value, int)
        if field == "rod_mm" and value is None:
            value = rod_m(form) * 1e3
        quantity = None if value is None else Quantity(value * label.si, label.kind)
        optional = fields_of(type(form))[field].default is None

        def done(v: float, field: str = field, label: Label = label, whole: bool = whole) -> None:
            put(field, round(v / label.si) if whole else round(v / label.si, 4), label.words.lower())

        def emptied(field: str = field, label: Label = label) -> None:
            put(field, None, label.words.lower())

        unset = {"room_mm": "not said", "rod_mm": "as the lever stands"}.get(field, "typical")
        items.append(
            Write(field, label.words, quantity, label.kind, done, unset, emptied=emptied if optional else None)
        )
    comes = None if form.efficiency is None else Quantity(form.efficiency, "percent")
    words = "what comes through"
    items.append(
        Write(
            "efficiency", "Of a torque comes through", comes, "percent", lambda v: put("efficiency", round(v, 4), words), "typical",
            emptied=lambda: put("efficiency", None, words),
        )
    )  # fmt: skip
    if isinstance(form, Gear):
        ways = (("opposite", "the other way"), ("same", "the same way"))
        items.append(Pick("way", "Joint turns", dict(ways)[form.turns], ways, lambda key: put("turns", key, "way")))
    elif isinstance(form, Belt | Lever):
        crosses = (("", "no"), ("yes", "yes"))
        words = "It crosses over" if isinstance(form, Belt) else "Horn and lever on different sides"
        items.append(Pick("crossed", words, "yes" if form.crossed else "no", crosses, lambda key: put("crossed", bool(key), "crossing")))  # fmt: skip
    if isinstance(form, Belt):
        items.append(Fact("belt long", "Belt, all round", digits(length_mm(form), 1), "mm", "at the distance written"))
    return items


def solved_items(desk: Desk, joint_id: str) -> list[Item]:
    """Class of servo and what lies between looked for together; a press fits both."""
    seeker, sought = desk.seeker, ("solved", joint_id)
    if seeker.under_way is not None:
        _, what, share = seeker.under_way
        return [] if seeker.under_way[0] != sought else [Fact("solving", "Looking", f"{share:.0%}", "", what), Do("solve stop", "Stop looking", seeker.stop)]  # fmt: skip
    items: list[Item] = [Do("solve", "Solve this joint: class and ratio", lambda: seeker.seek_solved(joint_id))]
    if not seeker.sought(sought):
        return items
    if seeker.stale():
        items.append(Note("solved before", "Found before the figure changed; look again to be sure."))
    items.append(Note("solved", "The cheapest first, then the lightest: what it leaves of holding or moving, the smaller. What lies between is for the room there is."))  # fmt: skip
    for k, each in enumerate(seeker.found(sought) or ()):
        words = f"{each.servo.name.split(',')[0]}, {_short(desk, each.form)}: {show_reserve(each.reserve)}"
        items.append(Do(f"solved {k}", words, lambda each=each: seeker.put_in(joint_id, each)))
    return items


def _short(desk: Desk, form) -> str:
    if isinstance(form, Gear):
        return f"{form.driver} to {form.driven} teeth"
    return f"horn {form.horn_mm:g}, lever {form.lever_mm:g}" if isinstance(form, Lever) else "direct"


def _sought(desk: Desk, joint_id: str) -> list[Item]:
    """Looking for the best holes and rod, how far that is, and what was found: a press puts it in."""
    seeker = desk.seeker
    if seeker.under_way is not None:
        _, what, share = seeker.under_way
        return [Fact("seeking", "Looking", f"{share:.0%}", "", what), Do("seek stop", "Stop looking", seeker.stop)]
    items: list[Item] = [Do("seek", "Find the best holes and rod", lambda: seeker.seek_levers(joint_id))]
    if not seeker.sought(("levers", joint_id)):
        return items
    found = seeker.found(("levers", joint_id))
    if not found:
        return [*items, Note("none found", "None would do: a lever farther from the servo, other holes, or a narrower range.")]  # fmt: skip
    if seeker.stale():
        items.append(Note("sought before", "Found before the figure changed; look again to be sure."))
    items.append(
        Note(
            "sought",
            "Hole in the horn, from the pivot to the far end of the rod, rod: what that leaves of holding or moving, the smaller.",
        )
    )
    joint = desk.figure.joint(joint_id)
    for k, each in enumerate(found):
        horn, arm, rod = (desk.show(mm(v)) for v in (each.form.horn_mm, arm_mm(each.form, joint), rod_mm(each.form)))
        words = f"{horn}, {arm}, {rod}: {show_reserve(each.reserve)}"
        items.append(Do(f"sought {k}", words, lambda each=each: seeker.take(joint_id, each)))
    return items


def _of_lever(desk: Desk, drive: Drive, form: Lever, put) -> list[Item]:
    items: list[Item] = []
    if form.rod_mm is not None and not form.crossed:
        free = (("", "as written"), ("free", "such that the horn stands as the lever does"))
        items.append(Pick("rod free", "Rod length", "as written", free, lambda key: put("rod_mm", None, "rod") if key else None))  # fmt: skip
    return [
        *items,
        *_of_rod(desk, drive, form, put, ("horn_holes_mm", "Horn holes, mm"), ("lever_holes_mm", "Lever holes, mm")),
    ]


def _of_rod(desk: Desk, drive: Drive, form: Lever | Ball, put, *rows: tuple[str, str]) -> list[Item]:
    """What the rod is of, which holes there are, and which is in use."""
    stuffs = tuple((kind, str(stuff_of(kind)["name"])) for kind in STUFFS)
    items: list[Item] = [Pick("stuff", "Rod of", str(stuff_of(form.stuff)["name"]), stuffs, lambda key: put("stuff", key, "stuff of the rod"))]  # fmt: skip
    for field, words in rows:
        holes = getattr(form, field)
        text = " ".join(f"{hole:g}" for hole in holes)
        items.append(
            WriteText(
                field,
                words,
                text,
                lambda text, field=field: desk.edit(lambda: set_holes(desk.figure, drive.id, field, text)),
            )
        )
        where = "horn_mm" if field.startswith("horn") else "lever_mm"
        if holes:
            now = getattr(form, where)
            options = tuple((f"{hole:g}", f"hole {k + 1}, {desk.show(mm(hole))}") for k, hole in enumerate(holes))
            name = dict(options).get(f"{now:g}", desk.show(mm(now)))
            items.append(Pick(f"use {where}", "In use", name, options, lambda key, where=where: put(where, float(key), "hole")))  # fmt: skip
    return items
