"""The card of a spring, an elastic, a strut or a pad: how strong, from where to where, and what it does in the pose shown."""

from __future__ import annotations

from typing import get_args

from karakuri.bodies.elements import load_of
from karakuri.checks.element_words import strength
from karakuri.model.edit import Edit, Remove, Set
from karakuri.model.edits import set_field
from karakuri.model.element import About, Cable, Cord, Element, Hand, Linear, Motor, Skin, Torsion, anchors
from karakuri.model.element_edits import KINDS, add_element, add_guide, drop_guide, set_anchor
from karakuri.model.labels import Label, labels_of
from karakuri.model.ref import Ref
from karakuri.sizing.strung import in_pose
from karakuri.units import Quantity, show_number
from karakuri.values.fields import fields_of
from karakuri.workbench.benches.bench import mm, rename
from karakuri.workbench.benches.cord_items import CAUTION as CORD
from karakuri.workbench.benches.cord_items import cord_items
from karakuri.workbench.benches.motor_items import CAUTION as MOTOR
from karakuri.workbench.benches.motor_items import motor_items
from karakuri.workbench.benches.part_page import ORIGINS
from karakuri.workbench.benches.stroke_items import CAUTION as ACTUATOR
from karakuri.workbench.benches.stroke_items import stroke_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.strung import zigzag
from karakuri.workbench.widgets.items import (
    Block,
    Calc,
    Do,
    Fact,
    Head,
    Item,
    Note,
    Page,
    Pick,
    Sketch,
    Write,
    WriteText,
)

CAUTION = "Wear glasses: a spring under load that slips its hook flies. Fingers out of what it draws together."
MAGNETS = (
    "Magnets pinch and shatter: glasses, fingers out. Keep them from pacemakers, and from children, who swallow them. "
    "Sideways they slide at about a fifth of the pull (common practice, no source); peeled from an edge they let go at less."
)
HAND = (
    "What a person holds must never come down on anybody: a stop, a second hold, a helper, and short turns. Structures that are carried, or under which people "
    "stand, want a qualified engineer."
)
UNSET = {
    "gives_N": "not known",
    "rate_N_per_mm": "not known",
    "rate_Nm_per_deg": "not known",
    "longest_mm": "not known",
    "pulled_mm": "not known",
    "pulled_N": "not known",
    "bears_N": "not known",
    "tension_N": "none",
}
ACTS = (("draws", "drawn out, it pulls"), ("presses", "pressed in, it pushes"))


def element_page(desk: Desk, ident: str) -> Page:
    element = _fresh(desk, ident)
    rules = {"cord": "cords", "cable": "cables", "actuator": "actuators", "motor": "turning", "hand": "hands"}
    finding = desk.finding(rules.get(element.kind, "elements"), ident)
    if finding is None and isinstance(element, Motor):
        finding = desk.finding("turning", ident, "goes")
    items: list[Item] = [Block("v", finding, desk.figure.assumptions.wished_margin)]
    if finding is not None:
        items.append(Note("nv", finding.sentence.show(desk.units)))
    items += [
        WriteText("name", "Name", element.name, lambda text: rename(desk, "elements", ident, text)),
        Head("hf", "The motor" if isinstance(element, Motor) else "The cable" if isinstance(element, Cable) else "Its force"),
        *(motor_items(desk, element) if isinstance(element, Motor) else _numbers(desk, element)),
        *_coil(desk, element),
        *_pulls(desk, element),
        *(cord_items(desk, element) if isinstance(element, Cord) else ()),
        *(stroke_items(desk, element) if isinstance(element, Linear) else ()),
        Pick("origin", "How known", element.origin, tuple((o, o) for o in ORIGINS if o != "slicer"), lambda key: _put(desk, ident, ("origin",), key, "how known")),
    ]  # fmt: skip
    if finding is not None:
        items += [Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)]
    bent = desk.finding("cables", ident, "bent")
    if bent is not None:
        items += [Block("vb", bent, 1.0), Note("nb", bent.sentence.show(desk.units))]
    gone = Edit(f"remove {element.name}", (Remove("elements", ident),))
    items += [
        *_now(desk, element),
        *_places(desk, element),
        Head("ha", "Actions"),
        Do("remove", f"Remove {element.name}", lambda: desk.edit(gone)),
        Head("hc", "Caution"),
        Note(
            "nc",
            {"magnets": MAGNETS, "cord": CORD, "actuator": ACTUATOR, "motor": MOTOR, "hand": HAND}.get(
                element.kind, CAUTION
            ),
            True,
        ),
    ]
    return Page(element.name, f"{KINDS[element.kind]} · {_between(desk, element)}", tuple(items), ("element", ident))


