"""What the tables of a player that lives by itself are."""

from __future__ import annotations

from dataclasses import dataclass

from karakuri.model.figure import Figure

MoveRow = tuple[int, int, int, int, int]


def lives(figure: Figure) -> bool:
    """Whether there is anything it does by itself."""
    return figure.behaviour is not None and bool(figure.behaviour.states)


@dataclass(frozen=True)
class LiveTables:
    """`text` is living_tables.h, `moves` what it adds to the table of moves; bytes of flash without these moves and of RAM; `unread` inputs that are plugged in
    nowhere, `mute` cues that nobody gives, `silent` sounds nobody could listen to: their jaws do not move."""

    text: str
    moves: tuple[MoveRow, ...]
    flash_bytes: int
    ram_bytes: int
    unread: tuple[str, ...]
    mute: tuple[str, ...]
    silent: tuple[str, ...]
