"""Larger or smaller, and what it costs: on the card of the whole figure."""

from __future__ import annotations

from karakuri.model.part import BASE
from karakuri.sizing.prices import costs, total
from karakuri.sizing.scaled import keeps, region, scaled
from karakuri.units import Quantity, digits
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Pick, Write

WHAT_GOES = (
    "Places and sizes grow by it, shells and sheets weigh its square, solids its cube. Servos, horns, rods’ thickness, springs, what has no size, batteries and "
    "boards stay: they are bought. Weighed masses become estimates."
)


def size_items(desk: Desk) -> list[Item]:
    """Scale all of it, or what rides on a joint; how large that may get."""
    joint = desk.sized
    names = {"": "the whole figure"} | {j.id: f"what rides on {j.name}" for j in desk.figure.joints}
    joint = joint if joint in names else ""

    def scale(value: float) -> None:
        if abs(value - 1.0) > 1e-9:
            desk.edit(lambda: scaled(desk.figure, round(value * 100, 3), joint))

    stays = sum(keeps(part) for part in desk.figure.parts if part.rides_on in region(desk.figure, joint))
    items: list[Item] = [
        Head("hz", "Larger or smaller"),
        Pick("sized", "Of", names[joint], tuple(names.items()), desk.set_sized),
        Write("scale", "Scale to, of what it is", Quantity(1.0, "percent"), "percent", scale),
        Note("nz", WHAT_GOES + (f" {stays} part{'s' if stays > 1 else ''} here stay{'' if stays > 1 else 's'}." if stays else "")),
    ]  # fmt: skip
    return [*items, *_largest(desk, joint)]


def _largest(desk: Desk, joint: str) -> list[Item]:
    seeker, sought = desk.seeker, ("largest", joint)
    if seeker.under_way is not None:
        _, what, share = seeker.under_way
        return [Fact("growing", "Looking", f"{share:.0%}", "", what), Do("seek stop", "Stop looking", seeker.stop)]
    items: list[Item] = [Do("largest", "How large may it get?", lambda: seeker.seek_largest(joint))]
    if not seeker.sought(sought):
        return items
    if seeker.stale():
        return [*items, Note("sought before", "The figure has changed since; look again.")]
    found = seeker.found(sought)
    if found is None:
        return [*items, Note("largest", "Even at a third of its size something does not bear it, or is not known yet.")]
    show = f"{found.percent:.0f}"
    if found.decides is None:
        return [*items, Note("largest", f"Its drives and its stand bear it up to {show} % at least.")]
    at = "grow to" if found.percent >= 100 else "be no larger than"
    words = f"It may {at} {show} %. A step beyond: {found.decides.sentence.show(desk.units)}"
    grow = Do("grow", f"Scale to {show} %", lambda: desk.edit(lambda: scaled(desk.figure, found.percent, joint)))
    return [*items, Note("largest", words), *([grow] if found.percent != 100 else [])]


def price_items(desk: Desk) -> list[Item]:
    """What it costs, by what turns with which joint."""
    found, currency = costs(desk.figure), desk.figure.currency
    items: list[Item] = [Head("hm", "What it costs, as far as prices are written")]
    names = {BASE: "the base"} | {joint.id: joint.name for joint in desk.figure.joints}
    for cost in found:
        under = f"servo {digits(cost.servo, 2)}, parts {digits(cost.parts, 2)}" + (f", {cost.unknown} without a price" if cost.unknown else "")  # fmt: skip
        items.append(Fact(f"cost {cost.joint}", names[cost.joint], digits(cost.whole, 2), currency, under))
    whole = total(found)
    items.append(Fact("cost all", "All together", digits(whole.whole, 2), currency, f"{whole.unknown} things without a price" if whole.unknown else ""))  # fmt: skip
    return items
