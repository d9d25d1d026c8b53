"""An elevation to scale, from its left or its front: drawn layer upon layer, and what is in it taken hold of, dragged, turned and marked."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QCursor, QTransform
from PyQt6.QtWidgets import QWidget

from karakuri.model.finding import show_reserve
from karakuri.model.part import BASE
from karakuri.model.places import move_to, place_of
from karakuri.model.ref import FIGURE, Ref, name_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.stage.drawing import affine, placing
from karakuri.workbench.stage.ground import draw_ground, draw_pictures, draw_wearer
from karakuri.workbench.stage.joints import (
    draw_centre,
    draw_elements,
    draw_fastenings,
    draw_parallelograms,
    draw_pivots,
    draw_rods,
)
from karakuri.workbench.stage.letters import draw_bobs, draw_names, draw_sites
from karakuri.workbench.stage.marking import CLOSE_PX, Marking, draw_marking
from karakuri.workbench.stage.scene import Scene, scene_of
from karakuri.workbench.stage.shapes import draw_ghost, draw_parts
from karakuri.workbench.stage.turning import Turning, grasp
from karakuri.workbench.stage.view import View
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet


class Elevation(Sheet):
    """view 'side' (x to the right, from its left … seen so that it faces right) or 'front' (its left at the right)."""

    def __init__(
        self,
        desk: Desk,
        view: str,
        parent: QWidget,
        labels: bool = False,
        bobs: bool = False,
        posing: bool = False,
        close: bool = False,
    ) -> None:
        super().__init__(desk, f"{view} elevation", parent)
        self.view = View(desk, view, labels, bobs, posing, close)
        self.turning: Turning | None = None
        self.held: tuple[Ref, np.ndarray, tuple] | None = None
        self.pointer: tuple[float, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.shown: tuple = ()
        for signal in (desk.posed, desk.previewed, desk.selected, desk.looked, desk.marked):
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
            *figure.fastenings,
            *figure.pictures,
            *figure.postures,
            *figure.materials,
        )
        shown = (tuple(map(id, items)), figure.base, figure.assumptions)
        if shown != self.shown or self.view.scene is None:
            self.shown, self.kept_items = shown, items
            self.refresh()

    def refresh(self) -> None:
        self.view.scene = None
        name = name_of(self.desk.figure, self.desk.subject) or "nothing in hand"
        self.setAccessibleName(f"{self.view.name} elevation, in hand: {name}")
        self.update()

    def _judged(self) -> None:
        if self.held is not None:
            self.update()

    def _prepare(self) -> View:
        """The view with the figure as it stands now; while something is held in it, its scale stays."""
        view, desk = self.view, self.desk
        if view.scene is None:
            view.scene = scene_of(desk, desk.figure)
            view.ghost = Scene(desk, desk.preview) if desk.preview is not None else None
            view.width, view.height = self.width(), self.height()
            if self.held is None:
                view.fit()
        return view

    # ---- drawing
    def draw(self, kit: Kit) -> None:
        view = self._prepare()
        view.begin()
        draw_ground(kit, view)
        draw_pictures(kit, view)
        draw_parts(kit, view)
        draw_wearer(kit, view)
        if view.ghost is not None:
            draw_ghost(kit, view)
        draw_parallelograms(kit, view)
        draw_pivots(kit, view)
        draw_rods(kit, view)
        draw_fastenings(kit, view)
        draw_elements(kit, view)
        if view.bobs:
            draw_sites(kit, view)
            draw_bobs(kit, view)
        draw_centre(kit, view)
        if view.labels:
            draw_names(kit, view)
        ground = "paper" if view.scene.figure.pictures else None
        title = "Side elevation" if view.name == "side" else "Front elevation"
        kit.text(self.u(4), self.u(10), title, 12, 600, "ink2", "l", ground)
        number = f"{view.scale:g}" if view.scale < 1e4 else f"{view.scale:,.0f}"
        scale = f"scale 1 : {number}" + (", grid 50 mm" if self.width() > self.u(280) else "")
        kit.text(self.width() - self.u(4), self.u(10), scale, 12, 400, "ink3", "r", ground)
        self._at_pointer(kit)
        marking = self._marking()
        if marking is not None:
            frame = self._frame(marking)
            way = [(at.x(), at.y()) for at in (frame.map(QPointF(*point)) for point in marking.points)]
            draw_marking(kit, marking, way, self.pointer)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _marking(self) -> Marking | None:
        """What is being marked here."""
        marking = self.desk.marking
        return marking if marking is not None and marking.view == self.view.name and not self.view.posing else None

    def _frame(self, marking: Marking) -> QTransform:
        """From mm, as marked, to the screen: where a part is traced, as it is turned now."""
        if marking.part:
            view = self.view
            return placing(view.scene, view.scene.figure.part(marking.part), view.name, view.to_screen)
        return affine(self.view.on_screen)

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
        found = [h for h in self.view.hits if h[1].contains(here)]

        def rank(hit) -> tuple[float, float]:
            away = hit[1].boundingRect().center() - here
            return (hit[2], math.hypot(away.x(), away.y()))

        return min(found, key=rank)[0] if found else None

    def screen_of(self, kind: str, ident: str) -> tuple[float, float]:
        """Where a part or pivot is drawn; for tests and for keyboard reveals."""
        self._prepare()
        scene = self.view.scene
        if kind == "part":
            part = scene.figure.part(ident)
            return self.view.to_screen(scene.at(scene.link(part.rides_on), part.at_mm))
        return self.view.to_screen(scene.room @ scene.placed.pivot[scene.tree.index(ident), :, 0])

    def away_mm(self, rides_on: str) -> tuple[float, float, float] | None:
        """Where the pointer is, mm from the pivot of what a thing would ride on, in its own frame; None where it is not over the drawing."""
        here = self.mapFromGlobal(QCursor.pos())
        if not self.isVisible() or not self.rect().contains(here):
            return None
        self._prepare()
        link = self.view.scene.link(rides_on)
        pivot = self.desk.figure.joint(rides_on).at_mm if rides_on != BASE else (0.0, 0.0, 0.0)
        x, y = self.view.to_screen(self.view.scene.at(link, pivot))
        room = self.view.axes.T @ np.array([(here.x() - x) / self.view.k * 1e3, (y - here.y()) / self.view.k * 1e3])
        rest = self.view.scene.rotation(link).T @ room
        return (float(round(rest[0])), float(round(rest[1])), float(round(rest[2])))

    def _mark(self, x: float, y: float) -> None:
        """One more place; done where that was the last, or the first corner again."""
        marking = self.desk.marking
        frame = self._frame(marking)
        there, sound = frame.inverted()
        if not sound:  # turned edge on: nothing of it can be marked from here
            return
        first = frame.map(QPointF(*marking.points[0])) if marking.points else None
        closes = not marking.most and len(marking.points) > 2 and math.dist((first.x(), first.y()), (x, y)) < CLOSE_PX
        at = there.map(QPointF(x, y))
        if closes or marking.add(at.x(), at.y()):
            self._marked()
        else:
            self.update()

    def _marked(self) -> None:
        marking = self.desk.marking
        self.desk.mark(None)
        marking.done(marking.points)

    def mousePressEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        if self._marking() is not None:
            self._prepare()
            self.setFocus()
            self._mark(x, y)
            return
        found = self.hit(x, y)
        if found is None:
            self.desk.select(FIGURE)
            return
        self.desk.select(found)
        self._prepare()
        if self.view.posing or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.turning = grasp(self.view.scene, self.desk, found, (x, y), self.view)
            return
        place = place_of(self.desk.figure, found)
        if place is None:
            return
        self._prepare()
        self.held = (found, np.array([x, y]), place[1])
        self.started = False

    def mouseMoveEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        if self._marking() is not None:
            self.pointer = (x, y)
            self.setCursor(Qt.CursorShape.CrossCursor)
            self.update()
            return
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
        steps = np.round(moved / self.view.k * 1e3 / fine) * fine
        self._move(ref, at, float(steps[0]), float(-steps[1]))

    def _move(self, ref: Ref, at, right_mm: float, up_mm: float) -> None:
        place = place_of(self.desk.figure, ref)
        if place is None:
            return
        scene = Scene(self.desk, self.desk.figure)
        room = self.view.axes.T @ np.array([right_mm, up_mm])
        rest = scene.rotation(scene.link(place[0])).T @ room
        x, y, z = (round(float(a + b), 1) for a, b in zip(at, rest, strict=True))
        if (x, y, z) != place[1]:
            self.desk.edit(lambda: move_to(self.desk.figure, ref, (x, y, z)), dragging=True)

    def mouseReleaseEvent(self, event) -> None:
        if self.held is not None and self.started:
            self.desk.end_drag()
        if self._marking() is not None:
            return
        self.held, self.pointer, self.turning = None, None, None
        self.refresh()

    def keyPressEvent(self, event) -> None:
        if self._marking() is not None:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._marked()
            elif event.key() == Qt.Key.Key_Escape:
                self.desk.mark(None)
            elif event.key() == Qt.Key.Key_Backspace:
                self.desk.marking.back()
                self.update()
            return
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
