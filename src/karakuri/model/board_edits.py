"""Edits of boards and plugs: what lies where, what is plugged into which pin. Which pin is free and fits is told by wiring/plug_in."""

from __future__ import annotations

from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.board import Board, BoardKindId, PluggedKind
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.leads import called
from karakuri.model.loosen import unplugged
from karakuri.model.ref import Ref

OF_BOARD = ("board", "controller", "generator", "receiver")
"""Words in a part's name that say it is a board."""
OF_RAIL = ("rail", "battery", "batteries", "cells", "accumulator", "distribution")
"""Words that say power is shared out beside it."""


def add_board(figure: Figure, kind: BoardKindId, name: str) -> tuple[Edit, str]:
    """One more board, where a part of the figure says it is one; and its id."""
    ident = new_id(figure, name)
    taken = {board.part for board in figure.boards}
    words = OF_RAIL if kind == "rail" else OF_BOARD
    part = next((p.id for p in figure.parts if p.id not in taken and set(p.name.lower().split()) & set(words)), None)
    names = {board.name for board in figure.boards}
    called_so = name if name not in names else next(f"{name} {n}" for n in range(2, 99) if f"{name} {n}" not in names)
    board = Board(id=ident, name=called_so, kind=kind, part=part)
    return Edit(f"add {called_so}", (Add("boards", board),)), ident


def set_board(figure: Figure, ident: str, words: str, **fields: Any) -> Edit:
    """Some fields of a board; a part and a place of its own leave each other out."""
    board = board_of(figure, ident)
    if fields.get("part") is not None:
        fields |= {"at_mm": None}
    elif fields.get("at_mm") is not None:
        fields |= {"part": None}
    made = Board(**(dict(board) | fields))
    steps = tuple(Set(("boards", ident, field), getattr(made, field)) for field in fields)
    return Edit(f"{words} of {board.name}", steps, f"board {ident} {' '.join(fields)}")


def remove_board(figure: Figure, ident: str) -> Edit:
    """A board goes, and what was plugged into it is plugged in no more."""
    board = board_of(figure, ident)
    return Edit(f"remove {board.name}", (*unplugged(figure, {ident}), Remove("boards", ident)))


def plug_in(figure: Figure, board_id: str, of: PluggedKind, item: str, pins: tuple[tuple[str, str], ...]) -> Edit:
    """Plug a thing into pins of a board; where it was plugged in it is not any more, what is said of its wires stays."""
    board = board_of(figure, board_id)
    old = next((plug for plug in figure.plugs if (plug.of, plug.item) == (of, item)), None)
    if old is not None:
        steps: tuple[Step, ...] = (Set(("plugs", old.id, "board"), board_id), Set(("plugs", old.id, "pins"), pins))
        return Edit(f"plug {called(figure, old)} into {board.name}"[:80], steps)
    fields = {"id": new_id(figure, f"plug {item}"), "board": board_id, "of": of, "item": item, "pins": pins}
    return Edit(f"plug into {board.name}"[:80], (Add("plugs", fields),))


def set_plug(figure: Figure, ident: str, words: str, **fields: Any) -> Edit:
    """Some fields of a plug: where it sits, how long and how thick its wires are."""
    plug = next((each for each in figure.plugs if each.id == ident), None)
    if plug is None:
        raise EditRefused("It is plugged in no more.")
    steps = tuple(Set(("plugs", ident, field), value) for field, value in fields.items())
    return Edit(f"{words} of {called(figure, plug)}"[:80], steps, f"plug {ident} {' '.join(fields)}")


def set_pin(figure: Figure, ident: str, lead: str, pin: str) -> Edit:
    """A lead to another pin; the pins of its other leads stay."""
    plug = next((each for each in figure.plugs if each.id == ident), None)
    if plug is None:
        raise EditRefused("It is plugged in no more.")
    pins = (*((each, at) for each, at in plug.pins if each != lead), (lead, pin))
    return set_plug(figure, ident, f"pin {pin}", pins=pins)


def pull_out(figure: Figure, ident: str) -> Edit:
    """Plugged in no more."""
    plug = next((each for each in figure.plugs if each.id == ident), None)
    if plug is None:
        raise EditRefused("It is plugged in no more.")
    return Edit(f"pull out {called(figure, plug)}"[:80], (Remove("plugs", ident),))


def board_of(figure: Figure, ident: str) -> Board:
    """The board of that id. Raises EditRefused."""
    found = next((board for board in figure.boards if board.id == ident), None)
    if found is None:
        raise EditRefused("That board is no longer there.")
    return found


def plug_of(figure: Figure, ref: Ref) -> str | None:
    """The id of the plug of a servo, a light, a motor, a voice, an input or a board; None where it is plugged in nowhere."""
    kinds: dict[str, tuple[PluggedKind, ...]] = {"drive": ("drive",), "channel": ("light", "run", "voice"), "input": ("input",), "board": ("board",)}  # fmt: skip
    if ref.kind == "plug":
        return ref.id
    return next((plug.id for plug in figure.plugs if plug.of in kinds.get(ref.kind, ()) and plug.item == ref.id), None)
