"""Controllers that follow another on its bus: they do with their own pins what that tells them, sixteen channels like a pulse generator, and decide nothing.

A controller plugged into another's bus follows it; the others lead.
"""

from __future__ import annotations

from karakuri.catalogue.boards import board_kind
from karakuri.model.board import PULSED, Board, Plug
from karakuri.model.figure import Figure

CHANNELS = 16
ADDRESSES = (8, 119)
"""What a device on such a bus may have for an address: I2C-bus specification UM10204, from memory."""


def hangs_on(figure: Figure, board: Board) -> Board | None:
    """The board on whose bus a board hangs; None where it hangs on none."""
    plug = next((each for each in figure.plugs if each.of == "board" and each.item == board.id), None)
    return None if plug is None else next(each for each in figure.boards if each.id == plug.board)


def follows(figure: Figure, board: Board) -> bool:
    """Whether a board is a controller that follows another."""
    return board_kind(board.kind).what == "controller" and hangs_on(figure, board) is not None


def leaders(figure: Figure) -> tuple[Board, ...]:
    """The controllers that follow none."""
    return tuple(b for b in figure.boards if board_kind(b.kind).what == "controller" and hangs_on(figure, b) is None)


def followers(figure: Figure) -> tuple[Board, ...]:
    """The controllers that follow another."""
    return tuple(board for board in figure.boards if follows(figure, board))


def may_follow(figure: Figure) -> tuple[Board, ...]:
    """The controllers that follow another, or could: all of a kind that can but the first that leads."""
    first = next(iter(leaders(figure)), None)
    return tuple(b for b in figure.boards if board_kind(b.kind).follows is not None and (first is None or b.id != first.id))  # fmt: skip


def address_of(board: Board) -> int | None:
    """Where it answers on a bus: as it is written, else as it comes; None of what hangs on none."""
    kind = board_kind(board.kind)
    comes = kind.address if kind.address is not None else kind.follows
    return board.address if board.address is not None and comes is not None else comes


def addresses_of(board: Board) -> tuple[int, int]:
    """Between which addresses it may be set; nothing where it hangs on no bus."""
    kind = board_kind(board.kind)
    return kind.addresses or (ADDRESSES if kind.follows is not None else (0, -1))


def told_at(figure: Figure, board: Board) -> dict[str, str]:
    """The pins by which a follower is told, and what each is; none of any other board."""
    pins = board_kind(board.kind).pins if follows(figure, board) else ()
    return {pin.id: ability for pin in pins for ability in ("data", "clock") if ability in pin.does}


def channels_of(figure: Figure, board: Board) -> dict[str, int]:
    """The channel of each thing that a follower drives, by the plug's id, in the order in which they were plugged in."""
    driven = [plug for plug in figure.plugs if plug.board == board.id and is_driven(plug)]
    return {plug.id: k for k, plug in enumerate(driven)}


def told_channels(figure: Figure) -> dict[str, int]:
    """The channels of all that followers drive, by the plug's id."""
    return {ident: k for board in followers(figure) for ident, k in channels_of(figure, board).items()}


def is_driven(plug: Plug) -> bool:
    """Whether it is a servo, a motor that runs or a light."""
    return plug.of in (*PULSED, "light")
