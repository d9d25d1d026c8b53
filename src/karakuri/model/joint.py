"""Joints: where the figure turns or slides, how far, and what is wanted of it."""

from __future__ import annotations

import math
from typing import Literal, Self

from pydantic import Field, model_validator

from karakuri.model.base import Identifier, Interval, Name, NotNegative, Place, Positive, Value
from karakuri.model.part import BASE

SupportKind = Literal["spline", "bush", "bearing_pair", "turntable"]
Region = Literal["neck", "eyes", "lids", "beak", "body"]


class Support(Value):
    """What carries the load across the joint besides the torque: side load and tilting moment."""

    kind: SupportKind = Field("spline", description="spline: the servo's own output shaft carries everything.")
    permitted_moment_Nm: Positive | None = Field(
        None, description="Left out: from the servo (spline) or the catalogue."
    )
    distance_mm: NotNegative = Field(0.0, description="Spline: from the case's bearing to the pivot's plane.")


class Move(Value):
    """A wanted move: so many degrees (or mm, for a slide) in so many seconds."""

    by: Positive = Field(description="Degrees for a turning joint, millimetres for a sliding one.")
    time_s: Positive


class Follow(Value):
    """This joint's coordinate is ratio × another's + offset."""

    joint: Identifier
    ratio: float = 1.0
    offset_deg: float = 0.0


class Joint(Value):
    """A joint. Angles are counted about + axis by the right hand from the figure at rest."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    kind: Literal["turn", "slide"] = "turn"
    role: Literal["driven", "follows", "free"] = "driven"
    follows: Follow | None = None
    at_mm: Place = Field((0.0, 0.0, 0.0), description="The pivot, from the datum, figure at rest.")
    axis: Place = Field((0.0, 1.0, 0.0), description="Direction; any length but zero.")
    range_deg: Interval = Field((-30.0, 30.0), description="Wanted range of a turning joint.")
    range_mm: Interval = Field((0.0, 10.0), description="Wanted range of a sliding joint.")
    stops_deg: Interval | None = Field(None, description="Hard stops as measured; left out: not measured.")
    stops_mm: Interval | None = None
    stop_tolerance_deg: NotNegative = 2.0
    move: Move | None = None
    friction_Nm: NotNegative = 0.0
    support: Support = Field(default_factory=Support)
    ends: tuple[Name, Name] = Field(
        ("low", "high"), description="Names of the low and the high end: nose-up, nose-down."
    )
    region: Region = "neck"

    @model_validator(mode="after")
    def _check(self) -> Self:
        if math.hypot(*self.axis) < 1e-9:
            raise ValueError("an axis needs a direction, not (0, 0, 0)")
        for low, high in filter(None, (self.range_deg, self.range_mm, self.stops_deg, self.stops_mm)):
            if low > high:
                raise ValueError(f"a range runs from low to high, not from {low:g} to {high:g}")
        if self.range_deg[0] < -720 or self.range_deg[1] > 720:
            raise ValueError("a wanted range stays within two turns, −720° to 720°")
        if self.role == "follows" and self.follows is None:
            raise ValueError("a joint that follows names the joint it follows")
        return self
