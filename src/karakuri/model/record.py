"""The record: what was done and measured on the bench. It only grows; undo changes the plan, never the record."""

from itertools import pairwise
from typing import Annotated, Literal, Self

from karakuri.model.base import Angle_deg, Identifier, Name, Turned
from karakuri.values.fields import Field
from karakuri.values.value import Value

Pulse_us = Annotated[float, Field(ge=200, le=3000)]


class NamedPlace(Value):
    """A place worth remembering: open, middle, shut."""

    name: Name
    pulse_us: Pulse_us


class Calibration(Value):
    """What a servo does in this figure: joint angle and pulse at its low end, middle and high end.

    Pulses that fall with the angle mean that the servo turns the other way. Valid until the horn comes off.
    """

    angles_deg: Turned
    pulses_us: tuple[Pulse_us, Pulse_us, Pulse_us]
    horn_tooth: int | None = Field(default=None, ge=0, le=60, description="Which tooth of the spline the horn sits on.")
    between: tuple[tuple[Angle_deg, Pulse_us], ...] = Field(
        default=(),
        max_length=13,
        description="Measured between these three: angle and pulse. Straight between neighbours.",
    )
    places: tuple[NamedPlace, ...] = Field(default=(), max_length=200)

    @property
    def curve(self) -> tuple[tuple[float, float], ...]:
        """All that was measured, angle in degrees and pulse in µs, the low end first."""
        return tuple(sorted((*zip(self.angles_deg, self.pulses_us, strict=True), *self.between)))

    def _check(self) -> Self:
        if any(b - a < 1e-3 for a, b in pairwise(self.angles_deg)):
            raise ValueError("angles run from the low end over the middle to the high end")
        if not all(self.angles_deg[0] < angle < self.angles_deg[2] for angle, _ in self.between):
            raise ValueError("what is measured between lies between the low end and the high end")
        steps = [(b - a, q - p) for (a, p), (b, q) in pairwise(self.curve)]
        if any(wide < 1e-3 for wide, _ in steps):
            raise ValueError("each angle is measured once")
        if not (all(rise > 1 for _, rise in steps) or all(rise < -1 for _, rise in steps)):
            raise ValueError("pulses rise, or fall, from the low end over the middle to the high end")
        return self


class Entry(Value):
    """One line of the record. `date` is local time, ISO 8601."""

    date: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2})?)?$")
    kind: Literal["calibration", "horn off", "note"]
    drive: Identifier | None = None
    calibration: Calibration | None = None
    words: str = Field(default="", max_length=2000)

    def _check(self) -> Self:
        if self.kind != "note" and self.drive is None:
            raise ValueError("this entry names the drive it is about")
        if (self.kind == "calibration") != (self.calibration is not None):
            raise ValueError("a calibration entry, and no other, holds a calibration")
        return self
