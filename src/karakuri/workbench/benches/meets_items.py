"""What stops what from curing or sticking: two picks and the answer, on the card of the whole figure."""

from __future__ import annotations

from karakuri.sizing.meets import dry_ones, met, troubles, wet_ones
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Fact, Head, Item, Note, Pick

CAUTION = (
    "A test patch always, from the tins you have. Resins, solvents, sprays and sanding dust: gloves, a mask that is made for it, air; the tin’s own sheet and local "
    "rules come first."
)


def meets_items(desk: Desk) -> list[Item]:
    """What is wet, on what; what happens, what goes between, how long to wait, who says so."""
    wet, dry = wet_ones(), dry_ones()
    one, other = desk.meeting
    found = met(one, other)
    items: list[Item] = [
        Head("hq", "Does it cure, does it stick?"),
        Pick("wet", "Put on wet", wet[one], tuple(wet.items()), lambda key: desk.set_meeting(key, desk.meeting[1])),
        Pick("dry", "On", dry[other], tuple(dry.items()), lambda key: desk.set_meeting(desk.meeting[0], key)),
        Fact("met", "Then it", found.what, "", found.why),
    ]
    items += [Note(key, f"{words}: {text}.") for key, words, text in (("mb", "Between them", found.between), ("mw", "Wait", found.wait), ("ms", "Source", found.source)) if text]  # fmt: skip
    bad = [wet[each] for each, _ in troubles(other)]
    if bad:
        items.append(Note("mt", f"Not on {dry[other]} as it is: {', '.join(bad)}."))
    return [*items, Note("mc", CAUTION, True)]
