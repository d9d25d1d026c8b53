"""Edits of rods: a new one, and its ends."""

from __future__ import annotations

from typing import Any

from karakuri.model.edit import Add, Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.rod import Rod

Place = tuple[float, float, float]


def add_rod(figure: Figure, joint_id: str) -> Edit:
    """A rod that carries a joint with all that rides on it, from 100 mm below its pivot on what the joint rides on; all of it a guess."""
    joint = figure.joint(joint_id)
    x, y, z = joint.at_mm
    name = f"rod under {joint.name}"[:80]
    rod = Rod(id=new_id(figure, f"{joint_id}_rod"), name=name, rides_on=joint.rides_on, at_mm=(x, y, z - 100.0), tip_mm=joint.at_mm, carries=(joint_id,))  # fmt: skip
    return Edit(f"add {name}", (Add("rods", rod),))


def set_end(rod: Rod, which: int, at_mm: Place) -> Edit:
    """Its foot (0) or its tip (1) elsewhere, mm."""
    return Edit(
        f"move an end of {rod.name}", (Set(("rods", rod.id, ("at_mm", "tip_mm")[which]), at_mm),), f"{rod.id} {which}"
    )


def set_rod(rod: Rod, words: str, **fields: Any) -> Edit:
    """Some of its fields at once."""
    return Edit(
        f"{words} of {rod.name}",
        tuple(Set(("rods", rod.id, name), value) for name, value in fields.items()),
        f"{rod.id} {' '.join(fields)}",
    )
