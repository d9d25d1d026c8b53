"""Edits of what lies between a servo and its joint: another kind, holes, numbers."""

from __future__ import annotations

import math
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.transmission import Belt, Direct, Gear, Lever, Transmission

WORDS = {
    "direct": "its servo’s own shaft",
    "gear": "two toothed wheels",
    "belt": "a belt or a cord",
    "lever": "horn, rod and lever",
}
_SHORT = {"direct": "own shaft", "gear": "gears", "belt": "belt", "lever": "lever"}
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
    """Another kind, with what is usual of it: a lever square to the rod in the middle of its range, wheels of one to two."""
    drive = _drive(figure, drive_id)
    apart, joint = apart_mm(figure, drive), figure.joint(drive.joint)
    form: Transmission = Direct()
    if kind == "gear":
        form = Gear()
    elif kind == "belt":
        form = Belt(axes_mm=max(apart, 25.0))
    elif kind == "lever":
        form = Lever(axes_mm=apart, lever_deg=round(90.0 - sum(joint.range_deg) / 2, 1))
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
