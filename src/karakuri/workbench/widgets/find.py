"""Find or do: a bench, a joint or part by name, a pose ('tilt 20'), a deed by its first words."""

from __future__ import annotations

import math
import re

from karakuri.errors import BadQuantity
from karakuri.units import METRIC, read_quantity
from karakuri.workbench.widgets.top import BENCHES

DEEDS = {
    "new": "new",
    "open": "open",
    "save": "save",
    "save as": "save_as",
    "add a joint": "add_joint",
    "add a part": "add_part",
    "twin": "twin",
    "remove": "remove",
}
EXPORTS = {"export frames": "export_frames", "export player": "export_player", "take frames over": "import_frames"}


def carry_out(window, text: str) -> str:
    """Do what was typed; returns a sentence where nothing answers to it, else ''."""
    desk, words = window.desk, text.strip().lower()
    if not words:
        return ""
    for bench in BENCHES:
        if words == bench:
            desk.turn_to(bench)
            return ""
    if words in ("undo", "redo"):
        (desk.undo if words == "undo" else desk.redo)()
        return ""
    if words in DEEDS:
        getattr(window, DEEDS[words])()
        return ""
    if words in EXPORTS:
        desk.wanted.emit(EXPORTS[words])
        return ""
    posed = re.fullmatch(r"(.+?)\s+([-−+]?[\d.]+\s*°?)", words)
    items = [("joint", j.id, j.name) for j in desk.figure.joints] + [("part", p.id, p.name) for p in desk.figure.parts]
    items += [("channel", c.id, c.name) for c in desk.figure.score.channels] if desk.bench == "score" else []
    items += [("pose", p.id, p.name) for p in desk.figure.poses]
    if posed:
        joint = _best([i for i in items if i[0] == "joint"], posed.group(1))
        if joint is not None:
            try:
                value = read_quantity(posed.group(2), "angle", METRIC)
            except BadQuantity as trouble:
                return str(trouble)
            low, high = (math.radians(a) for a in desk.figure.joint(joint[1]).range_deg)
            desk.select(*joint[:2])
            desk.set_pose(joint[1], min(max(value, low), high))
            return (
                ""
                if low <= value <= high
                else f"{joint[2]} is wanted between {math.degrees(low):g}° and {math.degrees(high):g}°; it stands at the end."
            )
    found = _best(items, words)
    if found is not None:
        desk.select(*found[:2])
        if desk.bench == "start":
            desk.turn_to("figure")
        return ""
    return f"Nothing is called “{text.strip()}”. A bench, a part, a joint, a joint with degrees (“tilt 20”) or a deed such as “save as” can be found."


def _best(items: list[tuple[str, str, str]], words: str) -> tuple[str, str, str] | None:
    """The name that begins with the words, else has a word that begins so, else contains them."""
    for test in (
        lambda n: n == words,
        lambda n: n.startswith(words),
        lambda n: any(w.startswith(words) for w in n.split()),
        lambda n: words in n,
    ):
        for item in items:
            if test(item[2].lower()):
                return item
    return None
