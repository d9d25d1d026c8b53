"""The parts of a figure in an elevation: by their shapes, or as they say they look; and as a remedy would have them."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath, QPolygonF

from karakuri.model.ref import Ref
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.drawing import draw_part, drawn_in, in_order, placing
from karakuri.workbench.stage.scene import Scene
from karakuri.workbench.stage.view import View


def draw_parts(kit: Kit, view: View) -> None:
    """All parts: those that are drawn as they lie over one another, else the farther and the larger first."""
    scene = view.scene
    if view.drawn:
        parts = in_order(scene.figure, scene.tree)
    else:
        depth = 1 if view.name == "side" else 0
        far = lambda part: float(scene.at(scene.link(part.rides_on), part.at_mm)[depth]) - (part.rides_on == "base")  # noqa: E731
        parts = sorted(scene.figure.parts, key=far)
        if view.name == "side":
            parts = sorted(parts, key=view.area, reverse=True)
    for part in parts:
        draw_shape(kit, view, scene, part)


def outline_of(view: View, scene: Scene, part) -> QPainterPath | None:
    link = scene.link(part.rides_on)
    shape = scene.outline(part, view.axes)
    x, y = view.to_screen(scene.at(link, part.at_mm))
    path = QPainterPath()
    if len(shape) < 3:
        path.addEllipse(QPointF(x, y), 4, 4)
        return path
    path.addPolygon(QPolygonF([QPointF(x + view.k * a, y - view.k * b) for a, b in shape]))
    path.closeSubpath()
    return path


def draw_shape(kit: Kit, view: View, scene: Scene, part) -> None:
    on = view.desk.subject == Ref("part", part.id)
    some = drawn_in(part, view.name)
    if some:
        where = placing(scene, part, view.name, view.to_screen)
        path = draw_part(kit, some, where, view.posing)
    else:
        path = outline_of(view, scene, part)
    view.hits.append((Ref("part", part.id), path, view.area(part)))
    if some or view.drawn:
        if on:
            kit.hatch(path, "indigo_m", 6)
            kit.draw(path, None, "indigo", 2.2)
        elif not some and not view.posing:  # inside what is drawn
            kit.draw(path, None, "ink3", 1.0, "dot")
        return
    fill = "card" if part.rides_on == "base" else "sel"
    shell = getattr(part.shape, "wall_mm", 0) > 0
    kit.draw(path, fill, None, alpha=0.55 if shell else 0.85)
    if on:
        kit.hatch(path, "indigo_m", 6)
        kit.draw(path, None, "indigo", 2.2)
    else:
        kit.draw(path, None, "ink" if not view.bobs else "ink3", 1.3 if not view.bobs else 1.0)


def draw_ghost(kit: Kit, view: View) -> None:
    before = {part.id: part for part in view.desk.figure.parts}
    moved = [part for part in view.ghost.figure.parts if before.get(part.id) != part]
    for part in moved:
        path = outline_of(view, view.ghost, part)
        kit.draw(path, None, "indigo", 1.6, "dash")
    if moved:
        x, y = view.to_screen(view.ghost.at(view.ghost.link(moved[0].rides_on), moved[0].at_mm))
        draw_tag(kit, view, x + 8, y - view.u(16), view.desk.preview_name)


def draw_tag(kit: Kit, view: View, x: float, y: float, text: str) -> None:
    wide = kit.width(text, 12, 500) + view.u(14)
    x, y = min(max(2, x), view.width - wide - 2), min(max(view.u(12), y), view.height - view.u(12))
    kit.rect(x, y - view.u(10), wide, view.u(20), "card", "indigo", 1.2, "dash")
    kit.text(x + view.u(7), y, text, 12, 500, "indigo")
