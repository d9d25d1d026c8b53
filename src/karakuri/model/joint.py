"""Joints: where the figure turns or slides, how far, and what is wanted of it."""

import math
from typing import Annotated, Literal, Self, get_args

from karakuri.model.base import (
    Angle_deg,
    Coordinate_mm,
    Direction,
    Distance_mm,
    Duration_s,
    Friction_Nm,
    Identifier,
    Name,
    Place,
    Range_deg,
    Range_mm,
    Torque_Nm,
    Width_deg,
)
from karakuri.model.drag import ROLLS, Bearing, Drag
from karakuri.model.measures import MEASURES, Measure
from karakuri.model.part import BASE
from karakuri.model.profiles import DESCRIBED, ProfileKind
from karakuri.model.timings import TIMINGS, Timing, TimingKind, timing_of
from karakuri.values.fields import After, Before, Field
from karakuri.values.value import Value

SupportKind = Literal["spline", "bush", "bearing_pair", "turntable"]
RegionKind = Literal["neck", "eyes", "lids", "jaw", "body"]
Region = Annotated[RegionKind, Before(lambda word: "jaw" if word == "beak" else word)]  # as files before wrote it
SUPPORT_KINDS: tuple[SupportKind, ...] = get_args(SupportKind)
REGIONS: tuple[RegionKind, ...] = get_args(RegionKind)


def _may_be_wanted(kind: ProfileKind) -> ProfileKind:
    if not DESCRIBED[kind].wanted:
        raise ValueError(f"a wanted move arrives in its time, '{kind}' does not")
    return kind


WantedProfile = Annotated[ProfileKind, After(_may_be_wanted)]


class Support(Value):
    """What carries the load across the joint besides the torque: side load and tilting moment."""

    kind: SupportKind = Field(default="spline", description="spline: the servo's own output shaft carries everything.")
    permitted_moment_Nm: Torque_Nm | None = Field(
        default=None, description="Left out: from the servo (spline) or the catalogue."
    )
    distance_mm: Distance_mm = Field(default=0.0, description="Spline: from the case's bearing to the pivot's plane.")


class Move(Value):
    """A wanted move: so many degrees (or mm, for a slide) in so many seconds."""

    by: float = Field(ge=0.001, le=20_000, description="Degrees for a turning joint, millimetres for a sliding one.")
    time_s: Duration_s
    profile: WantedProfile | None = Field(
        default=None,
        description="How it is made; left out: minimum jerk, or as fast as it goes where the joint's timing is quick.",
    )


class Follow(Value):
    """This joint's coordinate is ratio × another's + offset, in degrees or millimetres as each of them has."""

    joint: Identifier
    ratio: float = Field(default=1.0, ge=-1000, le=1000)
    offset_deg: Angle_deg = 0.0
    offset_mm: Coordinate_mm = Field(default=0.0, description="Of a follower that slides.")


class Joint(Value):
    """A joint. Angles are counted about + axis by the right hand from the figure at rest."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    kind: Literal["turn", "slide"] = "turn"
    role: Literal["driven", "follows", "free"] = "driven"
    follows: Follow | None = None
    at_mm: Place = Field(default=(0.0, 0.0, 0.0), description="The pivot, from the datum, figure at rest.")
    axis: Direction = Field(default=(0.0, 1.0, 0.0), description="Direction; any length but zero.")
    range_deg: Range_deg = Field(default=(-30.0, 30.0), description="Wanted range of a turning joint.")
    range_mm: Range_mm = Field(default=(0.0, 10.0), description="Wanted range of a sliding joint.")
    stops_deg: Range_deg | None = Field(default=None, description="Hard stops as measured; left out: not measured.")
    stops_mm: Range_mm | None = None
    rests_deg: Range_deg | None = Field(
        default=None,
        description="Where it may stand for long; left out: all of the wanted range. Outside, it is only passed through.",
    )
    stop_tolerance_deg: Width_deg = 2.0
    move: Move | None = None
    friction_Nm: Friction_Nm = Field(
        default=0.0, description="What it rubs with, N for a slide, where `drag` says nothing."
    )
    drag: Drag | None = Field(
        default=None, description="What it rubs in, or two pulls with a scale; comes before friction_Nm."
    )
    support: Support = Field(default_factory=Support)
    ends: tuple[Name, Name] = Field(
        default=("low", "high"), description="Names of the low and the high end: nose-up, nose-down."
    )
    region: Region = Field(default="neck", description="The colour it is drawn in, nothing else.")
    timing: TimingKind | None = Field(
        default=None,
        description="How a wanted move is judged, when it sets off in a pinned pose, what it does when idle; left out: by its name.",
    )
    twin: Identifier | None = Field(
        default=None,
        description="The joint on the other side that it makes a pair with; left out: by left and right in their names.",
    )

    @property
    def measure(self) -> Measure:
        """How its values are written."""
        return MEASURES[self.kind]

    def named(self, field: str) -> str:
        """The field that holds a thing for this kind of joint: range → range_deg or range_mm."""
        return f"{field}_{self.measure.unit}"

    @property
    def range(self) -> tuple[float, float]:
        """The wanted range, in degrees or millimetres."""
        return self.range_mm if self.kind == "slide" else self.range_deg

    @property
    def stops(self) -> tuple[float, float] | None:
        """The hard stops, in degrees or millimetres; None where they are not measured."""
        return self.stops_mm if self.kind == "slide" else self.stops_deg

    @property
    def rubs(self) -> bool:
        """Whether anything is said of what it rubs with."""
        return self.drag is not None or self.friction_Nm > 0

    @property
    def stays_anywhere(self) -> bool:
        """Whether it rubs so that, left alone, it may stay wherever it was left: what rolls on balls does not."""
        if isinstance(self.drag, Bearing):
            return self.drag.bearing not in ROLLS
        return self.rubs

    @property
    def offset(self) -> float:
        """How far a follower stands ahead of its leader, in degrees or millimetres; 0 for what does not follow."""
        if self.follows is None:
            return 0.0
        return self.follows.offset_mm if self.kind == "slide" else self.follows.offset_deg

    @property
    def timed(self) -> Timing:
        """Its timing: as the builder says, else by its name."""
        return TIMINGS[self.timing or timing_of(self.name)]

    def _check(self) -> Self:
        if math.hypot(*self.axis) < 1e-9:
            raise ValueError("an axis needs a direction, not (0, 0, 0)")
        for low, high in filter(None, (self.range_deg, self.range_mm, self.stops_deg, self.stops_mm, self.rests_deg)):
            if low > high:
                raise ValueError(f"a range runs from low to high, not from {low:g} to {high:g}")
        if self.role == "follows" and self.follows is None:
            raise ValueError("a joint that follows names the joint it follows")
        return self
