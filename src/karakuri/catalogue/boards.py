"""What boards there are: their pins, what each can do, which timer makes it, what it may carry. Data in boards.json, each with its source."""

from __future__ import annotations

from functools import cached_property, lru_cache
from typing import Literal

from msgspec import field

from karakuri.catalogue import _data
from karakuri.frozen import Frozen


class BoardPin(Frozen):
    """A pin: what it does (see model/leads.py), the port and bit it is inside, the timer and its half that dim it, such as 2B, and its number as an output, −1 where it is none."""

    id: str
    does: tuple[str, ...]
    port: str = ""
    output: int = -1
    compare: str = ""

    @property
    def timer(self) -> int | None:
        """The timer that dims it; None where none does."""
        return int(self.compare[0]) if self.compare else None


class StringPin(Frozen):
    """Where the player of a board sends a string of lamps from when it is sent by SPI: that pin alone, `takes` others that go with it, `lamp_us` a lamp, `most`
    lamps at once, 0 as many as the time allows."""

    pin: str
    takes: tuple[str, ...]
    lamp_us: float
    most: int = 0


class BoardKind(Frozen):
    """A kind of board. `volts` of its logic; `rail`: servos' power comes to it and is handed on beside each pin; `pin_mA`, `all_mA`: what a pin, and all of
    them, may give; `bus`: it has one, or hangs on one, then at `address` as it comes; `follows`: a controller that may hang on another's, at that address unless it is given one. Of a controller: its `chip` and its memory, bytes, `stack_bytes` of it kept
    for the stack, and the ports whose pins tell of themselves when they change, with the number by which they do; `core`: the player reaches its pins
    by the usual editor's core alone; `computer`: it runs the player in plain Python; `stop`: the pin of the player's stop switch; `string`: where a string
    of lamps goes, None where any pin that goes on and off sends one, interrupts shut; `feeds`: pins it can be fed by, each with the least and the most volts, lowest first."""

    id: str
    name: str
    what: Literal["controller", "outputs", "rail"]
    volts: float | None
    rail: bool
    pin_mA: float | None
    all_mA: float | None
    bus: bool
    source: str
    pins: tuple[BoardPin, ...]
    address: int | None = None
    follows: int | None = None
    addresses: tuple[int, int] | None = None
    chip: str = ""
    flash_bytes: int = 0
    ram_bytes: int = 0
    stack_bytes: int = 0
    edges: dict[str, int] = field(default_factory=dict)
    core: bool = False
    computer: bool = False
    stop: str = "A0"
    string: StringPin | None = None
    feeds: tuple[tuple[str, float, float], ...] = ()

    def feed(self, volts: float) -> str | None:
        """The pin that takes so many volts; None where none does."""
        return next((name for name, low, high in self.feeds if low <= volts <= high), None)

    @cached_property
    def by_id(self) -> dict[str, BoardPin]:
        """Its pins by what is printed beside them."""
        return {pin.id: pin for pin in self.pins}

    def of_output(self, number: int) -> BoardPin | None:
        """The pin that is an output of that number; None where there is none."""
        return next((pin for pin in self.pins if pin.output == number), None)


@lru_cache(maxsize=1)
def board_kinds() -> tuple[BoardKind, ...]:
    """All kinds, in the order in which they are offered."""
    found = []
    for row in _data("boards.json")["boards"]:
        pins = tuple(BoardPin(**{**pin, "does": tuple(pin["does"])}) for pin in row["pins"])
        both = tuple(row["addresses"]) if "addresses" in row else None
        string = StringPin(**{**row["string"], "takes": tuple(row["string"]["takes"])}) if "string" in row else None
        feeds = tuple((name, low, high) for name, low, high in row.get("feeds", ()))
        found.append(BoardKind(**{**row, "pins": pins, "addresses": both, "string": string, "feeds": feeds}))
    return tuple(found)


def board_kind(ident: str) -> BoardKind:
    """The kind of that id. Raises KeyError."""
    return {kind.id: kind for kind in board_kinds()}[ident]
