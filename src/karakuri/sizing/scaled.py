"""A figure, or a region of it, made larger or smaller: places and sizes go with it, a shell's mass by the square, a solid's by the cube; servos,
rods' thickness, springs, horns and what has no size are bought and stay.

Scaling laws (any text on similarity): shell of fixed thickness s², solid s³, its inertia s⁴ and s⁵; they follow here from the shapes themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from karakuri.bodies.inertia import volume_m3
from karakuri.bodies.shapes import kind_of
from karakuri.bodies.shapes.contract import Three
from karakuri.errors import EditRefused
from karakuri.model.drawn import moved_path
from karakuri.model.edit import Edit, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.part import BASE, Part, Point
from karakuri.model.transmission import Ball

LEAST, MOST = 10.0, 1000.0
"""Per cent."""


def region(figure: Figure, joint_id: str) -> frozenset[str]:
    """All that turns with a joint: it and the joints that ride on it; with '' everything, the base too."""
    if not joint_id:
        return frozenset({BASE, *(joint.id for joint in figure.joints)})
    found = {joint_id}
    while more := {joint.id for joint in figure.joints if joint.rides_on in found} - found:
        found |= more
    return frozenset(found)


def keeps(part: Part) -> bool:
    """Whether a part stays as it is bought: it has no size, or is a battery, a board, a speaker."""
    return isinstance(part.shape, Point) or part.movable


def scaled(figure: Figure, percent: float, joint_id: str = "") -> Edit:
    """All of it about the datum, or what rides on a joint about that joint's pivot, to so many per cent. Raises EditRefused."""
    if not LEAST <= percent <= MOST:
        raise EditRefused(f"A size is given from {LEAST:g} to {MOST:g} per cent; nothing was changed.")
    by, some = percent / 100.0, region(figure, joint_id)
    centre: Three = figure.joint(joint_id).at_mm if joint_id else (0.0, 0.0, 0.0)

    def placed(at: Three) -> Three:
        x, y, z = (round(c + by * (a - c), 3) for a, c in zip(at, centre, strict=True))
        return x, y, z

    steps = [*_parts(figure, some, by, centre, placed), *_joints(figure, some, by, joint_id, placed), *_others(figure, some, placed)]  # fmt: skip
    if not joint_id:
        corners = tuple((round(by * x, 3), round(by * y, 3)) for x, y in figure.base.outline_mm)
        steps += [Set(("base", "outline_mm"), corners), Set(("base", "floor_mm"), round(by * figure.base.floor_mm, 3))]
    what = figure.joint(joint_id).name if joint_id else figure.name
    return Edit(f"{what} to {percent:g} %", tuple(steps))


def grown(part: Part, by: float) -> Iterator[Step]:
    """A part so many times as large about its middle, as heavy as its shape then says; what was weighed is weighed no more."""
    here, shape = ("parts", part.id), part.shape
    known, fields = kind_of(shape), dict(shape)
    larger = type(shape)(**(fields | known.grown(shape, by)))
    yield Set((*here, "shape"), larger)
    if part.mass_g is not None:
        ratio = volume_m3(larger) / volume_m3(shape) if volume_m3(shape) > 0 else by**3
        yield Set((*here, "mass_g"), round(part.mass_g * ratio, 3))
        if part.mass_origin in ("weighed", "data sheet", "slicer"):
            yield Set((*here, "mass_origin"), "typical")
        if part.plus_minus_g is not None:
            yield Set((*here, "plus_minus_g"), round(part.plus_minus_g * ratio, 3))


def _parts(figure: Figure, some: frozenset[str], by: float, centre: Three, placed: Callable[[Three], Three]) -> Iterator[Step]:  # fmt: skip
    for part in figure.parts:
        if part.rides_on not in some:
            continue
        here = ("parts", part.id)
        yield Set((*here, "at_mm"), placed(part.at_mm))
        if keeps(part):
            continue
        yield from grown(part, by)
        if part.drawn:
            drawn = tuple(type(one)(**(dict(one) | {"path": moved_path(one.path, by, _flat(centre, one.view))})) for one in part.drawn)  # fmt: skip
            yield Set((*here, "drawn"), drawn)


def _flat(centre: Three, view: str) -> tuple[float, float]:
    """The centre as an elevation has it, mm: ahead or to its left, then up."""
    return (centre[0] if view == "side" else centre[1]), centre[2]


def _joints(figure: Figure, some: frozenset[str], by: float, root: str, placed: Callable[[Three], Three]) -> Iterator[Step]:  # fmt: skip
    for joint in figure.joints:
        if joint.rides_on in some and joint.id != root:
            yield Set(("joints", joint.id, "at_mm"), placed(joint.at_mm))
            if joint.kind == "slide":
                low, high = (round(by * end, 3) for end in joint.range_mm)
                yield Set(("joints", joint.id, "range_mm"), (low, high))
    for drive in figure.drives:
        mounted = figure.mounted_on(drive) in some
        if drive.at_mm is not None and mounted:
            yield Set(("drives", drive.id, "at_mm"), placed(drive.at_mm))
        if drive.other_at_mm is not None and mounted:
            yield Set(("drives", drive.id, "other_at_mm"), placed(drive.other_at_mm))
        form, changed = drive.transmission, dict[str, Any]()
        if isinstance(form, Ball):
            held = (form.ball_on or drive.joint) in some
            changed |= {"shaft_mm": placed(form.shaft_mm)} if mounted else {}
            changed |= {"ball_mm": placed(form.ball_mm)} if held else {}
            if form.rod_mm is not None and mounted and held:
                changed["rod_mm"] = round(by * form.rod_mm, 3)
        if changed:
            yield Set(("drives", drive.id, "transmission"), type(form)(**(dict(form) | changed)))


def _others(figure: Figure, some: frozenset[str], placed: Callable[[Three], Three]) -> Iterator[Step]:
    """Ballast sites, ends of what is strung, rods, what holds something on."""
    for site in figure.ballast_sites:
        if site.rides_on in some:
            yield Set(("ballast_sites", site.id, "at_mm"), placed(site.at_mm))
    for element in figure.elements:
        for field in ("ends", "over"):
            anchors: tuple[Any, ...] = getattr(element, field, ())
            if any(anchor.rides_on in some for anchor in anchors):
                new = tuple(type(a)(**(dict(a) | ({"at_mm": placed(a.at_mm)} if a.rides_on in some else {}))) for a in anchors)  # fmt: skip
                yield Set(("elements", element.id, field), new)
    for rod in figure.rods:
        if rod.rides_on in some:
            yield Set(("rods", rod.id, "at_mm"), placed(rod.at_mm))
            yield Set(("rods", rod.id, "tip_mm"), placed(rod.tip_mm))
    for it in figure.fastenings:
        if it.rides_on in some:
            yield Set(("fastenings", it.id, "at_mm"), placed(it.at_mm))
