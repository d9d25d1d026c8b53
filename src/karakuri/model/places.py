"""Where a thing of the figure is that a hand can take hold of, and the edit that puts it elsewhere."""

from __future__ import annotations

from typing import Any

from karakuri.model.edit import Edit, Set
from karakuri.model.element import anchors
from karakuri.model.element_edits import set_anchor
from karakuri.model.figure import Figure
from karakuri.model.ref import WHERE, Ref, item_of
from karakuri.model.rod_edits import set_end

Place = tuple[float, float, float]


def place_of(figure: Figure, ref: Ref) -> tuple[str, Place] | None:
    """What it rides on, and where it is, mm from the datum at rest; the number of a reference to an element says which anchor along its
    way. None where it is gone, or has no place of its own."""
    item: Any = item_of(figure, ref)
    if item is None or ref.kind not in ("part", "joint", "ballast_site", "element", "rod", "fastening"):
        return None
    if ref.kind == "element":
        way = anchors(item)
        return (way[ref.number].rides_on, way[ref.number].at_mm) if 0 <= ref.number < len(way) else None
    if ref.kind == "rod":
        return item.rides_on, item.tip_mm if ref.number == 1 else item.at_mm
    return item.rides_on, item.at_mm


def move_to(figure: Figure, ref: Ref, at_mm: Place) -> Edit:
    """Put what has a place elsewhere, mm; one drag is one step."""
    item: Any = item_of(figure, ref)
    if ref.kind == "element":
        return set_anchor(item, ref.number, at_mm=at_mm)
    if ref.kind == "rod":
        return set_end(item, max(ref.number, 0), at_mm)
    name = f"move {item.name}’s pivot" if ref.kind == "joint" else f"move {item.name}"
    return Edit(name, (Set((*WHERE[ref.kind], ref.id, "at_mm"), at_mm),), f"drag {ref.id}")
