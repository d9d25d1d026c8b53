"""What lies under a figure in an elevation: the grid, the floor, pictures to trace over, who wears it."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF
from PyQt6.QtGui import QPainterPath, QPolygonF

from karakuri.bodies.wearer import wearer
from karakuri.model.ref import Ref
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.backdrops import file_of, image_of
from karakuri.workbench.stage.drawing import affine
from karakuri.workbench.stage.view import View


def draw_ground(kit: Kit, view: View) -> None:
    scene, base = view.scene, view.scene.figure.base
    kit.pen("hair")
    step = 0.05 * view.k
    if step > 6:
        kit.p.drawLines(_crosses(view.ox, view.oy, step, view.width, view.height, view.u(20)))
    if scene.wearer is not None:
        return
    span = [view.axes @ scene.room @ np.array([x, y, base.floor_mm]) / 1e3 for x, y in base.outline_mm]
    low, high = min(span, key=lambda p: p[0]), max(span, key=lambda p: p[0])
    ends = [(view.ox + view.k * p[0], view.oy - view.k * p[1]) for p in (low, high)]
    dx, dy = ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]
    size = math.hypot(dx, dy) or 1
    reach = view.u(26)
    a = (ends[0][0] - dx / size * reach, ends[0][1] - dy / size * reach)
    b = (ends[1][0] + dx / size * reach, ends[1][1] + dy / size * reach)
    kit.line(*a, *b, "ink", 1.4)
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(*a), QPointF(*b), QPointF(b[0], b[1] + 6), QPointF(a[0], a[1] + 6)]))
    kit.hatch(path, "rule", 6)
    for x, y in ends:
        kit.line(x, y - 3, x, y + 8, "ink2")


@lru_cache(maxsize=16)
def _crosses(ox: float, oy: float, step: float, width: float, height: float, top: float) -> list[QLineF]:
    """The grid's crosses; kept, for a view stands still while a part is dragged in it. Not to be changed."""
    i0, i1 = math.ceil((4 - ox) / step), math.floor((width - 4 - ox) / step)
    j0, j1 = math.ceil((top - oy) / step), math.floor((height - 4 - oy) / step)
    at = [(ox + i * step, oy + j * step) for i in range(i0, i1 + 1) for j in range(j0, j1 + 1)]
    return [QLineF(x - 2, y, x + 2, y) for x, y in at] + [QLineF(x, y - 2, x, y + 2) for x, y in at]


def draw_pictures(kit: Kit, view: View) -> None:
    """Pictures laid behind, to scale; a frame with words where one cannot be read."""
    if view.posing:
        return
    folder = view.desk.session.path.parent if view.desk.session.path is not None else None
    for picture in view.scene.figure.pictures:
        if picture.view != view.name or not picture.shown:
            continue
        found = image_of(file_of(picture, folder))
        wide, tall, shrink = (found[0].width(), found[0].height(), found[1]) if found else (200, 120, 1.0)
        where = affine(lambda x, y, p=picture, s=shrink: view.on_screen(*p.place(x * s, y * s)))
        frame = QPainterPath()
        frame.addRect(0, 0, wide, tall)
        frame = where.map(frame)
        if found:
            kit.p.save()
            kit.p.setTransform(where, True)
            kit.p.setOpacity(0.55)
            kit.p.setRenderHint(kit.p.RenderHint.SmoothPixmapTransform)
            kit.p.drawImage(0, 0, found[0])
            kit.p.restore()
        else:
            kit.draw(frame, None, "verm", 1.2, "dash")
            box = frame.boundingRect()
            kit.text(max(box.left() + 4, view.u(4)), max(box.top() + view.u(10), view.u(30)), f"cannot be read: {picture.name}", 11, 500, "verm")  # fmt: skip
        on = view.desk.subject == Ref("picture", picture.id)
        if not view.bobs:
            view.hits.append((Ref("picture", picture.id), frame, 20.0))
        ends = [view.on_screen(*picture.place(*mark)) for mark in (picture.from_px, picture.to_px)]
        if on:
            kit.draw(frame, None, "indigo", 1.6)
            kit.line(*ends[0], *ends[1], "indigo", 1.4)
            for end in ends:
                kit.circle(*end, view.u(4), "card", "indigo", 1.6)


def draw_wearer(kit: Kit, view: View) -> None:
    """Who wears it, dashed and plain; a press on them takes them in hand."""
    if view.scene.wearer is None:
        return
    on = view.desk.subject.kind == "wearer"
    for outline_of in wearer(view.name, *view.scene.wearer):
        path = Kit.path([view.to_screen(point) for point in outline_of], True)
        kit.draw(path, None, "indigo", 1.8 if on else 1.2, "dash")
        view.hits.append((Ref("wearer"), path, 10.0))
    x, y = view.to_screen(view.scene.wearer[3])
    kit.circle(x, y, view.u(3), "card", "indigo", 1.6)
