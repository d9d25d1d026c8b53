"""The card of a step of putting together: what it needs, what it shuts off, with whom, how long; what comes off before it comes off."""

from __future__ import annotations

from karakuri.model.order_edits import add_doing, doing_of, moved, put_in_order, related, remove_doing, set_doing
from karakuri.model.ref import Ref
from karakuri.sizing.order import off, ordered
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import rename
from karakuri.workbench.benches.chain_page import CAUTION
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Do, Head, Item, Note, Page, Pick, Write, WriteText

KINDS = {"put": "put together", "wear": "put on the wearer", "measure": "measured"}
HOW = "A measurement needs all that will be worn to be on while it is taken: name it under what it needs."


def order_page(desk: Desk, ident: str) -> Page:
    """Everything of one step."""
    figure, me = desk.figure, doing_of(desk.figure, ident)
    items: list[Item] = []
    for end in ("", "shut", "unmet", "apart"):
        finding = desk.finding("order", ident, *([end] if end else []))
        if finding is not None:
            items += [
                Block(f"v{end}", finding, figure.assumptions.wished_margin),
                Note(f"n{end}", finding.sentence.show(desk.units)),
            ]

    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_doing(desk.figure, ident, words, **fields))

    def yes(key: str, label: str, field: str, words: str) -> Item:
        return Pick(
            key,
            label,
            "yes" if getattr(me, field) else "no",
            (("", "no"), ("yes", "yes")),
            lambda way: put(words, **{field: bool(way)}),
        )

    items += [
        WriteText("name", "Step", me.name, lambda text: rename(desk, "order", ident, text)),
        Pick("kind", "It is", KINDS[me.kind], tuple(KINDS.items()), lambda key: put("kind", kind=key)),
        *_relation(desk, ident, "needs", "Must be on while it is measured" if me.kind == "measure" else "Sits on, in or through", "Not on"),
        *_relation(desk, ident, "shuts", "Cannot be done any more after it", "Can still be done:"),
        yes("good", "Never comes off again", "for_good", "for good"),
        yes("helper", "Wants a second person", "helper", "helper"),
        yes("apart", "Comes off for transport", "apart", "transport"),
        Write("minutes", "Takes", Quantity(me.minutes * 60.0, "time"), "time", lambda v: put("minutes", minutes=round(v / 60.0, 4))),
        yes("done", "Done", "done", "done"),
        *_off(desk, ident),
        Note("how", HOW),
        Head("ha", "Actions"),
        Do("earlier", "Earlier", lambda: desk.edit(lambda: moved(desk.figure, ident, -1))),
        Do("later", "Later", lambda: desk.edit(lambda: moved(desk.figure, ident, 1))),
        Do("remove", "Remove this step", lambda: desk.edit(lambda: remove_doing(desk.figure, ident))),
        *order_items(desk),
        Head("hc", "Caution"), Note("nc", CAUTION, True),
    ]  # fmt: skip
    return Page(
        me.name,
        f"step {[d.id for d in figure.order].index(ident) + 1} of {len(figure.order)}",
        tuple(items),
        ("doing", ident),
    )


def _relation(desk: Desk, ident: str, field: str, title: str, words: str) -> list[Item]:
    names = {doing.id: doing.name for doing in desk.figure.order}
    now = getattr(doing_of(desk.figure, ident), field)

    def say(other: str, holds: bool) -> None:
        desk.edit(lambda: related(desk.figure, ident, field, other, holds))

    items: list[Item] = [Head(f"h{field}", title)]
    items += [Do(f"{field} {each}", f"{words} {names[each]}", lambda each=each: say(each, False)) for each in now]
    more = tuple((key, name) for key, name in names.items() if key != ident and key not in now)
    if more:
        items.append(
            Pick(
                f"{field} more",
                "Needs also" if field == "needs" else "Shuts off also",
                "choose",
                more,
                lambda key: say(key, True),
            )
        )
    return items


def _off(desk: Desk, ident: str) -> list[Item]:
    """What has to come off so that it comes off."""
    names = {doing.id: doing.name for doing in desk.figure.order}
    if doing_of(desk.figure, ident).kind == "measure":
        return []
    found = off(desk.figure.order, ident)
    first = [names[each] for each in found.steps if each != ident]
    words = "Comes off by itself." if not first else f"Comes off after {', then '.join(first)}."
    if found.stuck:
        words = f"Does not come off: {names[found.stuck[0]]} never does."
    return [Note("off", words)]


def order_items(desk: Desk) -> list[Item]:
    """One more step; all of them in an order that can be kept."""

    def add(text: str) -> None:
        if text.strip() and desk.edit(lambda: add_doing(desk.figure, text)):
            desk.select(Ref("doing", desk.figure.order[-1].id))

    items: list[Item] = [Head("horder", "Order"), WriteText("add doing", "One more step", "", add)]
    ids = ordered(desk.figure.order)
    if ids is not None and ids != tuple(doing.id for doing in desk.figure.order):
        items.append(Do("sort", "Put them in an order", lambda: desk.edit(lambda: put_in_order(desk.figure, ids))))
    return items
