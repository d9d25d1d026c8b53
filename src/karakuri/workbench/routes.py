"""Which bench shows what a rule found, and the way to the thing it is about. No widgets here."""

from __future__ import annotations

from karakuri.model.finding import Action, Finding
from karakuri.model.ref import item_of
from karakuri.workbench.desk import Desk

BENCHES: dict[str, tuple[str, ...]] = {
    "figure": ("mass", "weigh", "masses", "unjudged"),
    "drive": ("hold", "move", "linkage", "shaft", "steps", "shakes", "turning", "supply"),
    "balance": (
        "tipping",
        "rocks",
        "hangs",
        "elements",
        "cords",
        "cables",
        "actuators",
        "slides",
        "hands",
        "rods",
        "whips",
        "drag",
        "fastened",
        "sheds",
        "worn",
    ),
    "limits": ("stops", "travel"),
    "fit": ("fits", "order", "room"),
    "score": (
        "toofast",
        "effort",
        "strain",
        "tilts",
        "heat",
        "softlimits",
        "park",
        "rings",
        "scores",
        "voice",
    ),
    "power": ("power", "wiring"),
    "rehearse": ("behaviour", "steering", "lived"),
}
"""Each bench, in the order of the rail, with the rules whose findings it shows. Its module, class and glyph bear its name."""
BENCH_OF_RULE = {rule: bench for bench, rules in BENCHES.items() for rule in rules}
FIELDS = {
    ("part", "mass"): ("figure", "Mass"),
    ("drive", "mass"): ("drive", "Weighs"),
    ("joint", "stops"): ("limits", "Stop"),
    ("joint", "drag"): ("figure", "Turns in"),
    ("joint", "support"): ("drive", "Carried by"),
    ("element", "force"): ("balance", "Its force"),
    ("element", "long"): ("balance", "Long between its ties"),
    ("element", "pull"): ("balance", "The hand or chin moves"),
    ("chain", "size"): ("fit", "± at most"),
    ("element", "grip"): ("balance", "The hand gives with ease"),
}
"""Kind of thing and field of an action → bench, and what the field is called on its card."""
SHOWN_AS = {"behaviour": "behaviour", "lived": "behaviour", "steering": "hand"}
"""What the Rehearse bench shows for a rule."""
POSED = ("hold", "move", "weigh")
AT_TIME = ("tilts", "whips", "rocks", "sheds")
"""Of these the score is gone to where it is worst."""


def bench_of(finding: Finding) -> str:
    """The bench that shows a finding."""
    return "drive" if finding.subject.kind == "drive" else BENCH_OF_RULE[finding.rule]


def open_finding(desk: Desk, finding: Finding) -> None:
    """Its bench, with what it is about in hand, in its worst pose; what is gone since is not looked for."""
    if finding.move is not None and item_of(desk.figure, finding.move) is not None:
        desk.select(finding.move)
        desk.turn_to(bench_of(finding))
        desk.transport.go(finding.at_s or 0.0)
        return
    desk.select(finding.subject)
    results = desk.study.results if desk.study is not None else None
    worst = results.hold_of(finding.subject.id) if results is not None and finding.subject.kind == "joint" else None
    if worst is not None and finding.rule in POSED and results is not None and results.figure is desk.figure:
        desk.set_whole_pose(dict(zip(results.tree.ids, map(float, worst.pose), strict=True)))
        desk.set_posture(desk.figure.postures[worst.posture].id)
    if finding.rule in AT_TIME and finding.at_s is not None:
        desk.transport.go(finding.at_s)
    if finding.rule in SHOWN_AS:
        desk.rehearse(SHOWN_AS[finding.rule])
    desk.turn_to(bench_of(finding))


def lead_to(desk: Desk, action: Action) -> str:
    """Take the thing in hand on the bench that has the field; the field's label there, '' where the thing is gone."""
    if item_of(desk.figure, action.subject) is None:
        return ""
    bench, label = FIELDS[(action.subject.kind, action.field)]
    desk.select(action.subject)
    desk.turn_to(bench)
    return label
