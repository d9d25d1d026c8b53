"""The cards of things that are the same on every bench that shows them."""

from __future__ import annotations

from collections.abc import Callable

from karakuri.model.ref import item_of
from karakuri.workbench.benches.chain_page import chain_page
from karakuri.workbench.benches.element_page import element_page
from karakuri.workbench.benches.fastening_page import fastening_page
from karakuri.workbench.benches.order_page import order_page
from karakuri.workbench.benches.picture_page import picture_page
from karakuri.workbench.benches.rod_page import rod_page
from karakuri.workbench.benches.room_page import room_page
from karakuri.workbench.benches.wearer_page import wearer_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Page

PAGES: dict[str, Callable[[Desk, str], Page]] = {
    "chain": chain_page,
    "doing": order_page,
    "element": element_page,
    "fastening": fastening_page,
    "picture": picture_page,
    "rod": rod_page,
    "room": room_page,
}


def page_in_hand(desk: Desk) -> Page | None:
    """The card of what is in hand, or None where that has none of its own."""
    ref = desk.subject
    if ref.kind == "wearer":
        return wearer_page(desk) if desk.figure.base.held == "worn" else None
    make = PAGES.get(ref.kind)
    return make(desk, ref.id) if make is not None and item_of(desk.figure, ref) is not None else None
