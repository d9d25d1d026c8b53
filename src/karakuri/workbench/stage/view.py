"""What one elevation shows at one moment: a scene seen along one axis, at a scale, and what of it can be taken hold of. No widget."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtGui import QPainterPath

from karakuri.bodies.outline import box_of
from karakuri.bodies.wearer import wearer
from karakuri.model.ref import Ref
from karakuri.workbench.desk import Desk
from karakuri.workbench.stage.drawing import drawn_in
from karakuri.workbench.stage.scene import SCALES, Scene

PX_PER_MM = 96 / 25.4
ABOUT_M = 0.02
"""The least that is seen around an element in hand, m."""
AXES = {"side": np.array([[1.0, 0, 0], [0, 0, 1.0]]), "front": np.array([[0, 1.0, 0], [0, 0, 1.0]])}


class View:
    """name 'side' (ahead to the right) or 'front' (its left at the right); `labels`, `bobs`, `posing`: what it is for; `close`: fits the element
    in hand rather than the whole figure. k px/m; ox, oy px."""

    def __init__(self, desk: Desk, name: str, labels: bool, bobs: bool, posing: bool, close: bool) -> None:
        self.desk, self.name, self.labels, self.bobs, self.posing = desk, name, labels, bobs, posing
        self.close = close
        self.axes = AXES[name]
        self.scene: Scene | None = None
        self.ghost: Scene | None = None
        self.scale, self.k, self.ox, self.oy = 1.0, 1.0, 0.0, 0.0
        self.width, self.height = 1, 1
        self.drawn = False
        self.hits: list[tuple[Ref, QPainterPath, float]] = []
        self.taken: list[tuple[float, float]] = []
        self._areas: dict[str, tuple] = {}

    @property
    def u(self) -> Callable[[float], int]:
        """Sizes at this text scale."""
        return self.desk.look.u

    def begin(self) -> None:
        """Before it is drawn anew: nothing can be taken hold of yet."""
        self.hits = []
        self.drawn = any(drawn_in(part, self.name) for part in self.scene.figure.parts)

    def to_screen(self, point) -> tuple[float, float]:
        """Where a point (3,) m of the room lies, px."""
        x, y = self.axes @ point
        return self.ox + self.k * x, self.oy - self.k * y

    def on_screen(self, right_mm: float, up_mm: float) -> tuple[float, float]:
        """Where a place of the view, in the datum's plane, lies on the screen: it leans with the base."""
        return self.to_screen(self.scene.room @ (self.axes.T @ np.array([right_mm, up_mm]) / 1e3))

    def area(self, part) -> float:
        """Size of a part's outline at rest, for what lies over what."""
        kept = self._areas.get(part.id)
        if kept is None or kept[0] is not part.shape or kept[1] != part.turned_deg:
            wide, tall = box_of(part, np.eye(3), self.axes)
            kept = self._areas[part.id] = (part.shape, part.turned_deg, wide * tall)
        return kept[2]

    def fit(self) -> None:
        """The smallest round scale at which all of it is seen."""
        x0, x1, y0, y1 = self._extent()
        left, top, right, bottom = self._margins()
        wide, tall = max(20, self.width - left - right), max(20, self.height - top - bottom)
        need = max((x1 - x0) * 1e3 * PX_PER_MM / wide, (y1 - y0) * 1e3 * PX_PER_MM / tall, 0.5)
        self.scale = next((s for s in SCALES if s >= need), need)
        k = 1e3 * PX_PER_MM / self.scale
        self.k, self.ox = k, left + wide / 2 - k * (x0 + x1) / 2
        self.oy = top + tall - (tall - k * (y1 - y0)) / 2 + k * y0

    def _margins(self) -> tuple[int, int, int, int]:
        side = self.u(112) if self.labels else self.u(12)
        return side, self.u(22), side, self.u(32 if self.bobs else 14)

    def _in_hand(self) -> list[tuple[float, float]]:
        """Corners around what the element in hand sweeps, and as much again around it; none without one."""
        scene, subject = self.scene, self.desk.subject
        i = next((i for i, it in enumerate(scene.figure.elements) if subject == Ref("element", it.id)), None)
        swept = None if i is None else scene.sweep(i)
        if swept is None:
            return []
        pts = np.einsum("ij,wjk->iwk", self.axes @ scene.room, swept).reshape(2, -1)
        about = max(ABOUT_M, 0.5 * float(np.ptp(pts, axis=1).max()))
        return [tuple(pts.min(axis=1) - about), tuple(pts.max(axis=1) + about)]

    def _extent(self) -> tuple[float, float, float, float]:
        scene, pts = self.scene, self._in_hand() if self.close else []
        if pts:
            (x0, y0), (x1, y1) = pts
            return x0, x1, y0, y1
        for part in scene.figure.parts:
            link = scene.link(part.rides_on)
            middle = self.axes @ scene.at(link, part.at_mm)
            shape = scene.outline(part, self.axes)
            pts += [(middle[0] + x, middle[1] + y) for x, y in shape] or [tuple(middle)]
        pts += [tuple(self.axes @ scene.at(scene.link(j.rides_on), j.at_mm)) for j in scene.figure.joints]
        base = scene.figure.base
        if scene.wearer is None:
            pts += [tuple(self.axes @ scene.room @ np.array([x, y, base.floor_mm]) / 1e3) for x, y in base.outline_mm]
        else:
            pts += [tuple(self.axes @ point) for point in wearer(self.name, *scene.wearer)[2]]
        pts += [tuple(self.axes @ scene.at(scene.link(s.rides_on), s.at_mm)) for s in scene.figure.ballast_sites]
        pts += [tuple(self.axes @ scene.room @ point) for now in scene.strung for point in now.points]
        pts += [
            tuple(self.axes @ scene.at(scene.link(r.rides_on), at))
            for r in scene.figure.rods
            for at in (r.at_mm, r.tip_mm)
        ]
        xs, ys = [p[0] for p in pts], [p[1] for p in pts]
        return min(xs), max(xs), min(ys), max(ys)
