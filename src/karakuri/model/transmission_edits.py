"""Edits of what lies between a servo and its joint: another kind, holes, numbers."""

from __future__ import annotations

import math
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.transmission import Ball, Belt, Bevel, Direct, Gear, Lever, Transmission

WORDS = {
    "direct": "its servo’s own shaft",
    "gear": "two toothed wheels",
    "belt": "a belt or a cord",
    "lever": "horn, rod and lever",
    "ball": "a rod with ball ends",
    "bevel": "bevel wheels, with another servo",
}
_SHORT = {
    "direct": "own shaft",
    "gear": "gears",
    "belt": "belt",
    "lever": "lever",
    "ball": "rod",
    "bevel": "bevel wheels",
}
HORN_MM, ARM_MM, ROD_MM, HALF_MM = 15.0, 20.0, 80.0, 25.0
"""What a rod with ball ends is put down with at first: common practice, no source."""
NEAREST_MM, USUAL_MM = 20.0, 60.0
"""A servo that was not placed off its joint is taken to sit the usual way off."""


def _drive(figure: Figure, drive_id: str) -> Drive:
    return next(each for each in figure.drives if each.id == drive_id)


def apart_mm(figure: Figure, drive: Drive) -> float:
    """How far a servo sits off its joint's axis, mm, as it was placed; the usual where it was not."""
    joint = figure.joint(drive.joint)
    if drive.at_mm is None:
        return USUAL_MM
    off = [a - b for a, b in zip(drive.at_mm, joint.at_mm, strict=True)]
    size = math.hypot(*joint.axis)
    along = sum(a * b / size for a, b in zip(off, joint.axis, strict=True))
    across = math.sqrt(max(sum(a * a for a in off) - along * along, 0.0))
    return round(across, 1) if across >= NEAREST_MM else USUAL_MM


def set_transmission(figure: Figure, drive_id: str, kind: str) -> Edit:
    """Another kind, with what is usual of it: a lever square to the rod in the middle of its range, wheels of one to two. What takes two servos is
    `set_pair` and `set_bevel`."""
    drive = _drive(figure, drive_id)
    apart, joint = apart_mm(figure, drive), figure.joint(drive.joint)
    form: Transmission = Direct()
    if kind == "gear":
        form = Gear()
    elif kind == "belt":
        form = Belt(axes_mm=max(apart, 25.0))
    elif kind == "lever":
        form = Lever(axes_mm=apart, lever_deg=round(90.0 - sum(joint.range_deg) / 2, 1))
    elif kind == "ball":
        form = _ball(figure, drive, joint, apart)
    return Edit(f"{_SHORT[kind]} for {joint.name}", (Set(("drives", drive_id, "transmission"), form),))


def set_number(figure: Figure, drive_id: str, field: str, value: Any, words: str) -> Edit:
    """One field of it; those of one drag are one step to undo."""
    name = figure.joint(_drive(figure, drive_id).joint).name
    return Edit(f"{words} of {name}", (Set(("drives", drive_id, "transmission", field), value),), f"{drive_id} {field}")


def set_holes(figure: Figure, drive_id: str, field: str, text: str) -> Edit:
    """The holes that there are, mm from the axis, as a person writes them: 10, 13.5 and 17. Raises EditRefused, naming what is no number."""
    words, holes = text.replace("mm", " ").replace(";", " ").replace(",", " ").split(), []
    for word in words:
        try:
            holes.append(float(word))
        except ValueError as trouble:
            raise EditRefused(f"Holes are written as numbers in mm, such as 10 13.5 17; “{word}” is none.") from trouble
    return set_number(figure, drive_id, field, tuple(sorted(set(holes))), "holes")


def put_transmission(figure: Figure, joint_id: str, form: Transmission) -> Edit:
    """Put a whole one between a joint and its servo. Raises StopIteration where the joint has no servo."""
    drive = next(each for each in figure.drives if each.joint == joint_id)
    return Edit(
        f"{_SHORT[form.kind]} for {figure.joint(joint_id).name}", (Set(("drives", drive.id, "transmission"), form),)
    )


def may_share(figure: Figure, joint_id: str) -> list[Joint]:
    """Joints that two servos could turn together with this one: those it rides on, or that ride on it, that turn and have a servo."""
    joint = figure.joint(joint_id)
    near = [other for other in figure.joints if other.id == joint.rides_on or other.rides_on == joint_id]
    return [other for other in near if other.kind == "turn" and figure.drive_of(other.id) is not None]


