"""What takes room in a figure besides its parts, as parts of its own: the cases of servos whose lie was said, and the head of who wears it.

A case: long, wide, high; its shaft comes out of the middle of the wide side, half that width from one end, which is what servos look like.
A head: an egg about the ear holes, 5 mm more behind than before them left out (from memory); one that turns inside what shoulders carry is as
wide as it is long.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array, turned_degrees
from karakuri.catalogue import case_mm, people
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.part import BASE, Box, Ellipsoid, Part
from karakuri.model.transmission import Ball

WEARER = "wearer"
"""By this id the wearer's head is spoken of where parts are."""


def blocks(figure: Figure) -> tuple[Part, ...]:
    """All parts, then what takes room besides them, in mm; nothing of it weighs."""
    known = {part.id for part in figure.parts}
    laid = [drive for drive in figure.drives if _laid(figure, drive) and drive.id not in known]
    cases = (*(_case(figure, drive) for drive in laid), *(_second(figure, drive) for drive in laid if drive.servos > 1))
    return (*figure.parts, *cases, *((_head(figure),) if worn_head(figure) and WEARER not in known else ()))


def unlaid(figure: Figure) -> tuple[Drive, ...]:
    """Servos of which nobody said how their case lies."""
    return tuple(drive for drive in figure.drives if not _laid(figure, drive))


def _laid(figure: Figure, drive: Drive) -> bool:
    """Whether it was said, and still says something: along its own shaft it does not."""
    return drive.case is not None and float(
        np.linalg.norm(np.cross(drive.case.to, _axis(figure, drive)))
    ) > 1e-3 * math.hypot(*drive.case.to)


def _axis(figure: Figure, drive: Drive) -> Array:
    """The line of its shaft, a unit, the way it is told by."""
    form = drive.transmission
    return _unit(np.array(form.shaft_axis if isinstance(form, Ball) else figure.joint(drive.joint).axis))


def worn_head(figure: Figure) -> bool:
    """Whether a wearer's head takes room in it: where its ears are was said."""
    return figure.base.held == "worn" and figure.base.worn.ears_mm is not None


def block_name(figure: Figure, ident: str) -> str:
    """What a part, a case or the wearer's head is called. Raises KeyError."""
    return {block.id: block.name for block in blocks(figure)}[ident]


def _case(figure: Figure, drive: Drive) -> Part:
    case, joint = drive.case, figure.joint(drive.joint)
    assert case is not None
    guessed = case.size_mm is None
    long, wide, high = case.size_mm or case_mm(drive.actuator.mass_g, drive.actuator.stepper is not None)
    form = drive.transmission
    ball = isinstance(form, Ball)
    axis = _axis(figure, drive) * (1 if case.shaft == "plus" else -1)
    to = _unit(np.array(case.to) - np.dot(case.to, axis) * axis)
    shaft = np.array(
        form.shaft_mm if isinstance(form, Ball) else drive.at_mm if drive.at_mm is not None else joint.at_mm
    )
    if not ball and form.kind == "direct":
        shaft = np.array(joint.at_mm)
    at = shaft - axis * (high / 2 + joint.support.distance_mm) + to * (long - wide) / 2
    x, y, z = (round(float(v), 3) + 0.0 for v in at)
    name = f"servo of {joint.name}"[:70]
    return Part(
        id=drive.id, name=f"{name}, guessed" if guessed else name, rides_on=figure.mounted_on(drive), shape=Box(size_mm=(long, wide, high)),
        at_mm=(x, y, z), turned_deg=turned_degrees(np.stack([to, np.cross(axis, to), axis], axis=1)), fixed=True,
    )  # fmt: skip


def _second(figure: Figure, drive: Drive) -> Part:
    """The second of two on one joint: it faces the first."""
    assert drive.case is not None
    turned = drive.case.but(shaft="minus" if drive.case.shaft == "plus" else "plus")
    made = _case(figure, Drive(**(dict(drive) | {"case": turned, "at_mm": drive.other_at_mm or drive.at_mm})))
    return Part(**(dict(made) | {"id": f"{drive.id[:50]}_second", "name": f"second {made.name}"}))


def _head(figure: Figure) -> Part:
    worn = figure.base.worn
    said, usual = worn.wearer, people()["head"]
    assert worn.ears_mm is not None
    long, wide = said.head_long_mm, said.head_wide_mm
    if said.head_around_mm is not None and (long is None or wide is None):
        by = said.head_around_mm / _around(usual["long_mm"] / 2, usual["wide_mm"] / 2)
        long, wide = long or by * usual["long_mm"], wide or by * usual["wide_mm"]
    guessed = long is None or wide is None
    long, wide = long or float(usual["long_mm"]), wide or float(usual["wide_mm"])
    more = said.padding_mm
    half = (long / 2 + more, (wide if worn.by == "head" else long) / 2 + more, usual["high_mm"] / 2 + more)
    semi = tuple(round(each, 2) for each in half)
    x, y, z = worn.ears_mm
    return Part(
        id=WEARER, name="the wearer’s head, guessed" if guessed else "the wearer’s head", rides_on=BASE, at_mm=(x, y, z), fixed=True,
        shape=Ellipsoid(semi_axes_mm=(semi[0], semi[1], semi[2])),
    )  # fmt: skip


def _around(a: float, b: float) -> float:
    """Round an ellipse of semi-axes a and b, as long as they (Ramanujan 1914, his second)."""
    h = ((a - b) / (a + b)) ** 2
    return math.pi * (a + b) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))


def _unit(way: Array) -> Array:
    return np.asarray(way / np.linalg.norm(way))
