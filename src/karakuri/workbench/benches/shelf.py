"""The pose shelf: kept poses as faces on a board; the number is their key. Drag one to a time, or press it to recall it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QPainterPath, QPolygonF, QTransform
from PyQt6.QtWidgets import QWidget

from karakuri.bodies.outline import outline
from karakuri.bodies.tree import Tree, posture_gravity
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import Placed, place, place_points
from karakuri.mechanics.starts import rest_pose
from karakuri.model.drawn import Drawn
from karakuri.model.figure import Figure
from karakuri.model.part import Part
from karakuri.model.ref import Ref, item_of
from karakuri.model.score import Pose
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.drawing import affine, draw_part, drawn_in, flat, in_order
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet

MOST_FACES = 200
FRONT = np.array([[0, 1.0, 0], [0, 0, 1.0]])


class Face:
    """What rides on the last joints of the neck, from the front in one pose: outlines in metres about their own middle."""

    def __init__(self, figure: Figure, tree: Tree, places: dict[str, float]) -> None:
        q = rest_pose(tree)
        for joint, value in places.items():
            if joint in tree.ids:
                q[tree.index(joint)] = value
        gravity = posture_gravity(figure.stances[0], figure.assumptions.gravity_mps2)
        placed = place(tree, complete(tree, q[:, None], gravity))
        self.shapes: list[tuple[str, list[tuple[float, float]]]] = []
        self.drawn = _drawn(figure, tree, placed)
        parts, found, outlines = _head(figure), [], []
        for part in parts:
            link = tree.index(part.rides_on) if part.rides_on != "base" else -1
            turned = placed.rotation[link, :, :, 0] if link >= 0 else np.eye(3)
            at = np.array(part.at_mm) / 1e3
            if link >= 0:
                at = placed.pivot[link, :, 0] + turned @ (at - tree.pivot[link])
            middle = FRONT @ at
            shape = [(middle[0] + x, middle[1] + y) for x, y in outline(part, turned, FRONT)]
            outlines.append(shape)
            region = figure.joint(part.rides_on).region if part.rides_on != "base" else "body"
            if len(shape) > 2:
                found.append((float(at[0]), region, shape))
        found.sort(key=lambda each: (each[1] in ("eyes", "lids", "jaw"), each[0]))
        self.shapes = [(region, shape) for _, region, shape in found]
        self.pupils: list[tuple[float, float, float]] = []
        tips = {p.rides_on for p in parts} - {j.rides_on for j in figure.joints}
        for eye in (j for j in figure.joints if j.region == "eyes" and j.id in tips):
            link = tree.index(eye.id)
            shape = next((s for part, s in zip(parts, outlines, strict=True) if part.rides_on == eye.id and s), [])
            wide = max((x for x, _ in shape), default=0.0) - min((x for x, _ in shape), default=0.0)
            at = FRONT @ (placed.pivot[link, :, 0] + placed.rotation[link, :, 0, 0] * wide * 0.34)
            self.pupils.append((float(at[0]), float(at[1]), wide * 0.26))

    def extent(self) -> tuple[float, float, float, float]:
        if self.drawn:
            boxes = [where.map(flat(some[0].path)).boundingRect() for some, where in self.drawn]
            whole = boxes[0]
            for box in boxes[1:]:
                whole = whole.united(box)
            return whole.left(), whole.right(), whole.top(), whole.bottom()
        pts = [p for _, shape in self.shapes for p in shape] or [(0.0, 0.0), (0.1, 0.1)]
        xs, ys = [p[0] for p in pts], [p[1] for p in pts]
        return min(xs), max(xs), min(ys), max(ys)


def _drawn(figure: Figure, tree: Tree, placed: Placed) -> list[tuple[tuple[Drawn, ...], QTransform]]:
    """Where parts of the face say how they look from the front: that, and from mm as it is written to m in the room; empty where none does."""
    face = {id(part) for part in _head(figure)}
    out = []
    for part in in_order(figure, tree):
        some = drawn_in(part, "front")
        if not some or id(part) not in face:
            continue
        link = tree.index(part.rides_on) if part.rides_on != "base" else -1

        def there(y: float, z: float, part: Part = part, link: int = link) -> tuple[float, float]:
            point = np.array([[part.at_mm[0], y, z]]) / 1e3
            at = FRONT @ place_points(tree, placed, link, point)[0, :, 0]
            return float(at[0]), float(at[1])

        out.append((some, affine(there)))
    return out


def _head(figure: Figure) -> list[Part]:
    """The parts of the face: what rides on eyes, lids and jaw and on the joint that carries them; else all that moves."""
    features = [j for j in figure.joints if j.region in ("eyes", "lids", "jaw")]
    links = {j.id for j in features} | {j.rides_on for j in features}
    shown = [p for p in figure.parts if p.rides_on in links - {"base"}]
    return shown or [p for p in figure.parts if p.rides_on != "base"] or list(figure.parts)


class Shelf(Sheet):
    """Six poses at a time; more are reached with the wheel or the arrows."""

    recalled = pyqtSignal(str)
    pinned = pyqtSignal(str)
    dragged = pyqtSignal(str, QPointF)
    dropped = pyqtSignal(str, QPointF)

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "pose shelf", parent)
        self.first = 0
        self.held: tuple[str, QPointF] | None = None
        self.away = False
        self._faces: dict[int, tuple[Pose, Face]] = {}
        self._bodies: tuple = ()
        self.shown: tuple = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def fresh(self) -> None:
        pose = self.in_hand()
        self.setAccessibleName(
            f"pose shelf: {pose.name}" if pose else f"pose shelf: {len(self.desk.figure.poses)} poses"
        )
        self.first = max(0, min(self.first, len(self.desk.figure.poses) - self.slots()))
        poses = tuple(map(id, self.desk.figure.poses))
        shown = (self._body_key()[0], poses, self.desk.subject if pose else None, self.first, self.desk.look.scale)
        if shown != self.shown:
            self.shown = shown
            self.update()

    def in_hand(self) -> Pose | None:
        ref = self.desk.subject
        return item_of(self.desk.figure, ref) if ref.kind == "pose" else None

    def slots(self) -> int:
        return max(2, min(6, int(self.width() / self.u(84))))

    def _body_key(self) -> tuple:
        """What all faces rest on, by identity, and the things themselves: held, so that their ids stay their own."""
        figure = self.desk.figure
        things = (figure.parts, figure.joints, figure.elements, figure.postures, (figure.base,))
        return (*(tuple(map(id, each)) for each in things), id(figure.assumptions)), figure

    def face(self, pose: Pose) -> Face:
        """The face of a pose, kept while bodies and that pose stay as they are."""
        key = self._body_key()
        if not self._bodies or self._bodies[0] != key[0]:
            self._bodies, self._faces = key, {}
        kept = self._faces.get(id(pose))
        if kept is None:
            figure = self.desk.figure
            places = {j: v * figure.joint(j).measure.si for j, v in pose.places}
            if len(self._faces) > MOST_FACES:
                self._faces.clear()
            kept = self._faces[id(pose)] = (pose, Face(figure, self.desk.tree(), places))
        return kept[1]

    def slot(self, i: int) -> tuple[float, float, float, float]:
        """x, y, width and height of a slot."""
        n, gap = self.slots(), self.u(8)
        wide = (self.width() - gap * (n - 1) - 2) / n
        return 1 + i * (wide + gap), 1, wide, self.height() - self.u(9)

    def at(self, x: float) -> int | None:
        for i in range(self.slots()):
            left, _, wide, _ = self.slot(i)
            if left <= x <= left + wide:
                return i
        return None

    def draw(self, kit: Kit) -> None:
        u, poses = self.u, self.desk.figure.poses
        _, y0, _, tall = self.slot(0)
        bounds = [self.face(pose).extent() for pose in poses[self.first : self.first + self.slots()]]
        if bounds:
            a, c = min(b[0] for b in bounds), min(b[2] for b in bounds)
            b, d = max(b[1] for b in bounds), max(b[3] for b in bounds)
        for i in range(self.slots()):
            x, y, wide, tall = self.slot(i)
            n = self.first + i
            cut = u(8)
            shape = Kit.path([(x + cut, y), (x + wide - cut, y), (x + wide, y + cut), (x + wide, y + tall),
                              (x, y + tall), (x, y + cut)], True)  # fmt: skip
            if n >= len(poses):
                kit.draw(shape, None, "rule", 1, "dot")
                if n == len(poses):
                    kit.lines(x + u(8), y + u(24), "pose it, then “Keep as pose”", wide - u(14), 12, 400, "ink2")
                continue
            pose = poses[n]
            on = self.desk.subject == Ref("pose", pose.id)
            kit.draw(shape, "card", "indigo" if on else "hair", 1.8 if on else 1)
            kit.circle(x + wide / 2, y + u(7), 2.2, "paper", "rule")
            if n < 9:
                kit.text(x + wide - u(6), y + u(11), str(n + 1), 11, 500, "ink3", "r")
            name = kit.short(pose.name, wide - u(6), 12, 600)
            kit.text(x + wide / 2, y + tall - u(11), name, 12, 600 if on else 400, "indigo" if on else "ink", "c")
            room = tall - u(36)
            k = min((wide - u(16)) / max(b - a, 1e-6), room / max(d - c, 1e-6))
            mx, my = x + wide / 2 - k * (a + b) / 2, y + u(15) + room / 2 + k * (c + d) / 2
            self._face(kit, self.face(pose), mx, my, k)
        kit.rect(0, y0 + tall, self.width(), u(5), "wood")
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _face(self, kit: Kit, face: Face, mx: float, my: float, k: float) -> None:
        for some, where in face.drawn:
            draw_part(kit, some, where * QTransform(k, 0, 0, -k, mx, my), True, 0.7)
        if face.drawn:
            return
        fills = {"neck": "feather", "eyes": "face", "jaw": "brass_f", "lids": "feather", "body": "face"}
        for region, shape in face.shapes:
            path = QPainterPath()
            path.addPolygon(QPolygonF([QPointF(mx + k * x, my - k * y) for x, y in shape]))
            path.closeSubpath()
            kit.draw(path, fills.get(region, "face"), REGION[region][0] if region == "jaw" else "ink", 1, alpha=0.9)
            if region == "eyes" and face.pupils and shape is [s for r, s in face.shapes if r == "eyes"][-1]:
                for x, y, r in face.pupils:
                    kit.circle(mx + k * x, my - k * y, max(1.5, k * r), "eye")

    # ---- the hand
    def mousePressEvent(self, event) -> None:
        i = self.at(event.position().x())
        n = None if i is None else self.first + i
        if n is not None and n < len(self.desk.figure.poses):
            pose = self.desk.figure.poses[n]
            self.held, self.away = (pose.id, event.position()), False
            self.desk.select(Ref("pose", pose.id))

    def mouseMoveEvent(self, event) -> None:
        if self.held is not None and (event.position() - self.held[1]).manhattanLength() > 6:
            self.away = True
            self.dragged.emit(self.held[0], self.mapToGlobal(event.position()))

    def mouseReleaseEvent(self, event) -> None:
        if self.held is not None:
            ident, self.held = self.held[0], None
            if self.away:
                self.dropped.emit(ident, self.mapToGlobal(event.position()))
            else:
                self.recalled.emit(ident)

    def wheelEvent(self, event) -> None:
        self.first += -1 if event.angleDelta().y() > 0 else 1
        self.fresh()

    def keyPressEvent(self, event) -> None:
        poses, key = self.desk.figure.poses, event.key()
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key)
        now = self.in_hand()
        if step is not None and poses:
            n = max(0, min(len(poses) - 1, (poses.index(now) + step) if now else 0))
            self.first = min(max(self.first, n - self.slots() + 1), n)
            self.desk.select(Ref("pose", poses[n].id))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and now is not None:
            self.recalled.emit(now.id)
        else:
            super().keyPressEvent(event)
