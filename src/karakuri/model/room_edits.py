"""Edits of room: asking for it, how much must stay, which parts belong in one another."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.errors import EditRefused
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.room import Room, Together


def ask_room(figure: Figure) -> Edit:
    """All parts are compared from now on."""
    return Edit("look for room", (Set(("room",), Room()),))


def no_room(figure: Figure) -> Edit:
    """None are compared any more."""
    return Edit("look for room no more", (Set(("room",), None),))


def set_gap(figure: Figure, gap_mm: float) -> Edit:
    """How much must stay, mm. Raises EditRefused where nobody asked for room."""
    return Edit("gap that must stay", (Set(("room",), _asked(figure).but(gap_mm=gap_mm)),))


def belong(figure: Figure, pairs: Iterable[tuple[str, str]]) -> Edit:
    """Those pairs of parts, by id, are not compared. Raises EditRefused where nobody asked for room."""
    room = _asked(figure)
    there = {frozenset((pair.one, pair.other)) for pair in room.together}
    more = tuple(Together(one=a, other=b) for a, b in pairs if frozenset((a, b)) not in there)
    words = (
        f"{_name(figure, more[0].one)} and {_name(figure, more[0].other)} belong together"
        if len(more) == 1
        else "they belong together"
    )
    return Edit(words[:80], (Set(("room",), room.but(together=(*room.together, *more))),))


def compare(figure: Figure, one: str, other: str) -> Edit:
    """That pair is compared again."""
    room = _asked(figure)
    left = tuple(pair for pair in room.together if {pair.one, pair.other} != {one, other})
    return Edit("compare them again", (Set(("room",), room.but(together=left)),))


def _name(figure: Figure, ident: str) -> str:
    """Of a part; of a servo, by its joint; of the wearer's head."""
    part = next((part for part in figure.parts if part.id == ident), None)
    drive = next((drive for drive in figure.drives if drive.id == ident), None)
    return (
        part.name
        if part is not None
        else f"servo of {figure.joint(drive.joint).name}"
        if drive is not None
        else "the wearer’s head"
    )


def _asked(figure: Figure) -> Room:
    if figure.room is None:
        raise EditRefused("Nobody asked for room in this figure yet; nothing was changed.")
    return figure.room
