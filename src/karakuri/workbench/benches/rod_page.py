"""The card of a rod: what it is, how it is held, what it carries, and what comes of that."""

from __future__ import annotations

from karakuri.catalogue import stuff_of
from karakuri.model.edit import Edit, Remove
from karakuri.model.edits import set_field
from karakuri.model.labels import labels_of
from karakuri.model.ref import Ref
from karakuri.model.rod import HELD, STUFFS, Rod
from karakuri.model.rod_edits import add_rod, set_end
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm, rename
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Pick, Sketch, Write, WriteText

CAUTION = "A rod that carries something over people’s heads, or that somebody leans on, wants a second hold and a qualified eye."
ENDS = ("Its foot", "Its tip")


def rod_page(desk: Desk, ident: str) -> Page:
    rod = _fresh(desk, ident)
    finding = desk.finding("rods", ident)

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "rods", ident, (field,), value, words))

    def number(field: str) -> Item:
        label = labels_of(Rod)[field]
        quantity = Quantity(getattr(rod, field) * label.si, label.kind)
        words = "Bearings apart" if field == "depth_mm" and rod.held == "two bearings" else label.words
        return Write(field, words, quantity, label.kind, lambda v: put(field, round(v / label.si, 6), words.lower()))

    stuffs = tuple((kind, str(stuff_of(kind)["name"])) for kind in STUFFS)
    items: list[Item] = [Block("v", finding, desk.figure.assumptions.wished_margin)]
    if finding is not None:
        items.append(Note("nv", finding.sentence.show(desk.units)))
    thrown = desk.finding("whips", ident)
    if thrown is not None:
        items += [
            Block("vw", thrown, desk.figure.assumptions.wished_margin),
            Note("nw", thrown.sentence.show(desk.units)),
            *(Calc(f"w{i}", d) for i, d in enumerate(thrown.derivations)),
        ]
    items += [
        WriteText("name", "Name", rod.name, lambda text: rename(desk, "rods", ident, text)),
        Pick("stuff", "Of", str(stuff_of(rod.stuff)["name"]), stuffs, lambda key: put("stuff", key, "stuff")),
        number("thick_mm"),
        number("bore_mm"),
        number("sleeve_mm"),
        *(() if not rod.sleeve_mm else (Pick("sleeve", "Sleeve of", str(stuff_of(rod.sleeve_stuff)["name"]), stuffs, lambda key: put("sleeve_stuff", key, "stuff of its sleeve")),)),
        Pick("held", "Held", HELD[rod.held], tuple(HELD.items()), lambda key: put("held", key, "hold")),
        *((number("depth_mm"), number("play_mm")) if rod.held != "firm" else ()),
        Pick("turns", "Turns about itself", "yes" if rod.turns else "no", (("", "no"), ("yes", "yes")), lambda key: put("turns", bool(key), "turning")),
        Sketch("rod", 70, rod_sketch),
        *_carried(desk, rod, put),
        number("load_g"),
    ]  # fmt: skip
    if finding is not None:
        items += [Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)]
    names = {"base": "the base"} | {joint.id: joint.name for joint in desk.figure.joints}
    items += [Head("hp", "Where it is"), Pick("rides", "Held by", names[rod.rides_on], tuple(names.items()), lambda key: put("rides_on", key, "what holds it"))]  # fmt: skip
    for k, at in enumerate((rod.at_mm, rod.tip_mm)):
        items.append(Head(f"h{k}", ENDS[k]))
        items += [_coordinate(desk, ident, k, which, words, at[which]) for which, words in ((0, "Ahead"), (2, "Above"), (1, "To its left"))]  # fmt: skip
    items += [
        Head("ha", "Actions"),
        Do("remove", f"Remove {rod.name}", lambda: desk.edit(Edit(f"remove {rod.name}", (Remove("rods", ident),)))),
        Head("hc", "Caution"),
        Note("nc", CAUTION, True),
    ]
    return Page(
        rod.name, f"{stuff_of(rod.stuff)['name']} rod · {rod.length_mm:.0f} mm free", tuple(items), ("rod", ident)
    )


def _carried(desk: Desk, rod: Rod, put) -> list[Item]:
    things = {joint.id: f"{joint.name} and all on it" for joint in desk.figure.joints} | {part.id: part.name for part in desk.figure.parts}  # fmt: skip
    items: list[Item] = [Head("hl", "What it carries at its tip")]
    for ident in rod.carries:
        left = tuple(each for each in rod.carries if each != ident)
        items.append(
            Do(f"c {ident}", f"Not {things[ident]}", lambda left=left: put("carries", left, "what it carries"))
        )
    more = tuple((key, words) for key, words in things.items() if key not in rod.carries)
    if more:
        items.append(Pick("carries", "Carries also", "choose", more, lambda key: put("carries", (*rod.carries, key), "what it carries")))  # fmt: skip
    return items


def add_rod_items(desk: Desk, joint_id: str) -> list[Item]:
    """The rods of the figure, and one more under the joint in hand."""

    def add() -> None:
        if desk.edit(lambda: add_rod(desk.figure, joint_id)):
            desk.select(Ref("rod", desk.figure.rods[-1].id))

    items: list[Item] = [Head("hrod", "Rods, sticks and poles")]
    items += [Do(f"r{rod.id}", rod.name, lambda rod=rod: desk.select(Ref("rod", rod.id))) for rod in desk.figure.rods]
    if not desk.figure.rods:
        items.append(
            Note("nrod", "None yet. What you need of one: how thick and how long it is, of what, and how deep it sits.")
        )
        items.append(Sketch("rod0", 70, rod_sketch))
    if joint_id:
        items.append(Do("add rod", f"Add one under {desk.figure.joint(joint_id).name}", add))
    return items


def _coordinate(desk: Desk, ident: str, k: int, which: int, words: str, value: float) -> Item:
    def make(new: float) -> Edit:
        rod = _fresh(desk, ident)
        at = list((rod.at_mm, rod.tip_mm)[k])
        at[which] = round(new * 1e3, 3)
        return set_end(rod, k, (at[0], at[1], at[2]))

    return Write(f"{'xyz'[which]}{k}", words, mm(value), "length", lambda v: desk.edit(lambda: make(v)))


def _fresh(desk: Desk, ident: str) -> Rod:
    return next(rod for rod in desk.figure.rods if rod.id == ident)


def rod_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """What to measure of a rod: free length, thickness, how deep it sits."""
    u = kit.u
    foot, tip, middle = x + u(62), x + w - u(40), y + h / 2
    kit.hatch(Kit.path([(x + u(20), middle - u(16)), (foot, middle - u(16)), (foot, middle + u(16)), (x + u(20), middle + u(16))], True), "ink3", 5)  # fmt: skip
    kit.line(x + u(28), middle, tip, middle, "brass", 4)
    kit.circle(tip + u(12), middle, u(12), "card", "ink", 1.4)
    kit.line(foot, middle + u(22), tip, middle + u(22), "ink2", 1)
    kit.text((foot + tip) / 2, middle + u(29), "free", 11, 400, "ink2", "c")
    kit.line(x + u(28), middle - u(22), foot, middle - u(22), "ink2", 1)
    kit.text(x + u(45), middle - u(28), "deep", 11, 400, "ink2", "c")
    kit.text(tip - u(34), middle - u(10), "thick", 11, 400, "ink2", "c")
