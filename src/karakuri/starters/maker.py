"""What a starter speaks to: it places things by shares of the head's height, and everything it makes is a step of one edit."""

from __future__ import annotations

import math
from typing import Any

from karakuri.catalogue import materials, servo_class
from karakuri.model.base import Place
from karakuri.model.edit import Add, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import REGIONS, RegionKind
from karakuri.model.joint_edits import MOTIONS
from karakuri.model.part import BASE
from karakuri.model.transmission import Lever, Transmission

HORN_MM = (8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0)
"""Holes of usual horns: common practice, no source."""


class Maker:
    """Steps being gathered for a figure whose head is `tall` mm high, with its middle at `middle`, and eyeballs `eye` mm across. `head` is what carries
    the head: the base until a neck is put down."""

    def __init__(self, figure: Figure, tall: float, eye: float, middle: Place, head: str = BASE) -> None:
        self.tall, self.eye, self.middle, self.head = tall, eye, middle, head
        self.steps: list[Step] = []
        self.drives: list[str] = []
        self._figure, self._taken = figure, set[str]()
        self._stuffs = {material.id for material in figure.materials}

    def at(self, ahead: float, left: float, up: float) -> Place:
        """A place, mm from the datum, by shares of the head's height from its middle."""
        x, y, z = self.middle
        return (
            round(x + ahead * self.tall, 1),
            round(y + left * self.tall, 1),
            round(z + up * self.tall, 1),
        )

    def mm(self, share: float, least: float = 0.0) -> float:
        """A share of the head's height in mm, and no less than that."""
        return round(max(share * self.tall, least), 1)

    def s(self, seconds: float) -> float:
        """How long a move takes that takes so many seconds on a head of 200 mm: a larger one moves as much slower as a longer pendulum."""
        return round(seconds * max(1.0, math.sqrt(self.tall / 200.0)), 2)

    def eased(self, by: float, seconds: float) -> dict[str, Any]:
        """A move of what is usually thrown about, by so many degrees in so many seconds on a head of 200 mm, but eased: so it shakes less."""
        return {"by": by, "time_s": self.s(seconds), "profile": "minimum jerk"}

    def joint(self, name: str, motion: str, at: Place, range_deg: tuple[float, float], region: RegionKind, on: str | None = None, **more: Any) -> str:  # fmt: skip
        """One that moves in one of the usual ways, at mm, between degrees; returns its id."""
        assert region in REGIONS
        ident, usual = self._id(name), MOTIONS[motion]
        fields = {
            "id": ident,
            "name": name,
            "rides_on": on or self.head,
            "at_mm": at,
            "axis": usual.axis,
            "ends": usual.ends,
            "range_deg": range_deg,
            "region": region,
        }
        self.steps.append(Add("joints", fields | more))
        return ident

    def part(self, name: str, on: str, at: Place, shape: dict[str, Any], stuff: str = "", grams: float | None = None, **more: Any) -> str:  # fmt: skip
        """Something of a stuff of the catalogue, weighed by its shape, or of so many grams at a guess; at mm. Returns its id."""
        ident = self._id(name)
        fields: dict[str, Any] = {"id": ident, "name": name, "rides_on": on, "at_mm": at, "shape": shape}
        if stuff:
            if stuff not in self._stuffs:
                self._stuffs.add(stuff)
                self.steps.append(Add("materials", next(each for each in materials() if each.id == stuff)))
            fields["material"] = stuff
        else:
            fields["mass_g"] = grams
        self.steps.append(Add("parts", fields | more))
        return ident

    def servo(self, joint: str, least: str, form: Transmission | None = None, at: Place | None = None, on: str | None = None) -> str:  # fmt: skip
        """A servo for a joint, of the smallest class that one takes for it; a larger one is fitted where that does not hold. At mm; returns its id."""
        ident = self._id(f"{joint}_servo")
        fields: dict[str, Any] = {"id": ident, "joint": joint, "actuator": servo_class(least)}
        fields |= {
            key: value for key, value in (("transmission", form), ("at_mm", at), ("rides_on", on)) if value is not None
        }
        self.steps.append(Add("drives", fields))
        self.drives.append(ident)
        return ident

    def element(self, name: str, **fields: Any) -> str:
        """A spring or a cord, by its fields in mm, N and degrees; returns its id."""
        ident = self._id(name)
        self.steps.append(Add("elements", {"id": ident, "name": name} | fields))
        return ident

    def lever(self, range_deg: tuple[float, float], axes: float, horn: float, arm: float) -> Lever:
        """Horn, rod and lever, mm, square to each other in the middle of a range in degrees; of holes that there usually are."""
        holes = min(HORN_MM, key=lambda hole: abs(hole - horn))
        return Lever.from_fields(
            {"horn_mm": holes, "lever_mm": arm, "axes_mm": axes, "lever_deg": round(90.0 - sum(range_deg) / 2, 1)}
        )

    def _id(self, name: str) -> str:
        return new_id(self._figure, name, self._taken)