def add_items(desk: Desk) -> list[Item]:
    """What is strung in the figure, and what may be added across the joint in hand."""
    joint_id = desk.joint_in_hand()
    if not joint_id:
        return []

    def add(kind: str) -> None:
        if desk.edit(lambda: add_element(desk.figure, kind, joint_id)):
            desk.select(Ref("element", desk.figure.elements[-1].id))

    def row(ident: str, name: str) -> Item:
        return Do(f"e{ident}", name, lambda: desk.select(Ref("element", ident)))

    items: list[Item] = [Head("he", "Springs, elastic, struts, actuators")]
    items += [row(element.id, element.name) for element in desk.figure.elements]
    if not desk.figure.elements:
        words = "None yet. What you need of one: how long it is when free, and how long it gets with a known weight hung on it."
        items += [Note("ne", words), Sketch("spring", 74, spring_sketch)]
    name = desk.figure.joint(joint_id).name
    return [*items, Pick("add element", f"Add across {name}", "choose", tuple(KINDS.items()), add)]


def _fresh(desk: Desk, ident: str) -> Element:
    return next(element for element in desk.figure.elements if element.id == ident)


def _names(desk: Desk) -> dict[str, str]:
    return {"base": "the base"} | {joint.id: joint.name for joint in desk.figure.joints}


def _between(desk: Desk, element: Element) -> str:
    names = _names(desk)
    if isinstance(element, About):
        return f"about {names[element.joint]}"
    return f"from {names[element.ends[0].rides_on]} to {names[element.ends[1].rides_on]}"


def _put(desk: Desk, ident: str, path: tuple[str, ...], value: object, words: str) -> None:
    desk.edit(lambda: set_field(desk.figure, "elements", ident, path, value, words))


def _numbers(desk: Desk, element: Element) -> list[Item]:
    def written(field: str, label: Label) -> Item:
        value = getattr(element, field)
        quantity = None if value is None else Quantity(value * label.si, label.kind)

        def done(new: float) -> None:
            _put(desk, element.id, (field,), round(new / label.si, 9), label.words.lower())

        return Write(field, label.words, quantity, label.kind, done, UNSET.get(field, ""))

    out: list[Item] = []
    if hasattr(element, "presses"):
        now = dict(ACTS)["presses" if element.presses else "draws"]
        out.append(Pick("acts", "Acts when", now, ACTS, lambda key: _put(desk, element.id, ("presses",), key == "presses", "which way it acts")))  # fmt: skip
    for field, words in (
        ("grade", "Grade"),
        ("on", "Hold on to"),
        ("guided", "Runs over"),
        ("moving", "Moving pulley on"),
    ):
        if hasattr(element, field):
            options = get_args(fields_of(type(element))[field].kind)
            out.append(Pick(field, words, getattr(element, field), tuple((o, o) for o in options), lambda key, field=field, words=words: _put(desk, element.id, (field,), key, words.lower())))  # fmt: skip
    out += [written(field, label) for field, label in labels_of(type(element)).items()]
    many = Quantity(element.count, "count")
    out.append(Write("count", "Side by side", many, "count", lambda v: _put(desk, element.id, ("count",), round(v), "how many")))  # fmt: skip
    found = strength(element)
    return [*out, Calc("strength", found)] if found is not None else out


def _coil(desk: Desk, element: Element) -> list[Item]:
    """A rate that nobody knows, from wire, width and turns."""
    if not hasattr(element, "coil"):
        return []
    rate, path = "rate_N_per_mm" if hasattr(element, "rate_N_per_mm") else "rate_Nm_per_deg", ("elements", element.id)
    if element.coil is None:
        usual = {"wire_mm": 0.8, "outer_mm": 7.0, "turns": 20.0}
        edit = Edit(f"rate of {element.name} from its wire", (Set((*path, rate), None), Set((*path, "coil"), usual)))
        return [Do("coil", "Work its rate out from its wire", lambda: desk.edit(edit))]
    coil = element.coil

    def field(name: str, words: str, quantity: Quantity) -> Item:
        def done(value: float) -> None:
            new = round(value * 1e3, 4) if quantity.kind == "length" else round(value, 3)
            _put(desk, element.id, ("coil",), dict(coil) | {name: new}, words.lower())

        return Write(f"coil {name}", words, quantity, quantity.kind, done)

    without = Edit(f"{element.name} without its wire", (Set((*path, "coil"), None),))
    return [
        field("wire_mm", "Wire, thick", mm(coil.wire_mm)),
        field("outer_mm", "Coil, outside", mm(coil.outer_mm)),
        field("turns", "Turns", Quantity(coil.turns, "ratio")),
        Do("no coil", "Leave its wire out of it", lambda: desk.edit(without)),
    ]


