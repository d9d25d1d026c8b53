"""Edits of what holds something on: a new one, and another kind of it."""

from __future__ import annotations

from typing import Any

from karakuri.model.edit import Add, Edit, Replace, Set
from karakuri.model.fastening import FACES, Fastened, MagnetFace
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.values.fields import fields_of


def fasten(figure: Figure, part_id: str) -> Edit:
    """Four magnets under a part, on what it rides on, that let it off upwards; all of it a guess."""
    part = figure.part(part_id)
    name = f"magnets of {part.name}"[:80]
    made = MagnetFace(id=new_id(figure, f"{part_id}_held"), name=name, carries=(part_id,), rides_on=part.rides_on, at_mm=part.at_mm, count=4)  # fmt: skip
    return Edit(f"hold {part.name} by magnets", (Add("fastenings", made),))


def held_by(fastening: Fastened, kind: str) -> Edit:
    """The same held another way: where it is and what it carries stay."""
    shared = {name: getattr(fastening, name) for name in fields_of(Fastened)}
    return Edit(f"hold by {kind}", (Replace("fastenings", fastening.id, FACES[kind](**shared)),))


def set_fastening(fastening: Fastened, words: str, **fields: Any) -> Edit:
    """Some of its fields at once."""
    return Edit(
        f"{words} of {fastening.name}",
        tuple(Set(("fastenings", fastening.id, name), value) for name, value in fields.items()),
        f"{fastening.id} {' '.join(fields)}",
    )
