"""Boards, and what is plugged into which pin of which: the one table that wiring, exports and the window share.

What a board of a kind is, its pins and what each can do, stands in the catalogue. To add a thing that is plugged in: a kind in model/leads.py.
"""

from typing import Annotated, Literal, Self

from karakuri.model.base import Distance_mm, Identifier, Name, Place
from karakuri.model.part import BASE
from karakuri.values.fields import Field
from karakuri.values.value import Value

BoardKindId = Literal["line", "atmega328p", "atmega2560", "rp2040", "computer", "generator", "rail"]
PluggedKind = Literal["drive", "light", "run", "voice", "input", "board"]
CONTROLLERS: tuple[BoardKindId, ...] = ("atmega328p", "atmega2560", "rp2040", "computer")
"""What runs a program."""
PULSED: tuple[PluggedKind, ...] = ("drive", "run")
"""What takes servo pulses."""
Pin = Annotated[str, Field(pattern=r"^[A-Z]{0,3}[0-9]{0,3}$", min_length=1, max_length=6)]
Gauge = Annotated[int, Field(ge=10, le=32)]


class Board(Value):
    """A controller, a pulse generator, a rail that power is shared out from."""

    id: Identifier
    name: Name
    kind: BoardKindId = Field(default="line", description="Of the catalogue of boards.")
    part: Identifier | None = Field(default=None, description="The part that it is: it lies where that does.")
    rides_on: Identifier = BASE
    at_mm: Place | None = Field(default=None, description="Where it lies, when it is no part; left out: not said yet.")
    fed_alone: bool = Field(default=False, description="Of a controller: fed by 5 V of its own, a converter or a plug, not by what feeds the servos; a single-board computer always is.")  # fmt: skip
    address: Annotated[int, Field(ge=1, le=126)] | None = Field(
        default=None, description="On the bus, of one that hangs on one; left out: as it comes."
    )
    clock_MHz: Annotated[float, Field(ge=20, le=30)] | None = Field(
        default=None,
        description="Of a pulse generator: its own clock, as measured; left out: 25, nominal, a few per cent off.",
    )


class Plug(Value):
    """One thing plugged into a board: which of its leads goes to which pin. Power and ground go without saying."""

    id: Identifier
    board: Identifier
    of: PluggedKind
    item: Identifier = Field(
        description="The servo, the ribbon of a light, a motor or a voice, the input or the board that is plugged in."
    )
    pins: tuple[tuple[Identifier, Pin], ...] = Field(default=(), max_length=6, description="Leads that carry signals, each with its pin.")  # fmt: skip
    rides_on: Identifier | None = Field(
        default=None, description="Of a light, a motor, a voice or an input: what it sits on."
    )
    at_mm: Place | None = Field(default=None, description="Of those: where it sits; left out: not said yet.")
    along_mm: Distance_mm | None = Field(
        default=None, description="How long its wires are, as they lie; left out: worked out from where both ends are."
    )
    gauge_awg: Gauge = Field(default=26, description="Of its signals.")
    power_awg: Gauge = Field(default=22, description="Of what feeds it.")
    lamps: Annotated[int, Field(ge=0, le=1000)] = Field(
        default=0,
        description="Of a light: so many lamps on a string with a data wire of its own; 0: dimmed by the pin.",
    )
    fed_alone: bool = Field(
        default=False, description="Of a string of lamps: by 5 V of its own, not by what feeds the servos."
    )
    shifted: bool = Field(default=False, description="Of a string of lamps: its data goes through a level shifter.")
    straight: bool = Field(default=False, description="Of a light: fed by the pin itself, without a transistor.")

    def _check(self) -> Self:
        leads = [lead for lead, _ in self.pins]
        twice = next((lead for lead in leads if leads.count(lead) > 1), None)
        if twice is not None:
            raise ValueError(f"the lead '{twice}' goes to one pin, not to two")
        return self

    def pin(self, lead: str) -> str | None:
        """The pin of a lead; None where it has none."""
        return next((pin for each, pin in self.pins if each == lead), None)
