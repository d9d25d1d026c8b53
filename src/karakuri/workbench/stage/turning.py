"""Posing by a drag in an elevation: the part in hand follows the pointer about its joint's axis, or along it."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.tree import wanted_range
from karakuri.frozen import Frozen
from karakuri.model.ref import Ref, item_of
from karakuri.sizing.followed import as_driven

FACING, LEAST_M, STEP_RAD, STEP_M = 0.5, 0.008, math.radians(1.0), 1e-3


class Turning(Frozen, eq=False):
    """A joint in hand. pivot, start: pixels; along: pixels the part moves for one rad or m; facing: the axis points at the viewer
    (its sign), so that the angle about the pivot counts, or 0."""

    joint: str
    began: float
    ends: tuple[float, float]
    start: tuple[float, float]
    pivot: tuple[float, float]
    along: tuple[float, float]
    facing: float
    step: float

    def value(self, x: float, y: float) -> float:
        """The joint's value, rad or m, for a pointer; in whole degrees or millimetres, within the wanted range."""
        if self.facing:
            now = math.atan2(self.pivot[1] - y, x - self.pivot[0])
            then = math.atan2(self.pivot[1] - self.start[1], self.start[0] - self.pivot[0])
            by = math.remainder(now - then, 2 * math.pi) * self.facing
        else:
            size = self.along[0] ** 2 + self.along[1] ** 2
            by = ((x - self.start[0]) * self.along[0] + (y - self.start[1]) * self.along[1]) / size
        value = round((self.began + by) / self.step) * self.step
        return min(max(value, self.ends[0]), self.ends[1])


def grasp(scene, desk, found: Ref, at: tuple[float, float], view) -> Turning | None:
    """What turns when the part or pivot found is dragged; None for what stands on the base, a wearer or what is strung."""
    figure, held = desk.figure, item_of(desk.figure, found)
    ident = found.id if found.kind == "joint" else getattr(held, "rides_on", "base")
    if ident == "base" or ident not in scene.tree.ids:
        return None
    joint, j = figure.joint(ident), scene.tree.index(ident)
    axis = scene.room @ scene.placed.axis[j, :, 0]
    pivot = scene.room @ scene.placed.pivot[j, :, 0]
    ends, began = wanted_range(as_driven(figure, joint)), desk.place(ident)
    middle = view.to_screen(pivot)
    if joint.kind == "slide":
        right, up = view.axes @ axis
        along = (right * view.k, -up * view.k) if math.hypot(right, up) > 0.2 else (view.k, 0.0)
        return Turning(ident, began, ends, at, middle, along, 0.0, STEP_M)
    facing = float(axis @ np.cross(view.axes[0], view.axes[1]))
    if abs(facing) > FACING and math.hypot(at[0] - middle[0], at[1] - middle[1]) > 4:
        return Turning(ident, began, ends, at, middle, (0.0, 0.0), math.copysign(1.0, facing), STEP_RAD)
    point = scene.at(scene.link(held.rides_on), held.at_mm) if found.kind == "part" else pivot
    right, up = view.axes @ np.cross(axis, point - pivot)
    if math.hypot(right, up) < LEAST_M:
        right, up = 0.03, 0.0
    return Turning(ident, began, ends, at, middle, (right * view.k, -up * view.k), 0.0, STEP_RAD)
