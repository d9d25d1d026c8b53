"""Edits of pictures behind an elevation, and of what is traced over them."""

from __future__ import annotations

from pathlib import PurePath

from karakuri.errors import EditRefused
from karakuri.model.base import plain
from karakuri.model.drawn import Drawn, View, written
from karakuri.model.edit import Add, Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.picture import Picture

Points = list[tuple[float, float]]


def lay_picture(figure: Figure, file: str, view: View, wide_px: float, tall_px: float) -> Edit:
    """A picture of so many pixels behind a view: at first as tall as 300 mm, its middle foot at the datum."""
    name = plain(PurePath(file).name)[:80] or "picture"
    picture = Picture(
        id=new_id(figure, f"picture_{len(figure.pictures) + 1}"), name=name, file=file, view=view,
        from_px=(wide_px / 2, tall_px), to_px=(wide_px / 2, 0.0), length_mm=300.0,
    )  # fmt: skip
    return Edit(f"lay {name} behind the {view} elevation", (Add("pictures", picture),))


def mark_length(picture: Picture, ends: Points) -> Edit:
    """Its two marks at two places of the view as it lies now, mm; the first stays where it is."""
    (x0, y0), (x1, y1) = (picture.pixel(*end) for end in ends)
    path = ("pictures", picture.id)
    steps = (
        Set((*path, "from_px"), (round(x0, 2), round(y0, 2))),
        Set((*path, "to_px"), (round(x1, 2), round(y1, 2))),
        Set((*path, "at_mm"), (round(ends[0][0], 2), round(ends[0][1], 2))),
    )
    return Edit(f"mark a length on {picture.name}", steps)


def traced(figure: Figure, part_id: str, view: View, points: Points) -> Edit:
    """A part drawn by corners in a view, mm in the figure at rest; over what it had there before. Raises EditRefused for fewer than three."""
    if len(points) < 3:
        raise EditRefused("An outline has three corners at least; nothing was drawn.")
    part = figure.part(part_id)
    first = not any(each.view == view for each in part.drawn)
    look = Drawn(view=view, fill="main" if first else "shade", path=written(points))
    return Edit(f"trace {part.name}", (Set(("parts", part_id, "drawn"), (*part.drawn, look)),))


def not_drawn(figure: Figure, part_id: str, view: View) -> Edit:
    """A part by its shape again in a view."""
    part = figure.part(part_id)
    left = tuple(each for each in part.drawn if each.view != view)
    return Edit(f"{part.name} by its shape", (Set(("parts", part_id, "drawn"), left),))
