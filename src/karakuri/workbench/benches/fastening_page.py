"""The card of what holds something on: how, what it carries, where its face is, and the gap that would do."""

from __future__ import annotations

from karakuri.checks.contract import FASTENED
from karakuri.checks.fastenings import gap_for
from karakuri.model.edit import Edit, Remove
from karakuri.model.edits import set_field, set_one_of
from karakuri.model.fastening import FACES, Fastened, MagnetFace
from karakuri.model.fastening_edits import fasten, held_by
from karakuri.model.labels import labels_of
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm, rename
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Pick, Sketch, Write, WriteText

CAUTION = (
    "Magnets pinch and chip, and disturb pacemakers: keep them away from chests and from small children, who swallow them. What may fall on "
    "somebody wants a second hold besides."
)
KINDS = {"magnets": "magnets", "hook and loop": "hook and loop", "elastic": "elastic"}
ONTO = {"magnet": "another magnet", "thick steel": "thick steel", "thin steel": "a screw head or thin sheet"}
GRADES = ("N35", "N38", "N42", "N45", "N48", "N52")
WAYS = {
    (0.0, 0.0, 1.0): "up",
    (0.0, 0.0, -1.0): "down",
    (1.0, 0.0, 0.0): "forward",
    (-1.0, 0.0, 0.0): "back",
    (0.0, 1.0, 0.0): "to its left",
    (0.0, -1.0, 0.0): "to its right",
}


def fastening_page(desk: Desk, ident: str) -> Page:
    it = _fresh(desk, ident)
    finding = desk.finding("fastened", ident)

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "fastenings", ident, (field,), value, words))

    items: list[Item] = [Block("v", finding, desk.figure.assumptions.wished_margin)]
    if finding is not None:
        items += [
            Note("nv", finding.sentence.show(desk.units)),
            *(Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)),
        ]
    thrown = desk.finding("sheds", ident)
    if thrown is not None:
        items += [
            Block("vs", thrown, desk.figure.assumptions.wished_margin),
            Note("ns0", thrown.sentence.show(desk.units)),
        ]
    items += [
        WriteText("name", "Name", it.name, lambda text: rename(desk, "fastenings", ident, text)),
        Pick("kind", "Held by", KINDS[it.kind], tuple(KINDS.items()), lambda key: desk.edit(lambda: held_by(_fresh(desk, ident), key))),  # type: ignore[attr-defined]
        Write("count", "How many", Quantity(it.count, "count"), "count", lambda v: put("count", max(1, round(v)), "number")),
    ]  # fmt: skip
    if isinstance(it, MagnetFace):
        items += [
            Pick("grade", "Grade", it.grade, tuple((g, g) for g in GRADES), lambda key: put("grade", key, "grade")),
            Pick("on", "Hold on to", ONTO[it.on], tuple(ONTO.items()), lambda key: put("on", key, "what they hold on to")),
        ]  # fmt: skip
    for field, label in labels_of(FACES[it.kind]).items():  # type: ignore[attr-defined]
        items.append(Write(field, label.words, Quantity(getattr(it, field) * label.si, label.kind), label.kind, lambda v, field=field, label=label: put(field, round(v / label.si, 6), label.words.lower())))  # fmt: skip
    items += _gap(desk, it)
    items.append(Sketch("face", 84, face_sketch))
    items += _carried(desk, it, put)
    names = {"base": "the base"} | {joint.id: joint.name for joint in desk.figure.joints}
    way = WAYS.get(it.off, "aslant")
    items += [
        Head("hp", "Where its face is"),
        Pick("rides", "Held on", names[it.rides_on], tuple(names.items()), lambda key: put("rides_on", key, "what it is held on")),
        Pick("off", "Comes off", way, tuple((words, words) for words in WAYS.values()), lambda key: put("off", next(d for d, words in WAYS.items() if words == key), "which way it comes off")),
    ]  # fmt: skip
    for which, words in ((0, "Ahead"), (2, "Above"), (1, "To its left")):
        items.append(Write(f"at{which}", words, mm(it.at_mm[which]), "length", lambda v, which=which: desk.edit(lambda: set_one_of(desk.figure, "fastenings", ident, "at_mm", which, round(v * 1e3, 3), "place"))))  # fmt: skip
    items += [
        Head("ha", "Actions"),
        Do("remove", f"Remove {it.name}", lambda: desk.edit(Edit(f"remove {it.name}", (Remove("fastenings", ident),)))),
        Head("hc", "Caution"),
        Note("nc", CAUTION, True),
        Note("ns", "What magnets hold sideways, a fifth of their pull, is common practice, no source; grades and hook and loop from memory of makers’ tables."),
    ]  # fmt: skip
    return Page(it.name, f"held by {KINDS[it.kind]}", tuple(items), ("fastening", ident))  # type: ignore[attr-defined]


