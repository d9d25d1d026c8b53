"""What the tables of a player that lives by itself are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from karakuri.model.figure import Figure

MoveRow = tuple[int, int, int, int, int]


def lives(figure: Figure) -> bool:
    """Whether there is anything it does by itself."""
    return figure.behaviour is not None and bool(figure.behaviour.states)


@dataclass(frozen=True)
class LiveTables:
    """`text` is living_tables.h, `numbers` and `defines` the same as rows and numbers, `moves` what it adds to the table of moves; bytes of flash without these moves and of RAM; `unread` inputs that are plugged in
    nowhere, `mute` cues that nobody gives, `silent` sounds nobody could listen to: their jaws do not move."""

    text: str
    numbers: Mapping[str, list[object]]
    defines: Mapping[str, int | float | bool]
    moves: tuple[MoveRow, ...]
    flash_bytes: int
    ram_bytes: int
    unread: tuple[str, ...]
    mute: tuple[str, ...]
    silent: tuple[str, ...]


def live_words(live: LiveTables, typed: bool = False) -> str:
    """What of a living player is not as in the window: sentences, or nothing. `typed`: cues can be given at its terminal."""
    words = []
    if live.unread:
        words.append(f"Plugged in nowhere, and so never noticed: {', '.join(live.unread)}.")
    if live.mute and typed:
        words.append(f"Cues are typed, a line each, where it runs: {', '.join(live.mute)}.")
    elif live.mute:
        words.append(f"Nobody gives the cue {', '.join(f'“{cue}”' for cue in live.mute)} there.")
    return "".join(f" {each}" for each in words)
