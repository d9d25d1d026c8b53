"""The cards of things that are the same on every bench that shows them; each is read from disk when it is first shown."""

from __future__ import annotations

import importlib
from collections.abc import Callable

from karakuri.model.ref import item_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Page

PAGES = {
    "chain": "chain_page",
    "doing": "order_page",
    "element": "element_page",
    "fastening": "fastening_page",
    "picture": "picture_page",
    "rod": "rod_page",
    "room": "room_page",
    "wearer": "wearer_page",
}
"""Kind of thing → the file of its card, and what makes the card there."""


def page_in_hand(desk: Desk) -> Page | None:
    """The card of what is in hand, or None where that has none of its own."""
    ref = desk.subject
    if ref.kind == "wearer":
        return _maker("wearer")(desk) if desk.figure.base.held == "worn" else None
    return _maker(ref.kind)(desk, ref.id) if ref.kind in PAGES and item_of(desk.figure, ref) is not None else None


def _maker(kind: str) -> Callable[..., Page]:
    name = PAGES[kind]
    make: Callable[..., Page] = getattr(importlib.import_module(f"karakuri.workbench.benches.{name}"), name)
    return make
