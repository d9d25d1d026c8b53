"""What still goes into a hollow part, on its card: a ball at each height that goes in whatever the joints do."""

from __future__ import annotations

from karakuri.model.part import Part
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note

HOW = "A ball that keeps the gap from its wall and from all that is in it, whatever the joints do, as large as was found; hollow things count as filled. A long battery may go where no such ball does."


def spare_items(desk: Desk, part: Part) -> list[Item]:
    """Nothing for a part that is not hollow."""
    if not part.hollow:
        return []
    seeker, sought = desk.seeker, ("room", part.id)
    items: list[Item] = [Head("hspare", "Room left in it")]
    if seeker.under_way is not None:
        _, what, share = seeker.under_way
        return [*items, Fact("sparing", "Looking", f"{share:.0%}", "", what), Do("spare stop", "Stop looking", seeker.stop)] if seeker.under_way[0] == sought else []  # fmt: skip
    items.append(Do("spare", "What still goes in?", lambda: seeker.seek_room(part.id)))
    if not seeker.sought(sought):
        return items
    if seeker.stale():
        return [*items, Note("spare before", "The figure has changed since; look again.")]
    found = seeker.found(sought)
    if found is None:
        return [*items, Note("spare none", "What is free inside it is not known: read its file again, or put a box, egg or tube in its place.")]  # fmt: skip
    if not found:
        return [*items, Note("spare none", "Nothing goes in any more with the gap that must stay.")]
    for k, each in enumerate(reversed(found)):
        x, y, z = (desk.show(Quantity(round(float(v), 3) + 0.0, "length")) for v in each.at)
        wide = desk.show(Quantity(2 * each.radius, "length", rounding="down"))
        items.append(Fact(f"spare {k}", f"{z} above", wide, "", f"a ball, {x} ahead, {y} to its left"))
    return [*items, Note("spare how", HOW)]