def set_pair(figure: Figure, joint_id: str, partner_id: str) -> Edit:
    """Two servos side by side below, two rods up to what both joints carry: both alike turn the one, both against each other the other. Raises EditRefused
    where one of them has no servo, or neither rides on the other."""
    inner, outer = _both(figure, joint_id, partner_id)
    across, along = _unit(inner.axis), _unit(outer.axis)
    down = _cross(across, along)
    if down[2] > 0 or (down[2] == 0 and down[0] + down[1] > 0):
        down = _scaled(down, -1.0)
    steps: list[Set] = []
    for joint, side in ((inner, 1.0), (outer, -1.0)):
        ball = _plus(outer.at_mm, _scaled(along, -30.0), _scaled(across, side * HALF_MM))
        foot = _plus(ball, _scaled(down, ROD_MM))
        form = Ball(
            shaft_mm=_plus(foot, _scaled(along, -HORN_MM)),
            shaft_axis=across,
            horn_mm=HORN_MM,
            horn_to=along,
            ball_mm=ball,
            ball_on=outer.id,
        )
        steps += _mounted(figure, joint, inner.rides_on, form, form.shaft_mm)
    return Edit(f"two rods for {inner.name} and {outer.name}", tuple(steps))


def set_bevel(figure: Figure, joint_id: str, partner_id: str) -> Edit:
    """Two servos' wheels and one between them. Raises EditRefused where one of them has no servo, or neither rides on the other."""
    inner, outer = _both(figure, joint_id, partner_id)
    across, steps = _unit(inner.axis), list[Set]()
    for joint, other, turns, side in ((inner, outer, "same", 1.0), (outer, inner, "opposite", -1.0)):
        form = Bevel.from_fields({"partner": other.id, "turns": turns})
        steps += _mounted(figure, joint, inner.rides_on, form, _plus(inner.at_mm, _scaled(across, side * 40.0)))
    return Edit(f"bevel wheels for {inner.name} and {outer.name}", tuple(steps))


def _both(figure: Figure, one: str, other: str) -> tuple[Joint, Joint]:
    """The two of them, the one that carries the other first."""
    first, second = figure.joint(one), figure.joint(other)
    for joint in (first, second):
        if figure.drive_of(joint.id) is None:
            raise EditRefused(
                f"{joint.name} has no servo yet: two servos turn both joints together. Fit one on the Drive bench."
            )
    if first.id == second.rides_on:
        return first, second
    if second.id == first.rides_on:
        return second, first
    raise EditRefused(f"{first.name} and {second.name}: one has to ride on the other for two servos to turn both.")


def _mounted(figure: Figure, joint: Joint, on: str, form: Transmission, at: tuple[float, float, float]) -> list[Set]:
    drive = figure.drive_of(joint.id)
    assert drive is not None
    here = ("drives", drive.id)
    return [Set((*here, "transmission"), form), Set((*here, "rides_on"), on), Set((*here, "at_mm"), at)]


def _ball(figure: Figure, drive: Drive, joint: Joint, apart: float) -> Ball:
    """A rod square to its lever at first, in the plane across the joint's axis, toward where the servo was placed, else behind and below."""
    axis, pivot = _unit(joint.axis), joint.at_mm
    placed = _plus(drive.at_mm, _scaled(pivot, -1.0)) if drive.at_mm is not None else (0.0, 0.0, 0.0)
    away = next(
        _unit(way)
        for way in (_off(placed, axis), _off((-1.0, 0.0, 0.0), axis), _off((0.0, 0.0, -1.0), axis))
        if math.hypot(*way) > 1e-3 and (way != _off(placed, axis) or math.hypot(*way) >= NEAREST_MM)
    )
    up = _cross(away, axis)
    if up[2] < 0:
        up = _scaled(up, -1.0)
    return Ball(
        shaft_mm=_plus(pivot, _scaled(away, apart), _scaled(up, ARM_MM - HORN_MM)), shaft_axis=axis, horn_mm=HORN_MM, horn_to=up,
        ball_mm=_plus(pivot, _scaled(up, ARM_MM)),
    )  # fmt: skip


Three = tuple[float, float, float]


def _unit(way: Three) -> Three:
    return _scaled(way, 1.0 / math.hypot(*way))


def _scaled(way: Three, by: float) -> Three:
    x, y, z = (round(by * v, 6) + 0.0 for v in way)
    return x, y, z


def _plus(*places: Three) -> Three:
    x, y, z = (round(sum(each), 3) + 0.0 for each in zip(*places, strict=True))
    return x, y, z


def _cross(a: Three, b: Three) -> Three:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _off(way: Three, axis: Three) -> Three:
    """What of a way is across an axis."""
    along = sum(a * b for a, b in zip(way, axis, strict=True))
    return _plus(way, _scaled(axis, -along))