def _gap(desk: Desk, it: Fastened) -> list[Item]:
    """The gap that would do, for a builder with washers."""
    study = desk.study
    if not isinstance(it, MagnetFace) or study is None or study.results.figure is not desk.figure:
        return []
    found = next((f for f in study.results[FASTENED] or () if desk.figure.fastenings[f.i].id == it.id), None)
    if found is None:
        return []
    gap = gap_for(it, found.reserve, desk.figure.assumptions.wished_margin)
    if gap is None:
        return [Note("ngap", "No gap will do: larger discs, more of them, or farther apart.")]
    return [Note("ngap", f"It would just do with a gap of {desk.show(Quantity(gap / 1e3, 'length'))}: so much may lie between, as washers, nuts, skin or paint.")]  # fmt: skip


def _carried(desk: Desk, it: Fastened, put) -> list[Item]:
    things = {joint.id: f"{joint.name} and all on it" for joint in desk.figure.joints} | {part.id: part.name for part in desk.figure.parts}  # fmt: skip
    items: list[Item] = [Head("hl", "What it holds")]
    for ident in it.carries:
        left = tuple(each for each in it.carries if each != ident)
        items.append(Do(f"c {ident}", f"Not {things[ident]}", lambda left=left: put("carries", left, "what it holds")))
    more = tuple((key, words) for key, words in things.items() if key not in it.carries)
    if more:
        items.append(Pick("carries", "Holds also", "choose", more, lambda key: put("carries", (*it.carries, key), "what it holds")))  # fmt: skip
    return items


def add_fastening_items(desk: Desk) -> list[Item]:
    """What holds something on, and one more for the part in hand."""
    subject = desk.subject
    items: list[Item] = [Head("hfast", "Held on by magnets, hook and loop, elastic")]
    items += [
        Do(f"f{each.id}", each.name, lambda each=each: desk.select(Ref("fastening", each.id)))
        for each in desk.figure.fastenings
    ]
    if not desk.figure.fastenings:
        words = "Nothing yet. What you need of it: how wide and thick the discs are, how many, what lies between."
        items += [Note("nfast", words), Sketch("face0", 84, face_sketch)]
    part = next((p for p in desk.figure.parts if subject.kind == "part" and p.id == subject.id), None)
    if part is not None:

        def add() -> None:
            if desk.edit(lambda: fasten(desk.figure, part.id)):
                desk.select(Ref("fastening", desk.figure.fastenings[-1].id))

        items.append(Do("add fastening", f"Hold {part.name} by magnets", add))
    else:
        items.append(Note("nfast2", "Take a part in hand to hold it on."))
    return items


def _fresh(desk: Desk, ident: str) -> Fastened:
    return next(each for each in desk.figure.fastenings if each.id == ident)


def face_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """What to measure: discs, the gap between, how far apart the outermost are, and which way it comes off."""
    u = kit.u
    left, right, middle = x + u(60), x + u(170), y + u(46)
    kit.rect(left - u(22), middle - u(26), right - left + u(44), u(16), "card", "ink", 1.2)
    kit.rect(left - u(22), middle + u(10), right - left + u(44), u(16), "card", "ink", 1.2)
    for cx in (left, right):
        kit.rect(cx - u(10), middle - u(10), u(20), u(7), "brass_f", "ink", 1)
        kit.rect(cx - u(10), middle + u(3), u(20), u(7), "brass_f", "ink", 1)
    kit.line(left, middle + u(33), right, middle + u(33), "ink2", 1)
    kit.text((left + right) / 2, middle + u(33), "apart", 11, 400, "ink2", "c", "paper")
    kit.text(right + u(28), middle, "gap", 11, 400, "ink2")
    kit.line((left + right) / 2, middle - u(28), (left + right) / 2, y + u(2), "indigo", 1.4)
    kit.text((left + right) / 2 + u(6), y + u(7), "comes off", 11, 400, "indigo")