def _pulls(desk: Desk, element: Element) -> list[Item]:
    """What a ruler and a scale told."""
    if not hasattr(element, "pulls"):
        return []
    pulls, path = tuple(dict(pull) for pull in element.pulls), ("elements", element.id)

    def changed(new: tuple, words: str) -> None:
        steps = [Set((*path, "pulls"), new)]
        if hasattr(element, "rate_N_per_mm"):
            steps.append(Set((*path, "rate_N_per_mm"), None))
        desk.edit(Edit(f"{words} of {element.name}", tuple(steps), f"{element.id} pulls"))

    def field(i: int, key: str, words: str, quantity: Quantity) -> Item:
        def done(value: float) -> None:
            changed((*pulls[:i], pulls[i] | {key: round(value * 1e3, 3)}, *pulls[i + 1 :]), "a pull")

        return Write(f"{key} {i}", words, quantity, quantity.kind, done)

    items: list[Item] = []
    for i, pull in enumerate(element.pulls):
        weight = Quantity(pull.weight_g / 1e3, "mass")
        items.append(field(i, "weight_g", f"With weight {i + 1}", weight))
        goes = "it gives by" if isinstance(element, Skin) else "it gets as long as"
        items.append(field(i, "length_mm", goes, mm(pull.length_mm)))
    far = 5.0 * (1 + len(pulls)) if isinstance(element, Skin) else element.free_mm * (1.5 + 0.2 * len(pulls))
    more = {"length_mm": round(far, 1), "weight_g": 100.0 * (len(pulls) + 1)}
    pull = "push" if isinstance(element, Skin) else "pull"
    items.append(Do("pull", f"Add a {pull} by ruler and scale", lambda: changed((*pulls, more), "one more pull")))
    if pulls:
        items.append(Do("no pull", "Take the last pull out", lambda: changed(pulls[:-1], "one pull less")))
    return items


def _now(desk: Desk, element: Element) -> list[Item]:
    """In the pose shown: its length, its force, what it turns its joints with."""
    if isinstance(element, Motor | Hand):
        return []
    tree, q = desk.pose_array()
    now = in_pose(tree, q)[[e.id for e in desk.figure.elements].index(element.id)]

    def fact(key: str, words: str, quantity: Quantity) -> Fact:
        return Fact(key, words, show_number(quantity, desk.units), desk.units.unit(quantity.kind).label)

    items: list[Item] = [Head("hn", "In the pose shown")]
    if isinstance(element, Torsion):
        items.append(fact("s", "Stands at", Quantity(now.s, "angle")))
    else:
        items.append(fact("s", "Long", Quantity(now.s, "length")))
        items.append(fact("f", "Pushes with" if now.force < 0 else "Pulls with", Quantity(abs(now.force), "force")))
    for j, torque in now.torques:
        joint = desk.figure.joint(tree.ids[j])
        kind = "torque" if joint.kind == "turn" else "force"
        items.append(fact(f"t{joint.id}", f"{joint.name}, {joint.ends[1 if torque > 0 else 0]}", Quantity(abs(torque), kind)))  # fmt: skip
    bound = round(load_of(element, {joint: k for k, joint in enumerate(tree.ids)} | {"base": -1}).bound * 100)
    words = f"Its force may be off by {bound} %, by how it is known: common practice, no source."
    return [*items, Note("nb", words)]


def _places(desk: Desk, element: Element) -> list[Item]:
    if isinstance(element, About):
        return []
    names, way, items = _names(desk), anchors(element), list[Item]()
    last = len(way) - 1

    def set_on(k: int, key: str) -> None:
        desk.edit(lambda: set_anchor(_fresh(desk, element.id), k, rides_on=key))

    for k, anchor in enumerate(way):
        title = "From" if k == 0 else "To" if k == last else f"Over guide {k}"
        items += [
            Head(f"h{k}", title),
            Pick(f"on{k}", "Rides on", names[anchor.rides_on], tuple(names.items()), lambda key, k=k: set_on(k, key)),
            *(_coordinate(desk, element, k, which, w) for which, w in ((0, "Ahead"), (2, "Above"), (1, "To its left"))),
        ]
    items.append(Do("guide", "Lead it over a guide", lambda: desk.edit(lambda: add_guide(_fresh(desk, element.id)))))
    if last > 1:
        items.append(Do("no guide", "Take the last guide out", lambda: desk.edit(lambda: drop_guide(_fresh(desk, element.id)))))  # fmt: skip
    return items


def _coordinate(desk: Desk, element: Element, k: int, which: int, words: str) -> Item:
    def make(value: float) -> Edit:
        now = _fresh(desk, element.id)
        at = list(anchors(now)[k].at_mm)
        at[which] = round(value * 1e3, 3)
        return set_anchor(now, k, at_mm=tuple(at))

    return Write(f"{'xyz'[which]}{k}", words, mm(anchors(element)[k].at_mm[which]), "length", lambda v: desk.edit(lambda: make(v)))  # fmt: skip


def spring_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """What to measure of a spring: its length with nothing on it, and with a known weight."""
    u = kit.u
    for at, long, words in ((x + u(40), u(34), "free"), (x + u(120), u(50), "with 200 g")):
        kit.line(at - u(16), y + u(5), at + u(16), y + u(5), "ink2", 2)
        zigzag(kit, (at, y + u(5)), (at, y + u(5) + long), "brass", False, 6)
        kit.line(at + u(14), y + u(5), at + u(14), y + u(5) + long, "ink2", 1)
        kit.text(at + u(18), y + u(5) + long / 2, words, 11, 400, "ink2")
    kit.rect(x + u(113), y + u(56), u(14), u(12), "brass_f", "ink", 1.2)
