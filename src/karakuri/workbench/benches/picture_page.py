"""Pictures behind the elevations: laid there, brought to scale by one known length, and traced over."""

from __future__ import annotations

import os
from pathlib import Path

from karakuri.model.drawn import View
from karakuri.model.edit import Edit, Remove
from karakuri.model.edits import set_field
from karakuri.model.picture import Picture
from karakuri.model.picture_edits import lay_picture, mark_length, not_drawn, traced
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.desk import Desk
from karakuri.workbench.stage.backdrops import read_size
from karakuri.workbench.stage.marking import Marking
from karakuri.workbench.widgets.items import Do, Head, Item, Note, Page, Pick, Write
from karakuri.workbench.wishes import LAY

VIEWS: dict[View, str] = {"side": "side elevation", "front": "front elevation"}
SHOWN = {True: "shown", False: "not shown"}


def picture_items(desk: Desk) -> list[Item]:
    """On the card of the whole figure: the pictures there are, and one more."""
    items: list[Item] = [Head("hpic", "Pictures to trace over")]
    items += [Do(f"pic {each.id}", f"{each.name}, {VIEWS[each.view]}", lambda each=each: desk.select(Ref("picture", each.id))) for each in desk.figure.pictures]  # fmt: skip
    for view in VIEWS:
        items.append(
            Do(f"lay {view}", f"Lay a picture behind the {VIEWS[view]}", lambda view=view: desk.wanted.emit(LAY[view]))
        )
    return items


def lay(desk: Desk, view: View, path: Path) -> None:
    """Lay a picture's file behind a view; by a name from the figure's own folder where it lies there."""
    size = read_size(path)
    if size is None:
        desk.said.emit(f"{path.name} is no picture that can be read; nothing was changed. PNG and JPEG can.")
        return
    folder = desk.session.path.parent if desk.session.path is not None else None
    file = os.path.relpath(path, folder) if folder is not None and folder in path.parents else str(path)
    if desk.edit(lambda: lay_picture(desk.figure, file, view, *map(float, size))):
        desk.select(Ref("picture", desk.figure.pictures[-1].id))


def picture_page(desk: Desk, ident: str) -> Page:
    picture = _fresh(desk, ident)

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "pictures", ident, (field,), value, words))

    def at(which: int, value: float) -> None:
        now = list(_fresh(desk, ident).at_mm)
        now[which] = round(value * 1e3, 2)
        put("at_mm", tuple(now), "place")

    def mark() -> None:
        words = "Press the two ends of a length that you know, on the picture."
        desk.mark(Marking(picture.view, words, lambda ends: desk.edit(lambda: mark_length(_fresh(desk, ident), ends)), 2))  # fmt: skip

    right = "  first end, ahead" if picture.view == "side" else "  first end, to its left"
    items: list[Item] = [
        Note("n1", "A photograph or a drawing, seen straight from the side or the front, from far away. Mark a length on it that you have measured."),
        Do("mark", "Mark a known length", mark),
        Write("length", "It is, in truth", mm(picture.length_mm), "length", lambda v: put("length_mm", round(v * 1e3, 3), "known length")),
        Write("right", right, mm(picture.at_mm[0]), "length", lambda v: at(0, v)),
        Write("up", "  and above", mm(picture.at_mm[1]), "length", lambda v: at(1, v)),
        Pick("view", "Behind the", VIEWS[picture.view], tuple(VIEWS.items()), lambda key: put("view", key, "view")),
        Pick("shown", "It is", SHOWN[picture.shown], (("yes", SHOWN[True]), ("", SHOWN[False])), lambda key: put("shown", bool(key), "whether it is shown")),
        Head("hm", "Its two marks, in its own pixels"),
        *(
            Write(f"{field}{k}", f"{words} {axis}", Quantity(getattr(picture, field)[k], "count"), "count", lambda v, field=field, k=k: put(field, _with(getattr(_fresh(desk, ident), field), k, v), "mark"))
            for field, words in (("from_px", "First,"), ("to_px", "Second,")) for k, axis in ((0, "right"), (1, "down"))
        ),
        Note("n2", "Then take a part in hand and trace its outline over it."),
        Head("ha", "Actions"),
        Do("remove", f"Take {picture.name} away", lambda: desk.edit(Edit(f"take {picture.name} away", (Remove("pictures", ident),)))),
    ]  # fmt: skip
    return Page(picture.name, f"picture behind the {VIEWS[picture.view]}", tuple(items), ("picture", ident))


def tracing_items(desk: Desk, part_id: str) -> list[Item]:
    """On the card of a part: how it is drawn, and tracing it."""
    part = desk.figure.part(part_id)
    items: list[Item] = [Head("hd", "How it is drawn")]

    def trace(view: View) -> None:
        words = f"Press the corners of {part.name} one after the other."
        desk.mark(
            Marking(
                view, words, lambda points: desk.edit(lambda: traced(desk.figure, part_id, view, points)), part=part_id
            )
        )

    for view, words in VIEWS.items():
        count = sum(1 for each in part.drawn if each.view == view)
        said = f"{count} outlines" if count > 1 else "one outline" if count else "by its shape"
        items.append(Note(f"nd{view}", f"{words[0].upper()}{words[1:]}: {said}."))
        items.append(Do(f"trace {view}", f"Trace it in the {words}", lambda view=view: trace(view)))
        if count:
            items.append(Do(f"shape {view}", f"By its shape in the {words}", lambda view=view: desk.edit(lambda: not_drawn(desk.figure, part_id, view))))  # fmt: skip
    return items


def _with(mark: tuple[float, float], k: int, value: float) -> tuple[float, float]:
    return (round(value, 2), mark[1]) if k == 0 else (mark[0], round(value, 2))


def _fresh(desk: Desk, ident: str) -> Picture:
    return next(each for each in desk.figure.pictures if each.id == ident)
