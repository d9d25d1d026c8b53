"""How a part is drawn where it says so: its paths, turned and moved with its joint, in quiet tones for measuring or in colour on the stage."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainterPath, QTransform

from karakuri.bodies.tree import Tree
from karakuri.model.drawn import Drawn, Fill, View, pieces
from karakuri.model.figure import Figure
from karakuri.model.part import Part
from karakuri.workbench.kit import Kit

QUIET: dict[Fill, str | None] = {
    "main": "card", "shade": "desk", "light": "sel", "hollow": "desk", "mark": "rule", "dark": "eye", "horn": "brass_t", "wood": "chest_t",
    "cloth": "indigo_t", "none": None,
}  # fmt: skip
COLOURED: dict[Fill, str | None] = {
    "main": "feather", "shade": "feather_d", "light": "face", "hollow": "face_d", "mark": "wood_d", "dark": "eye", "horn": "brass_f",
    "wood": "wood", "cloth": "indigo", "none": None,
}  # fmt: skip
EDGES = {"ink": ("ink", 1.5), "fine": ("rule", 1.0), "thick": ("chest", 2.6), "none": (None, 1.0)}
_paths: dict[str, QPainterPath] = {}


def drawn_in(part: Part, view: str) -> tuple[Drawn, ...]:
    """What a part says of how it looks in a view."""
    return tuple(each for each in part.drawn if each.view == view)


def flat(path: str) -> QPainterPath:
    """A path as it is written, mm, up counted up; made once. Not to be changed."""
    known = _paths.get(path)
    if known is not None:
        return known
    out = QPainterPath()
    for letter, points in pieces(path):
        at = [QPointF(x, y) for x, y in points]
        if letter == "M":
            out.moveTo(at[0])
        elif letter == "L":
            out.lineTo(at[0])
        elif letter == "Q":
            out.quadTo(at[0], at[1])
        elif letter == "C":
            out.cubicTo(at[0], at[1], at[2])
        else:
            out.closeSubpath()
    if len(_paths) > 2000:
        _paths.clear()
    _paths[path] = out
    return out


def placing(scene, part: Part, view: View, to_screen) -> QTransform:
    """From mm as a path is written to the screen, with the part where its joint has turned it; it lies in its middle's plane."""
    link, depth = scene.link(part.rides_on), part.at_mm[1 if view == "side" else 0]

    def there(x: float, z: float) -> tuple[float, float]:
        place = (x, depth, z) if view == "side" else (depth, x, z)
        return to_screen(scene.at(link, place))

    return affine(there)


def affine(there: Callable[[float, float], tuple[float, float]]) -> QTransform:
    """The transform that takes (0, 0), (100, 0) and (0, 100) where `there` says."""
    (ox, oy), (ax, ay), (bx, by) = there(0.0, 0.0), there(100.0, 0.0), there(0.0, 100.0)
    return QTransform((ax - ox) / 100, (ay - oy) / 100, (bx - ox) / 100, (by - oy) / 100, ox, oy)


def in_order(figure: Figure, tree: Tree) -> list[Part]:
    """The parts as they lie over one another: what rides further out over what carries it, of one joint as they are listed."""

    def rank(part: Part) -> int:
        return len(tree.chains[tree.index(part.rides_on)]) if part.rides_on in tree.ids else 0

    return sorted(figure.parts, key=rank)


def draw_part(kit: Kit, some: tuple[Drawn, ...], where: QTransform, coloured: bool, fine: float = 1.0) -> QPainterPath:
    """Draw it, its lines so fine; gives its outline on the screen: that of its first path that is filled."""
    tones = COLOURED if coloured else QUIET
    whole = where.map(flat(some[0].path))
    for each in some:
        path = where.map(flat(each.path))
        ink, width = EDGES[each.edge]
        if each.within:
            kit.p.save()
            kit.p.setClipPath(whole, Qt.ClipOperation.IntersectClip)
        kit.draw(path, tones[each.fill], ink, width * fine)
        if each.within:
            kit.p.restore()
    if any(each.within for each in some) and EDGES[some[0].edge][0]:
        ink, width = EDGES[some[0].edge]
        kit.draw(whole, None, ink, width * fine)
    return whole
