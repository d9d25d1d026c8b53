"""What lies between a servo and its joint, to scale, with its sweep; holes and pivot are dragged."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QWidget

from karakuri.bodies.linkages import linkage_of
from karakuri.bodies.linkages.lever import FourBar
from karakuri.checks.gearing import LEAST_ANGLE, WISHED_ANGLE
from karakuri.model.drive import Drive
from karakuri.model.joint import Joint
from karakuri.model.transmission import Ball, Belt, Bevel, Gear, Lever
from karakuri.model.transmission_edits import set_number
from karakuri.units import Quantity
from karakuri.workbench.benches.shared_view import draw_ball, draw_bevel, draw_both, partner
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

Point = tuple[float, float]
ALONG, GRIP = 61, 12.0


def drive_in_hand(desk: Desk) -> Drive | None:
    """The drive of the joint in hand, where something lies between both; else None."""
    ident = desk.joint_in_hand()
    drive = desk.figure.drive_of(ident) if ident else None
    return drive if drive is not None and drive.transmission.kind != "direct" else None


def shares_in_hand(desk: Desk) -> bool:
    """Whether the joint in hand shares its servo with one other joint."""
    drive = drive_in_hand(desk)
    return drive is not None and partner(desk, desk.figure.joint(drive.joint)) is not None


def _arm(at: Point, length: float, angle: float) -> Point:
    return at[0] + length * math.cos(angle), at[1] + length * math.sin(angle)


def _scale(points: list[Point], x: float, y: float, w: float, h: float) -> tuple[Callable[[Point], Point], float]:
    """From metres in the plane, up is up, into a box, all points inside; and how many pixels a metre is."""
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    wide, tall = max(max(xs) - min(xs), 1e-6), max(max(ys) - min(ys), 1e-6)
    k = min(w / wide, h / tall)
    left, top = x + (w - k * wide) / 2, y + (h - k * tall) / 2
    return lambda p: (left + k * (p[0] - min(xs)), top + k * (max(ys) - p[1])), k


def draw_linkage(kit: Kit, desk: Desk, joint_id: str, x: float, y: float, w: float, h: float) -> dict[str, Point]:
    """The linkage of a joint in its place now, in a box; where its holes and its pivot are in it."""
    drive, joint = desk.figure.drive_of(joint_id), desk.figure.joint(joint_id)
    if drive is None:
        return {}
    linkage, form = linkage_of(desk.figure, drive), drive.transmission
    if isinstance(form, Lever) and isinstance(linkage, FourBar):
        return _lever(kit, desk, joint, linkage, x, y, w, h)
    if isinstance(form, (Gear, Belt)):
        _wheels(kit, desk, joint, form, x, y, w, h)
    if isinstance(form, Ball):
        draw_ball(kit, desk, drive, x, y, w, h)
    if isinstance(form, Bevel):
        draw_bevel(kit, desk, drive, x, y, w, h)
    return {}


def _lever(kit: Kit, desk: Desk, joint: Joint, bar: FourBar, x: float, y: float, w: float, h: float) -> dict[str, Point]:  # fmt: skip
    u, shaft, pivot = kit.u, (0.0, 0.0), (bar.apart, 0.0)
    places = np.radians(np.linspace(*joint.range_deg, ALONG))
    there = bar.inverse(places)
    horn, lever = bar.begins + there.drive, bar.stands + places
    reach = [_arm(shaft, bar.horn, a) for a in horn] + [_arm(pivot, bar.lever, a) for a in lever]
    rim = [(-0.011, -0.011), (0.011, 0.011), (bar.apart + 0.006, -0.006)]
    to, _ = _scale([*reach, *rim], x + u(26), y + u(22), w - u(52), h - u(44))
    kit.line(*to(shaft), *to(pivot), "hair", 1.2, "chain")
    kit.polyline([to(_arm(pivot, bar.lever, a)) for a in lever], "rule", 2)
    kit.polyline([to(_arm(shaft, bar.horn, a)) for a in horn], "rule", 2)
    for i in (0, ALONG - 1):  # where it is at both ends
        _bars(kit, to, bar, horn[i], lever[i], "hair", bool(there.closes[i]))
    now = np.array([desk.place(joint.id)])
    at = bar.inverse(now)
    h_now, l_now = bar.begins + float(at.drive[0]), bar.stands + float(now[0])
    flat = float(at.angle[0])
    ink = "verm" if flat < LEAST_ANGLE or not at.closes[0] else "ochre" if flat < WISHED_ANGLE else "indigo"
    _bars(kit, to, bar, h_now, l_now, ink, bool(at.closes[0]), 2.6)
    for centre, words in ((shaft, "servo"), (pivot, joint.name)):
        px, py = to(centre)
        kit.circle(px, py, u(6), "brass_f", "ink", 1.4)
        kit.text(px, py + u(17), kit.short(words, w / 2 - u(10), 11, 400), 11, 400, "ink2", "c")
    holes = {"horn_mm": to(_arm(shaft, bar.horn, h_now)), "lever_mm": to(_arm(pivot, bar.lever, l_now)), "axes_mm": to(pivot)}  # fmt: skip
    for name in ("horn_mm", "lever_mm"):
        kit.circle(*holes[name], u(4.5), "card", "ink", 1.6)
    a, b = holes["horn_mm"], holes["lever_mm"]
    words = desk.show(Quantity(bar.rod, "length")) if at.closes[0] else "does not reach"
    kit.text((a[0] + b[0]) / 2, (a[1] + b[1]) / 2 - u(10), words, 11, 600, ink, "c")
    kit.text(b[0] + u(8), b[1] - u(9), desk.show(Quantity(flat, "angle")), 11, 600, ink)
    return holes


def _bars(kit: Kit, to, bar: FourBar, horn: float, lever: float, ink: str, closes: bool, thick: float = 1.2) -> None:
    one, two = _arm((0.0, 0.0), bar.horn, horn), _arm((bar.apart, 0.0), bar.lever, lever)
    kit.line(*to((0.0, 0.0)), *to(one), ink, thick)
    kit.line(*to((bar.apart, 0.0)), *to(two), ink, thick)
    kit.line(*to(one), *to(two), ink, max(thick - 0.6, 1.0), "" if closes else "dot")


def _wheels(kit: Kit, desk: Desk, joint: Joint, form: Gear | Belt, x: float, y: float, w: float, h: float) -> None:
    """Both wheels to scale, each with a mark that turns with it."""
    u = kit.u
    if isinstance(form, Gear):
        small, large = form.driver * form.module_mm / 2e3, form.driven * form.module_mm / 2e3
        apart = small + large
    else:
        small, large, apart = form.driver / 2e3, form.driven / 2e3, form.axes_mm / 1e3
    corners = [(-small, -small), (-small, small), (apart + large, large), (apart + large, -large)]
    to, k = _scale(corners, x + u(12), y + u(8), w - u(24), h - u(34))
    place = float(desk.place(joint.id))
    drive = desk.figure.drive_of(joint.id)
    linkage = linkage_of(desk.figure, drive)
    assert linkage is not None
    turned = float(linkage.inverse(np.array([place])).drive[0])
    for centre, radius, angle, words in (((0.0, 0.0), small, turned, "servo"), ((apart, 0.0), large, place, joint.name)):  # fmt: skip
        px, py = to(centre)
        kit.circle(px, py, k * radius, "brass_f" if words == "servo" else "card", "ink", 1.4)
        kit.line(px, py, *to(_arm(centre, 0.85 * radius, math.pi / 2 + angle)), "indigo", 2)
        kit.circle(px, py, u(3), "ink", "ink", 1)
        kit.text(px, y + h - u(14), kit.short(words, w / 2 - u(10), 11, 400), 11, 400, "ink2", "c")
    if isinstance(form, Belt):
        side = math.asin((large + small if form.crossed else large - small) / apart)
        for way in (1.0, -1.0):
            off = math.pi / 2 - side if form.crossed else math.pi / 2 + side
            first = _arm((0.0, 0.0), small, way * off)
            second = _arm((apart, 0.0), large, way * off + (math.pi if form.crossed else 0.0))
            kit.line(*to(first), *to(second), "ink", 2)


class LinkageView(Sheet):
    """The linkage of the joint in hand, large; below, how its rod stands to its lever over the range, and what is there at the pointer."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "what turns the joint, to scale", parent)
        self.holes: dict[str, Point] = {}
        self.held = ""
        self.pointer: QPointF | None = None
        self.setMouseTracking(True)
        for signal in (desk.studied, desk.selected, desk.looked, desk.changed, desk.posed):
            signal.connect(self.update)

    def draw(self, kit: Kit) -> None:
        u, drive, w, h = kit.u, drive_in_hand(self.desk), self.width(), self.height()
        if drive is None:
            return
        joint = self.desk.figure.joint(drive.joint)
        kit.text(u(4), u(9), "What turns it, to scale", 13, 600)
        roomy = h > u(200) and isinstance(drive.transmission, Lever)
        curve = u(84) if roomy else u(8)
        other = partner(self.desk, joint)
        if other is not None and w > u(360):
            mine = round(w * 0.36)
            self.holes = draw_linkage(kit, self.desk, joint.id, 0, u(20), mine, h - u(26))
            draw_both(kit, self.desk, joint, other, mine + u(10), u(20), w - mine - u(14), h - u(26))
            return
        self.holes = draw_linkage(kit, self.desk, joint.id, 0, u(20), w, h - curve - u(22))
        if roomy:
            self._curve(kit, drive, joint, u(30), h - curve + u(8), w - u(40), curve - u(28))

    def _curve(self, kit: Kit, drive: Drive, joint: Joint, x: float, y: float, w: float, h: float) -> None:
        u, linkage = kit.u, linkage_of(self.desk.figure, drive)
        assert linkage is not None
        places = np.radians(np.linspace(*joint.range_deg, ALONG))
        there = linkage.inverse(places)
        at = lambda i, angle: (x + w * i / (ALONG - 1), y + h * (1 - angle / (math.pi / 2)))  # noqa: E731
        kit.line(x, y + h, x + w, y + h, "rule")
        kit.line(x, at(0, LEAST_ANGLE)[1], x + w, at(0, LEAST_ANGLE)[1], "verm", 1, "dot")
        for i in range(ALONG - 1):
            ink = "indigo" if there.closes[i] and there.closes[i + 1] else "verm"
            kit.line(*at(i, float(there.angle[i])), *at(i + 1, float(there.angle[i + 1])), ink, 1.8)
        kit.text(x - u(4), y + u(2), "90°", 11, 400, "ink3", "r")
        kit.text(x - u(4), at(0, LEAST_ANGLE)[1], "40°", 11, 400, "verm", "r")
        i = self._under(x, w)
        words = "between rod and lever, over the range"
        if i is not None:
            kit.line(at(i, 0.0)[0], y, at(i, 0.0)[0], y + h, "ink2", 1)
            place, flat = Quantity(float(places[i]), "angle"), Quantity(float(there.angle[i]), "angle")
            ratio = Quantity(abs(float(there.ratio[i])), "ratio")
            words = f"at {self.desk.show(place)}: {self.desk.show(flat)} between them, servo turns {self.desk.show(ratio)} for 1"
            if not there.closes[i]:
                words = f"at {self.desk.show(place)}: the rod does not reach"
        kit.text(x, y + h + u(10), kit.short(words, w, 11, 400), 11, 400, "ink2")

    def _under(self, x: float, w: float) -> int | None:
        if self.pointer is None or not x <= self.pointer.x() <= x + w:
            return None
        return round((self.pointer.x() - x) / w * (ALONG - 1))

    def mouseMoveEvent(self, event) -> None:
        self.pointer = event.position()
        if self.held:
            self._drag(self.pointer)
        near = self._near(self.pointer) or self.held
        self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
        self.update()

    def leaveEvent(self, event) -> None:
        self.pointer = None
        self.update()

    def mousePressEvent(self, event) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.held = self._near(event.position())

    def mouseReleaseEvent(self, event) -> None:
        if self.held:
            self.held = ""
            self.desk.end_drag()

    def _near(self, at: QPointF) -> str:
        """Which hole, or the pivot, lies under the pointer; '' where none does."""
        far = {name: math.hypot(at.x() - p[0], at.y() - p[1]) for name, p in self.holes.items()}
        name = min(far, key=lambda each: far[each], default="")
        return name if name and far[name] <= self.u(GRIP) else ""

    def _drag(self, at: QPointF) -> None:
        """A hole along its arm, to the nearest that there is; the pivot along the line from the shaft. The scale is that of before the drag."""
        drive = drive_in_hand(self.desk)
        if drive is None or not isinstance(drive.transmission, Lever) or not self.holes:
            return
        form, name = drive.transmission, self.held
        pivot = self.holes["axes_mm"]
        arm = self.holes["lever_mm"]
        per_mm = math.hypot(arm[0] - pivot[0], arm[1] - pivot[1]) / form.lever_mm
        centre = pivot if name == "lever_mm" else (pivot[0] - per_mm * form.axes_mm, pivot[1])
        new = max(math.hypot(at.x() - centre[0], at.y() - centre[1]) / max(per_mm, 1e-6), 1.0)
        there = {"horn_mm": form.horn_holes_mm, "lever_mm": form.lever_holes_mm}.get(name, ())
        new = min(there, key=lambda hole: abs(hole - new)) if there else round(new * 2) / 2
        if new != getattr(form, name):
            words = {"horn_mm": "hole in the horn", "lever_mm": "hole in the lever", "axes_mm": "shaft to pivot"}[name]
            self.desk.edit(lambda: set_number(self.desk.figure, drive.id, name, float(new), words), True)
