"""Find or do: a bench, a joint or part by name, a pose ('tilt 20'), a action by its first words."""

from __future__ import annotations

import re
from operator import attrgetter

from karakuri.bodies.tree import wanted_range
from karakuri.checks.symptoms import symptom_of
from karakuri.demo import DEMOS
from karakuri.errors import BadQuantity
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.sizing.followed import as_driven
from karakuri.units import METRIC, Quantity, read_quantity, show
from karakuri.workbench.routes import BENCHES
from karakuri.workbench.wishes import DRAWER_IN, DRAWER_OUT, LAY, PASTE, SOUND, TAKE_OVER, doing

ACTIONS = {
    "new": "filing.new",
    "open": "filing.open",
    "save": "filing.save",
    "save as": "filing.save_as",
    "add a joint": "making.joint",
    "add a part": "making.part",
    "twin": "making.twin",
    "remove": "making.remove",
}
SHOWN = {"the board": "board", "behaviour": "behaviour", "by hand": "hand"}
"""What the Rehearse bench is asked to show."""
WISHES = (TAKE_OVER, SOUND, DRAWER_OUT, DRAWER_IN, PASTE, *LAY.values())


def carry_out(window, text: str) -> str:
    """Do what was typed; returns a sentence where nothing answers to it, else ''."""
    desk, words = window.desk, text.strip().lower()
    if not words:
        return ""
    if words == "wiring":
        desk.feed("wiring")
        words = "power"
    if words in SHOWN:
        desk.rehearse(SHOWN[words])
        words = "rehearse"
    for bench in BENCHES:
        if words == bench:
            desk.turn_to(bench)
            return ""
    if words in ("undo", "redo"):
        (desk.undo if words == "undo" else desk.redo)()
        return ""
    if words in ACTIONS:
        attrgetter(ACTIONS[words])(window)()
        return ""
    if words in WISHES or words in _exports():
        desk.wanted.emit(words)
        return ""
    if words in _demos():
        window.filing.open_demo(_demos()[words])
        return ""
    symptom = symptom_of(words)
    if symptom is not None and not any(words == name.lower() for name in _names(desk.figure)):
        desk.select(Ref("symptom", symptom.id))
        return ""
    posed = re.fullmatch(r"(.+?)\s+([-−+]?[\d.]+\s*°?)", words)
    figure = desk.figure
    items = [(Ref("joint", j.id), j.name) for j in figure.joints] + [(Ref("part", p.id), p.name) for p in figure.parts]
    items += [(Ref("board", b.id), b.name) for b in figure.boards] if desk.bench == "power" else []
    items += [(Ref("channel", c.id), c.name) for c in figure.score.channels] if desk.bench == "score" else []
    items += [(Ref("pose", p.id), p.name) for p in figure.poses]
    items += [(Ref("element", e.id), e.name) for e in figure.elements]
    items += [(Ref("rod", r.id), r.name) for r in figure.rods]
    items += [(Ref("chain", c.id), c.name) for c in figure.chains]
    items += [(Ref("doing", d.id), d.name) for d in figure.order]
    items += [(Ref("fastening", f.id), f.name) for f in figure.fastenings]
    if posed:
        joint = _best([i for i in items if i[0].kind == "joint"], posed.group(1))
        if joint is not None:
            return _posed(desk, desk.figure.joint(joint[0].id), posed.group(2))
    found = _best(items, words)
    if found is not None:
        desk.select(found[0])
        if desk.making_anew:
            desk.turn_to("figure")
        return ""
    symptom = symptom_of(words, whole=False)
    if symptom is not None:
        desk.select(Ref("symptom", symptom.id))
        return ""
    return f"Nothing is called “{text.strip()}”. A bench, a part, a joint, a joint with degrees (“tilt 20”), what you see (“shakes”, “leans”, “gets hot”) or an action such as “save as” can be found."


def _names(figure) -> list[str]:
    """What is called something: a name goes before a symptom."""
    things = (
        figure.joints,
        figure.parts,
        figure.poses,
        figure.elements,
        figure.rods,
        figure.chains,
        figure.order,
        figure.fastenings,
        figure.score.channels,
    )
    return [each.name for some in things for each in some]


def _demos() -> dict[str, str]:
    return {title.lower(): name for name, title in DEMOS.items()} | {f"demo {name}": name for name in DEMOS}


def _exports() -> tuple[str, ...]:
    from karakuri.exchange.exporters import EXPORTERS

    return tuple(map(doing, EXPORTERS))


def _posed(desk, joint: Joint, text: str) -> str:
    """Set a joint to a typed place, degrees or, where it slides, millimetres, inside its wanted range."""
    try:
        value = read_quantity(text, joint.measure.kind, METRIC)
    except BadQuantity as trouble:
        return str(trouble)
    low, high = wanted_range(as_driven(desk.figure, joint))
    desk.select(Ref("joint", joint.id))
    desk.set_pose(joint.id, min(max(value, low), high))
    if low <= value <= high:
        return ""
    ends = [show(Quantity(end, joint.measure.kind), METRIC) for end in (low, high)]
    return f"{joint.name} is wanted between {ends[0]} and {ends[1]}; it stands at the end."


def _best(items: list[tuple[Ref, str]], words: str) -> tuple[Ref, str] | None:
    """The name that begins with the words, else has a word that begins so, else contains them."""
    for test in (
        lambda n: n == words,
        lambda n: n.startswith(words),
        lambda n: any(w.startswith(words) for w in n.split()),
        lambda n: words in n,
    ):
        for item in items:
            if test(item[1].lower()):
                return item
    return None
