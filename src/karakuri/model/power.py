"""What feeds the figure over a show: cells or mains, a converter, the wire to the servos, a fuse, and what draws besides servos."""

from typing import Annotated, Literal, Self

from karakuri.model.base import Identifier, Name, Voltage_V
from karakuri.values.fields import Field
from karakuri.values.value import Value

Chemistry = Literal["nickel", "lithium polymer", "lithium ion", "lithium iron", "lead"]
LoadKind = Literal["light", "sound", "controller", "motor", "other"]
Amps = Annotated[float, Field(ge=0, le=1000)]


class Cells(Value):
    """Cells one after another."""

    chemistry: Chemistry = "nickel"
    count: Annotated[int, Field(ge=1, le=60)] = 5
    capacity_mAh: Annotated[float, Field(ge=1, le=1e6)] = 2000.0
    age_years: Annotated[float, Field(ge=0, le=30)] = 0.0
    at_C: Annotated[float, Field(ge=-40, le=60)] = 20.0
    ohm_mohm: Annotated[float, Field(ge=0, le=10_000)] | None = Field(
        default=None, description="Resistance of one cell inside; left out: typical of its kind, an estimate."
    )


class Converter(Value):
    """Makes the supply's voltage of what the cells give; the supply's current is the most it gives."""

    efficiency: Annotated[float, Field(ge=0.2, le=1.0)] = Field(default=0.9, description="0.85 to 0.95: from memory.")
    raises: bool = Field(default=False, description="It also gives more volts than it gets; a step-down one does not.")


class Wire(Value):
    """The wire from what feeds to the servos, one way."""

    gauge_awg: Annotated[int, Field(ge=0, le=40)] = 22
    length_mm: Annotated[float, Field(ge=1, le=100_000)] = 500.0


class Load(Value):
    """What draws besides servos: a light in full, a motor in full, an amplifier at its loudest, a controller."""

    id: Identifier
    name: Name
    kind: LoadKind = "other"
    amps: Amps = Field(
        default=0.1, description="At the servos' voltage; of a light in full, of a sound at its loudest."
    )
    guess: bool = Field(
        default=True, description="Whether the current is a guess, not measured and from no data sheet."
    )
    channel: Identifier | None = Field(
        default=None, description="The light, the motor or the voice it goes with; left out: always on."
    )
    runs: Identifier | None = Field(
        default=None,
        description="The motor or linear actuator, or the joint of the stepper, whose current it is; of one that is gone it stays what it was.",
    )


class Power(Value):
    """Left out of a figure: it is fed by its supply and nothing is asked of time."""

    cells: Cells | None = None
    converter: Converter | None = None
    wire: Wire = Field(default_factory=Wire)
    fuse_A: Annotated[float, Field(ge=0.05, le=1000)] | None = None
    capacitor_uF: Annotated[float, Field(ge=1, le=1e7)] | None = None
    lasts_h: Annotated[float, Field(ge=0.01, le=1000)] = Field(default=3.0, description="How long the show is.")
    least_V: Voltage_V = Field(
        default=4.5, description="Below it controllers reset and servos twitch: common practice."
    )
    loads: tuple[Load, ...] = Field(default=(), max_length=100)

    def _check(self) -> Self:
        ids = [load.id for load in self.loads]
        twice = next((ident for ident in ids if ids.count(ident) > 1), None)
        if twice is not None:
            raise ValueError(f"power.loads: the id '{twice}' is used twice")
        return self
