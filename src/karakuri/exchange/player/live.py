"""What the tables of a player that lives by itself are."""

from __future__ import annotations

from collections.abc import Mapping

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure

MoveRow = tuple[int, int, int, int, int]
CUE_KEYS = "123456789abcdefghijklmnopqrstuvwxyz"
"""The character of each cue on a controller's serial line."""


def lives(figure: Figure) -> bool:
    """Whether there is anything it does by itself."""
    return figure.behaviour is not None and bool(figure.behaviour.states)


class LiveTables(Frozen):
    """`text` is living_tables.h, `numbers` and `defines` the same as rows and numbers, `moves` what it adds to the table of moves; bytes of flash without these moves and of RAM; `unread` inputs that are plugged in
    nowhere, `cues` as a player counts them, `silent` sounds nobody could listen to: their jaws do not move."""

    text: str
    numbers: Mapping[str, list[object]]
    defines: Mapping[str, int | float | bool]
    moves: tuple[MoveRow, ...]
    flash_bytes: int
    ram_bytes: int
    unread: tuple[str, ...]
    cues: tuple[str, ...]
    silent: tuple[str, ...]


def live_words(live: LiveTables, typed: bool = False) -> str:
    """What of a living player is not as in the window, and how it is given its cues: sentences, or nothing. `typed`: a line each at its terminal; else a
    character each on its receiving pin."""
    words = []
    if live.unread:
        words.append(f"Plugged in nowhere, and so never noticed: {', '.join(live.unread)}.")
    if live.cues and typed:
        words.append(f"Cues are typed, a line each, where it runs: {', '.join(live.cues)}.")
    elif live.cues:
        keys = ", ".join(f"{key} “{cue}”" for key, cue in zip(CUE_KEYS, live.cues, strict=False))
        words.append(
            f"A cue is one character at 9600 baud on its receiving pin, or in the editor’s serial monitor: {keys}."
        )
        if len(live.cues) > len(CUE_KEYS):
            words.append(f"Nobody gives it the cues {', '.join(f'“{cue}”' for cue in live.cues[len(CUE_KEYS) :])}.")
    return "".join(f" {each}" for each in words)
