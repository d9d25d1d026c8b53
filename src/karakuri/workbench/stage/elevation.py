"""An elevation to scale, from its left or its front; long for its room because drawing, hitting and dragging share one projection."""

from __future__ import annotations

import itertools
import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QCursor, QPainterPath, QPainterPathStroker, QPolygonF
from PyQt6.QtWidgets import QWidget

from karakuri.bodies.outline import outline
from karakuri.model.element import Torsion
from karakuri.model.finding import show_reserve
from karakuri.model.part import BASE
from karakuri.model.places import move_to, place_of
from karakuri.model.ref import FIGURE, Ref, name_of
from karakuri.model.timings import TIMINGS
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import bob, centre, pivot, tumbler
from karakuri.workbench.stage.scene import SCALES, Scene, scene_of
from karakuri.workbench.stage.strung import draw_rod, draw_spiral, draw_strung
from karakuri.workbench.stage.turning import Turning, grasp
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet

PX_PER_MM = 96 / 25.4
LETTERS = "abcdefghijklmnopqrstuvwxyz"


class Elevation(Sheet):
    """view 'side' (x to the right, from its left … seen so that it faces right) or 'front' (its left at the right)."""

    def __init__(
        self, desk: Desk, view: str, parent: QWidget, labels: bool = False, bobs: bool = False, posing: bool = False
    ) -> None:
        super().__init__(desk, f"{view} elevation", parent)
        self.view_name, self.labels, self.bobs, self.posing = view, labels, bobs, posing
        self.turning: Turning | None = None
        self.axes = np.array([[1.0, 0, 0], [0, 0, 1.0]]) if view == "side" else np.array([[0, 1.0, 0], [0, 0, 1.0]])
        self.scene: Scene | None = None
        self.areas: dict[str, tuple] = {}
        self.ghost: Scene | None = None
        self.hits: list[tuple[Ref, QPainterPath, float]] = []
        self.held: tuple[Ref, np.ndarray, tuple] | None = None
        self.pointer: tuple[float, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.shown: tuple = ()
        for signal in (desk.posed, desk.previewed, desk.selected, desk.looked):
            signal.connect(self.refresh)
        desk.changed.connect(self._changed)
        desk.studied.connect(self._judged)

    def _changed(self) -> None:
        """Only what is drawn here asks for a new drawing: a score being written does not."""
        figure = self.desk.figure
        items = (
            *figure.parts,
            *figure.joints,
            *figure.drives,
            *figure.ballast_sites,
            *figure.elements,
            *figure.rods,
            *figure.postures,
            *figure.materials,
        )
        shown = (tuple(map(id, items)), figure.base, figure.assumptions)
        if shown != self.shown or self.scene is None:
            self.shown, self.kept_items = shown, items
            self.refresh()

    def refresh(self) -> None:
        self.scene = None
        name = name_of(self.desk.figure, self.desk.subject) or "nothing in hand"
        self.setAccessibleName(f"{self.view_name} elevation, in hand: {name}")
        self.update()

    def _judged(self) -> None:
        if self.held is not None:
            self.update()

    # ---- projection
    def _prepare(self) -> None:
        if self.scene is None:
            self.scene = scene_of(self.desk, self.desk.figure)
            self.ghost = Scene(self.desk, self.desk.preview) if self.desk.preview is not None else None
            if self.held is None:
                self._fit()

    def _extent(self) -> tuple[float, float, float, float]:
        scene, pts = self.scene, []
        for part in scene.figure.parts:
            link = scene.link(part.rides_on)
            middle = self.axes @ scene.at(link, part.at_mm)
            shape = scene.outline(part, self.axes)
            pts += [(middle[0] + x, middle[1] + y) for x, y in shape] or [tuple(middle)]
        pts += [tuple(self.axes @ scene.at(scene.link(j.rides_on), j.at_mm)) for j in scene.figure.joints]
        base = scene.figure.base
        pts += [tuple(self.axes @ scene.room @ np.array([x, y, base.floor_mm]) / 1e3) for x, y in base.outline_mm]
        pts += [tuple(self.axes @ scene.at(scene.link(s.rides_on), s.at_mm)) for s in scene.figure.ballast_sites]
        pts += [tuple(self.axes @ scene.room @ point) for now in scene.strung for point in now.points]
        pts += [
            tuple(self.axes @ scene.at(scene.link(r.rides_on), at))
            for r in scene.figure.rods
            for at in (r.at_mm, r.tip_mm)
        ]
        xs, ys = [p[0] for p in pts], [p[1] for p in pts]
        return min(xs), max(xs), min(ys), max(ys)

    def margins(self) -> tuple[int, int, int, int]:
        u = self.u
        side = u(112) if self.labels else u(12)
        return side, u(22), side, u(32 if self.bobs else 14)

    def _fit(self) -> None:
        x0, x1, y0, y1 = self._extent()
        left, top, right, bottom = self.margins()
        wide, tall = max(20, self.width() - left - right), max(20, self.height() - top - bottom)
        need = max((x1 - x0) * 1e3 * PX_PER_MM / wide, (y1 - y0) * 1e3 * PX_PER_MM / tall, 0.5)
        self.scale = next((s for s in SCALES if s >= need), need)
        k = 1e3 * PX_PER_MM / self.scale
        self.k, self.ox = k, left + wide / 2 - k * (x0 + x1) / 2
        self.oy = top + tall - (tall - k * (y1 - y0)) / 2 + k * y0

    def to_screen(self, point) -> tuple[float, float]:
        x, y = self.axes @ point
        return self.ox + self.k * x, self.oy - self.k * y

    # ---- drawing
    def draw(self, kit: Kit) -> None:
        self._prepare()
        self.hits = []
        self._ground(kit)
        scene = self.scene
        depth = 1 if self.view_name == "side" else 0
        parts = sorted(
            scene.figure.parts,
            key=lambda part: (
                float(scene.at(scene.link(part.rides_on), part.at_mm)[depth]) - (1 if part.rides_on == "base" else 0)
            ),
        )
        if self.view_name == "side":
            parts = sorted(parts, key=self._area, reverse=True)
        for part in parts:
            self._part(kit, scene, part)
        if self.ghost is not None:
            self._ghost(kit)
        if self.bobs:
            self._sites(kit)
            self._bobs(kit)
        self._pivots(kit)
        self._rods(kit)
        self._strung(kit)
        self._centre(kit)
        if self.labels:
            self._names(kit)
        kit.text(
            self.u(4), self.u(10), "Side elevation" if self.view_name == "side" else "Front elevation", 12, 600, "ink2"
        )
        number = f"{self.scale:g}" if self.scale < 1e4 else f"{self.scale:,.0f}"
        scale = f"scale 1 : {number}" + (", grid 50 mm" if self.width() > self.u(280) else "")
        kit.text(self.width() - self.u(4), self.u(10), scale, 12, 400, "ink3", "r")
        self._at_pointer(kit)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _area(self, part) -> float:
        """Size of a part's outline at rest, for what lies over what."""
        kept = self.areas.get(part.id)
        if kept is None or kept[0] is not part.shape or kept[1] != part.turned_deg:
            shape = outline(part, np.eye(3), self.axes)
            xs, ys = [p[0] for p in shape] or [0.0], [p[1] for p in shape] or [0.0]
            kept = self.areas[part.id] = (part.shape, part.turned_deg, (max(xs) - min(xs)) * (max(ys) - min(ys)))
        return kept[2]

    def _ground(self, kit: Kit) -> None:
        scene, base = self.scene, self.scene.figure.base
        kit.pen("hair")
        step = 0.05 * self.k
        if step > 6:
            i0, i1 = math.ceil((4 - self.ox) / step), math.floor((self.width() - 4 - self.ox) / step)
            j0, j1 = math.ceil((self.u(20) - self.oy) / step), math.floor((self.height() - 4 - self.oy) / step)
            crosses = [(self.ox + i * step, self.oy + j * step) for i in range(i0, i1 + 1) for j in range(j0, j1 + 1)]
            kit.p.drawLines(
                [QLineF(x - 2, y, x + 2, y) for x, y in crosses] + [QLineF(x, y - 2, x, y + 2) for x, y in crosses]
            )
        span = [self.axes @ scene.room @ np.array([x, y, base.floor_mm]) / 1e3 for x, y in base.outline_mm]
        low, high = min(span, key=lambda p: p[0]), max(span, key=lambda p: p[0])
        ends = [(self.ox + self.k * p[0], self.oy - self.k * p[1]) for p in (low, high)]
        dx, dy = ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]
        size = math.hypot(dx, dy) or 1
        reach = self.u(26)
        a = (ends[0][0] - dx / size * reach, ends[0][1] - dy / size * reach)
        b = (ends[1][0] + dx / size * reach, ends[1][1] + dy / size * reach)
        kit.line(*a, *b, "ink", 1.4)
        path = QPainterPath()
        path.addPolygon(QPolygonF([QPointF(*a), QPointF(*b), QPointF(b[0], b[1] + 6), QPointF(a[0], a[1] + 6)]))
        kit.hatch(path, "rule", 6)
        for x, y in ends:
            kit.line(x, y - 3, x, y + 8, "ink2")

    def _path(self, scene: Scene, part) -> QPainterPath | None:
        link = scene.link(part.rides_on)
        shape = scene.outline(part, self.axes)
        x, y = self.to_screen(scene.at(link, part.at_mm))
        path = QPainterPath()
        if len(shape) < 3:
            path.addEllipse(QPointF(x, y), 4, 4)
            return path
        path.addPolygon(QPolygonF([QPointF(x + self.k * a, y - self.k * b) for a, b in shape]))
        path.closeSubpath()
        return path

    def _part(self, kit: Kit, scene: Scene, part) -> None:
        path = self._path(scene, part)
        on = self.desk.subject == Ref("part", part.id)
        self.hits.append((Ref("part", part.id), path, self._area(part)))
        fill = "card" if part.rides_on == "base" else "sel"
        shell = getattr(part.shape, "wall_mm", 0) > 0
        kit.draw(path, fill, None, alpha=0.55 if shell else 0.85)
        if on:
            kit.hatch(path, "indigo_m", 6)
            kit.draw(path, None, "indigo", 2.2)
        else:
            kit.draw(path, None, "ink" if not self.bobs else "ink3", 1.3 if not self.bobs else 1.0)

    def _ghost(self, kit: Kit) -> None:
        before = {part.id: part for part in self.desk.figure.parts}
        moved = [part for part in self.ghost.figure.parts if before.get(part.id) != part]
        for part in moved:
            path = self._path(self.ghost, part)
            kit.draw(path, None, "indigo", 1.6, "dash")
        if moved:
            x, y = self.to_screen(self.ghost.at(self.ghost.link(moved[0].rides_on), moved[0].at_mm))
            self._tag(kit, x + 8, y - self.u(16), self.desk.preview_name)

    def _tag(self, kit: Kit, x: float, y: float, text: str) -> None:
        wide = kit.width(text, 12, 500) + self.u(14)
        x, y = min(max(2, x), self.width() - wide - 2), min(max(self.u(12), y), self.height() - self.u(12))
        kit.rect(x, y - self.u(10), wide, self.u(20), "card", "indigo", 1.2, "dash")
        kit.text(x + self.u(7), y, text, 12, 500, "indigo")

    def _strung(self, kit: Kit) -> None:
        """Springs and their like; each of their ends can be taken hold of."""
        scene = self.scene
        for i, element in enumerate(scene.figure.elements):
            on = self.desk.subject.kind == "element" and self.desk.subject.id == element.id
            now = scene.strung[i]
            if isinstance(element, Torsion):
                joint = scene.tree.index(element.joint)
                draw_spiral(kit, self.to_screen(scene.room @ scene.placed.pivot[joint, :, 0]), on)
                continue
            way = [self.to_screen(scene.room @ point) for point in now.points]
            draw_strung(kit, element.kind, way, now.force == 0.0, on)
            for k, (x, y) in enumerate(way):
                path = QPainterPath()
                path.addEllipse(QPointF(x, y), self.u(7), self.u(7))
                self.hits.append((Ref("element", element.id, k), path, -1.0))
            for (ax, ay), (bx, by) in itertools.pairwise(way):
                path = QPainterPath(QPointF(ax, ay))
                path.lineTo(bx, by)
                wide = QPainterPathStroker()
                wide.setWidth(self.u(10))
                self.hits.append((Ref("element", element.id), wide.createStroke(path), 0.0))

    def _rods(self, kit: Kit) -> None:
        """Rods as thick as they are, and dashed as they bend in the pose shown; both ends can be taken hold of."""
        scene = self.scene
        for rod, sags in zip(scene.figure.rods, scene.sags, strict=True):
            on = self.desk.subject.kind == "rod" and self.desk.subject.id == rod.id
            link = scene.link(rod.rides_on)
            ends = [self.to_screen(scene.at(link, at)) for at in (rod.at_mm, rod.tip_mm)]
            x, y = self.axes @ scene.room @ sags
            tip = (ends[1][0] + self.k * x, ends[1][1] - self.k * y)
            draw_rod(kit, ends[0], ends[1], tip, max(rod.thick_mm / 1e3 * self.k, 1.5), on)
            for k, at in enumerate(ends):
                path = QPainterPath()
                path.addEllipse(QPointF(*at), self.u(7), self.u(7))
                self.hits.append((Ref("rod", rod.id, k), path, -1.0))
            path = QPainterPath(QPointF(*ends[0]))
            path.lineTo(*ends[1])
            wide = QPainterPathStroker()
            wide.setWidth(self.u(10))
            self.hits.append((Ref("rod", rod.id), wide.createStroke(path), 0.0))

    def _pivots(self, kit: Kit) -> None:
        scene = self.scene
        for joint in scene.figure.joints:
            x, y = self.to_screen(scene.room @ scene.placed.pivot[scene.tree.index(joint.id), :, 0])
            r = self.u(5.5 if joint.timed is TIMINGS["head"] else 3.8)
            pivot(kit, x, y, r, self.desk.subject == Ref("joint", joint.id))
            path = QPainterPath()
            path.addEllipse(QPointF(x, y), r + 3, r + 3)
            self.hits.append((Ref("joint", joint.id), path, 0.0))

    def _centre(self, kit: Kit) -> None:
        scene, ident = self.scene, self.desk.joint_in_hand()
        if not self.bobs or ident not in scene.tree.ids:
            return
        j = scene.tree.index(ident)
        floor = self.height() - self.u(22)
        cx, cy = self.to_screen(scene.room @ scene.centres[j])
        px, py = self.to_screen(scene.room @ scene.placed.pivot[j, :, 0])
        kit.line(px, py, px, floor, "ink3", 1, "dot")
        kit.line(cx, cy, cx, floor, "indigo", 1.2)
        pivot(kit, px, py, self.u(5.5), True)
        centre(kit, cx, cy, self.u(9))
        wx, wy = self.to_screen(scene.room @ scene.whole)
        kit.line(wx, wy, wx, floor, "ink2", 1, "dash")
        centre(kit, wx, wy, self.u(6.5), "ink")
        across = abs(cx - px)
        text = self.desk.show(Quantity(across / self.k, "length"))
        y = floor - self.u(3)
        kit.line(px, y, cx, y, "indigo", 1.2)
        for x in (px, cx):
            kit.circle(x, y, 2, "indigo")
        beside = max(px, cx) + self.u(6)
        if beside + kit.width(text, 12, 600) > self.width() - 4:
            kit.text(min(px, cx) - self.u(6), y, text, 12, 600, "indigo", "r", "paper")
        else:
            kit.text(beside, y, text, 12, 600, "indigo", "l", "paper")

    def _sites(self, kit: Kit) -> None:
        scene, s = self.scene, self.u(9)
        self.taken: list[tuple[float, float]] = []
        for i, site in enumerate(scene.figure.ballast_sites):
            x, y = self.to_screen(scene.at(scene.link(site.rides_on), site.at_mm))
            kit.rect(x - s, y - s, 2 * s, 2 * s, "moss_t", "moss", 1.4, "dash")
            kit.text(x - s - 3, y - s, LETTERS[i].upper(), 12, 700, "moss", "r", "paper")
            self.taken.append((x - s - 3 - self.u(5), y - s))

    def _bobs(self, kit: Kit) -> None:
        scene = self.scene
        taken = [*self.taken, self.to_screen(scene.room @ scene.whole)]
        ident = self.desk.joint_in_hand()
        if ident in scene.tree.ids:
            j = scene.tree.index(ident)
            taken += [
                self.to_screen(scene.room @ scene.centres[j]),
                self.to_screen(scene.room @ scene.placed.pivot[j, :, 0]),
            ]
        for i, body in enumerate(b for b in scene.tree.bodies if b.kind == "part"):
            x, y = self.to_screen(scene.at(body.link, body.at))
            tall = max(8.5, 0.6 * math.sqrt(body.mass * 1e3)) * self.desk.look.scale
            bob(kit, x, y - tall / 2, tall)
            half = kit.width(LETTERS[i % 26], 12, 600) / 2
            for side in (1, -1):
                tx = x + side * (tall * 0.42 + 3 + half)
                if all(abs(tx - a) > self.u(13) or abs(y - b) > self.u(13) for a, b in taken):
                    kit.text(tx, y, LETTERS[i % 26], 12, 600, "indigo", "c")
                    taken.append((tx, y))
                    break

    def _names(self, kit: Kit) -> None:
        """Names in columns at the edges, a short level piece, then straight to a ring on the part."""
        scene, middle = self.scene, self.width() / 2
        rows = []
        for part in scene.figure.parts:
            x, y = self.to_screen(scene.at(scene.link(part.rides_on), part.at_mm))
            rows.append((part, x, y))
        step, top, bottom = self.u(17), self.u(34), self.height() - self.u(14)
        fits = max(1, int((bottom - top) / step))
        for side in ("l", "r"):
            mine = sorted((r for r in rows if (r[1] < middle) == (side == "l")), key=lambda r: r[2])
            mine = sorted(sorted(mine, key=lambda r: -self._weight(r[0]))[:fits], key=lambda r: r[2])
            ys = _spread([r[2] for r in mine], step, top, bottom)
            named = [(*row, ty, self._short(kit, row[0])) for row, ty in zip(mine, ys, strict=True)]
            column = max((kit.width(words, 12, 600) for *_, words in named), default=0.0) + self.u(10)
            for part, x, y, ty, words in named:
                self._name(kit, part, x, y, ty, side, words, column)

    def _weight(self, part) -> float:
        return 1e9 if self.desk.subject == Ref("part", part.id) else (part.mass_g or 0.0)

    def _short(self, kit: Kit, part) -> str:
        """The name, or as many of its words as there is room for."""
        return kit.short(part.name, self.u(100), 12, 600)

    def _name(self, kit: Kit, part, x: float, y: float, ty: float, side: str, words: str, column: float) -> None:
        on = self.desk.subject == Ref("part", part.id)
        way = 1 if side == "l" else -1
        edge = self.u(4) if side == "l" else self.width() - self.u(4)
        kit.text(edge, ty, words, 12, 600 if on else 500, "indigo" if on else "ink", side)
        start = edge + way * (kit.width(words, 12, 600 if on else 500) + 4)
        kit.polyline([(start, ty), (edge + way * column, ty), (x, y)], "indigo" if on else "rule", 1.6 if on else 1)
        kit.circle(x, y, 2.4, "card", "indigo" if on else "ink2", 1.3)

    def _at_pointer(self, kit: Kit) -> None:
        """While dragging: the reserve of the joint in hand, changing at the pointer."""
        study = self.desk.study
        if self.held is None or self.pointer is None or study is None:
            return
        finding = self.desk.finding("hold", self.desk.joint_in_hand())
        if finding is None or finding.reserve is None:
            return
        ink, ground = VERDICT[finding.verdict]
        name = name_of(self.desk.figure, finding.subject)
        text = f"{name} {show_reserve(finding.reserve)}"
        wide = kit.width(text, 13, 700) + self.u(34)
        x = min(self.pointer[0] + 14, self.width() - wide - 2)
        y = max(self.u(14), self.pointer[1] - self.u(18))
        kit.rect(x, y - self.u(12), wide, self.u(24), ground, ink)
        tumbler(kit, x + self.u(13), y - 1, self.u(15), finding.verdict)
        kit.text(x + self.u(25), y, text, 13, 700, ink)

    # ---- the hand
    def hit(self, x: float, y: float) -> Ref | None:
        """The nearest pivot first, then the smallest part under the pointer."""
        here = QPointF(x, y)
        found = [h for h in self.hits if h[1].contains(here)]

        def rank(hit) -> tuple[float, float]:
            away = hit[1].boundingRect().center() - here
            return (hit[2], math.hypot(away.x(), away.y()))

        return min(found, key=rank)[0] if found else None

    def screen_of(self, kind: str, ident: str) -> tuple[float, float]:
        """Where a part or pivot is drawn; for tests and for keyboard reveals."""
        self._prepare()
        scene = self.scene
        if kind == "part":
            part = scene.figure.part(ident)
            return self.to_screen(scene.at(scene.link(part.rides_on), part.at_mm))
        return self.to_screen(scene.room @ scene.placed.pivot[scene.tree.index(ident), :, 0])

    def away_mm(self, rides_on: str) -> tuple[float, float, float] | None:
        """Where the pointer is, mm from the pivot of what a thing would ride on, in its own frame; None where it is not over the drawing."""
        here = self.mapFromGlobal(QCursor.pos())
        if not self.isVisible() or not self.rect().contains(here):
            return None
        self._prepare()
        link = self.scene.link(rides_on)
        pivot = self.desk.figure.joint(rides_on).at_mm if rides_on != BASE else (0.0, 0.0, 0.0)
        x, y = self.to_screen(self.scene.at(link, pivot))
        room = self.axes.T @ np.array([(here.x() - x) / self.k * 1e3, (y - here.y()) / self.k * 1e3])
        rest = self.scene.rotation(link).T @ room
        return (float(round(rest[0])), float(round(rest[1])), float(round(rest[2])))

    def mousePressEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        found = self.hit(x, y)
        if found is None:
            self.desk.select(FIGURE)
            return
        self.desk.select(found)
        self._prepare()
        if self.posing or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.turning = grasp(self.scene, self.desk, found, (x, y), self)
            return
        place = place_of(self.desk.figure, found)
        if place is None:
            return
        self._prepare()
        self.held = (found, np.array([x, y]), place[1])
        self.started = False

    def mouseMoveEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        if self.turning is not None:
            self.desk.transport.stop()
            self.desk.set_pose(self.turning.joint, self.turning.value(x, y))
            return
        if self.held is None:
            found = self.hit(x, y)
            self.setCursor(Qt.CursorShape.SizeAllCursor if found else Qt.CursorShape.ArrowCursor)
            return
        self.pointer = (x, y)
        ref, start, at = self.held
        moved = np.array([x, y]) - start
        if not self.started and np.abs(moved).max() < 3:
            return
        self.started = True
        fine = 1.0 if not event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 5.0
        steps = np.round(moved / self.k * 1e3 / fine) * fine
        self._move(ref, at, float(steps[0]), float(-steps[1]))

    def _move(self, ref: Ref, at, right_mm: float, up_mm: float) -> None:
        place = place_of(self.desk.figure, ref)
        if place is None:
            return
        scene = Scene(self.desk, self.desk.figure)
        room = self.axes.T @ np.array([right_mm, up_mm])
        rest = scene.rotation(scene.link(place[0])).T @ room
        x, y, z = (round(float(a + b), 1) for a, b in zip(at, rest, strict=True))
        if (x, y, z) != place[1]:
            self.desk.edit(lambda: move_to(self.desk.figure, ref, (x, y, z)), dragging=True)

    def mouseReleaseEvent(self, event) -> None:
        if self.held is not None and self.started:
            self.desk.end_drag()
        self.held, self.pointer, self.turning = None, None, None
        self.refresh()

    def keyPressEvent(self, event) -> None:
        step = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }.get(event.key())
        ref = self.desk.subject
        place = place_of(self.desk.figure, ref)
        if step is None or place is None:
            super().keyPressEvent(event)
            return
        fine = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        self._move(ref, place[1], step[0] * fine, step[1] * fine)

    def resizeEvent(self, event) -> None:
        self.refresh()


def _spread(wanted: list[float], step: float, top: float, bottom: float) -> list[float]:
    """Places near the wanted ones, at least a step apart, between top and bottom."""
    out: list[float] = []
    for y in wanted:
        out.append(max(y, top, out[-1] + step if out else top))
    limit = bottom
    for i in reversed(range(len(out))):
        out[i] = min(out[i], limit)
        limit = out[i] - step
    return out
