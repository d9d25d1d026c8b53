"""Limits: how far each joint can go, may go, and is wanted to go."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QWidget

from karakuri.limits.travel import servo_ends
from karakuri.model.edits import set_one_of
from karakuri.model.finding import show_reserve
from karakuri.model.joint import Joint
from karakuri.units import MINUS
from karakuri.workbench.benches.bench import CAUTION, Bench
from karakuri.workbench.benches.drive import joint_choice
from karakuri.workbench.benches.limits_page import limits_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot, polar, tumbler
from karakuri.workbench.theme import REGION, VERDICT
from karakuri.workbench.widgets.items import Note, Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.sheet import Sheet


def sector(cx: float, cy: float, a0: float, a1: float, r0: float, r1: float) -> QPainterPath:
    steps = max(2, int(abs(a1 - a0)))
    points = [polar(cx, cy, a0 + (a1 - a0) * i / steps, r1) for i in range(steps + 1)]
    points += [polar(cx, cy, a1 - (a1 - a0) * i / steps, r0) for i in range(steps + 1)]
    return Kit.path(points, True)


class Fan(Sheet):
    """The joint in hand at true angles about its pivot. The leaf's edges can be dragged: they are the wanted range."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Fan of the joint in hand", parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.edge = 1
        self.held = False
        for signal in (desk.changed, desk.selected, desk.looked, desk.studied, desk.posed):
            signal.connect(self.refresh)

    def joint(self) -> Joint | None:
        ident = self.desk.joint_in_hand()
        joint = self.desk.figure.joint(ident) if ident else None
        return joint if joint is not None and joint.kind == "turn" else None

    def refresh(self) -> None:
        joint = self.joint()
        if joint is not None:
            self.setAccessibleName(f"Fan of {joint.name}: wanted {joint.range_deg[0]:g}° to {joint.range_deg[1]:g}°, edge in hand {joint.ends[self.edge]}")
        self.update()

    def draw(self, kit: Kit) -> None:
        u, joint = kit.u, self.joint()
        if joint is None:
            kit.text(u(4), u(30), "Waits for a joint that turns.", 13, 400, "ink2")
            return
        drive = self.desk.figure.drive_of(joint.id)
        travel = tuple(math.degrees(a) for a in servo_ends(joint, drive.actuator)) if drive else None
        widest = max(abs(a) for a in (*joint.range_deg, *(joint.stops_deg or ())))
        wide_open = widest > 85
        self.cx, self.cy = self.width() / 2, self.height() * (0.56 if wide_open else 0.95) - u(6)
        r1 = min(self.cy - u(34), self.width() * 0.28, self.height() * (0.42 if wide_open else 0.8))
        r0, rt = r1 * 0.52, r1 + u(18)
        self.radius = (r0, r1)
        ink, tint = REGION[joint.region]
        low, high = joint.range_deg
        step = 5 if high - low <= 130 else 10
        cx, cy = self.cx, self.cy
        a, pleat = low, 0
        while a < high - 1e-6:
            b = min(a + step, high)
            kit.line(*polar(cx, cy, a, u(14)), *polar(cx, cy, a, r0), "brass_f", 1.3)
            kit.draw(sector(cx, cy, a, b, r0, r1), tint if pleat % 2 else "card", None)
            a, pleat = b, pleat + 1
        kit.draw(sector(cx, cy, low, high, r0, r1), None, ink, 1.6)
        labels: list[tuple[float, float, str, str, str]] = []
        if joint.stops_deg:
            self._stops(kit, joint, r0, r1)
            labels += [(joint.stops_deg[i], r1 - u(24), f"hard stop {_deg(joint.stops_deg[i])}", f"measured, ± {joint.stop_tolerance_deg:g}°", "ink")
                       for i in (0, 1)]
        if travel and travel[1] - travel[0] < 359:
            self._travel(kit, travel, rt)
            shown = [max(-170.0, min(170.0, t)) for t in travel]
            labels += [(shown[i], rt + u(4), f"servo travel {_deg(travel[i])}", "middle of the range = middle of the servo", "ink") for i in (0, 1)]
        labels += [((low, high)[i], r0 + u(24), f"wanted {joint.ends[i]} {_deg((low, high)[i])}", "drag the edge, or type it", ink) for i in (0, 1)]
        for i in (0, 1):
            kit.line(*polar(cx, cy, (low, high)[i], r0), *polar(cx, cy, (low, high)[i], r1), ink, 3.4 if self.hasFocus() and self.edge == i else 1.8)
        value = math.degrees(self.desk.pose.get(joint.id, 0.0))
        kit.line(*polar(cx, cy, 0, r0 - 4), *polar(cx, cy, 0, r1 + 4), "ink2", 1, "dot")
        kit.circle(*polar(cx, cy, min(max(value, low), high), r1), u(4), "brass_f", "ink", 1.1)
        pivot(kit, cx, cy, u(7))
        self._labels(kit, labels)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _stops(self, kit: Kit, joint: Joint, r0: float, r1: float) -> None:
        tolerance = joint.stop_tolerance_deg
        for stop, soft, way in ((joint.stops_deg[0], joint.range_deg[0], 1), (joint.stops_deg[1], joint.range_deg[1], -1)):
            if (soft - stop) * way > 0:
                kit.hatch(sector(self.cx, self.cy, min(stop, soft), max(stop, soft), r0, r1), "brass_f", 5, 1.2, 20)
            kit.draw(sector(self.cx, self.cy, min(stop, stop + way * tolerance), max(stop, stop + way * tolerance), r0, r1), "brass_f", None)
            kit.line(*polar(self.cx, self.cy, stop, 0), *polar(self.cx, self.cy, stop, r1 + self.u(8)), "ink", self.u(5))

    def _travel(self, kit: Kit, travel: tuple[float, ...], rt: float) -> None:
        a0, a1 = max(-178.0, travel[0]), min(178.0, travel[1])
        kit.polyline([polar(self.cx, self.cy, a0 + (a1 - a0) * i / 60, rt) for i in range(61)], "ink2", 1.4)
        for a in travel:
            if abs(a) < 178:
                kit.line(*polar(self.cx, self.cy, a, rt - 6), *polar(self.cx, self.cy, a, rt + 6), "ink2", 2)
        a = math.ceil(a0 / 10) * 10
        while a <= a1:
            kit.line(*polar(self.cx, self.cy, a, rt), *polar(self.cx, self.cy, a, rt + 5), "ink2")
            a += 10

    def _labels(self, kit: Kit, labels: list) -> None:
        """Two columns, the low side left, the high side right, in the same order on both."""
        u = kit.u
        roomy = self.width() > u(560)
        for side in (0, 1):
            mine = labels[side::2]
            mine = sorted(mine, key=lambda row: polar(self.cx, self.cy, row[0], row[1])[1])
            y = u(20)
            for angle, r, words, under, ink in mine:
                x, edge = polar(self.cx, self.cy, angle, r), self.width() * (0.24 if side == 0 else 0.76)
                edge = min(edge, self.cx - self.radius[1] - u(34)) if side == 0 else max(edge, self.cx + self.radius[1] + u(34))
                y = max(y, min(x[1], self.height() - u(40)))
                align = "r" if side == 0 else "l"
                if kit.width(words, 12, 600) > (edge if side == 0 else self.width() - edge) - u(4):
                    continue
                kit.line(*x, edge + (4 if side == 0 else -4), y, "rule")
                kit.text(edge, y, words, 12, 600, ink, align)
                if roomy and kit.width(under, 12) < (edge if side == 0 else self.width() - edge) - u(4):
                    kit.text(edge, y + u(15), under, 12, 400, "ink2", align)
                y += u(38 if roomy else 24)

    def _angle(self, event) -> tuple[float, float]:
        dx, dy = event.position().x() - self.cx, self.cy - event.position().y()
        return math.degrees(math.atan2(dx, dy)), math.hypot(dx, dy)

    def mousePressEvent(self, event) -> None:
        joint = self.joint()
        if joint is None or not hasattr(self, "radius"):
            return
        angle, r = self._angle(event)
        if self.radius[0] - 10 < r < self.radius[1] + 14:
            near = min((0, 1), key=lambda i: abs(joint.range_deg[i] - angle))
            if abs(joint.range_deg[near] - angle) < 8:
                self.edge, self.held = near, True
                self.refresh()

    def mouseMoveEvent(self, event) -> None:
        if self.held:
            self._set(round(self._angle(event)[0]), True)

    def mouseReleaseEvent(self, event) -> None:
        if self.held:
            self.held = False
            self.desk.end_drag()

    def _set(self, degrees: float, dragging: bool) -> None:
        joint = self.joint()
        if joint is None:
            return
        low, high = joint.range_deg
        new = min(degrees, high - 1) if self.edge == 0 else max(degrees, low + 1)
        if new != joint.range_deg[self.edge]:
            self.desk.edit(set_one_of(self.desk.figure, "joints", joint.id, "range_deg", self.edge, float(new), "wanted range"), dragging)

    def keyPressEvent(self, event) -> None:
        joint = self.joint()
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(event.key())
        if joint is not None and step is not None:
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._set(joint.range_deg[self.edge] + step * by, False)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.edge = 1 - self.edge
            self.refresh()
        else:
            super().keyPressEvent(event)


def _deg(value: float) -> str:
    return f"{value:.4g}°".replace("-", MINUS)


class LimitsBench(Bench):
    title, question = "Limits", "How far each joint can go, may go, and is wanted to go."

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.joint = joint_choice(desk, self)
        self.fan = Fan(desk, self)
        self.ladders = Ledger(desk, "Ladders of every joint", self)
        self.ladders.picked.connect(lambda key: desk.select(*key))
        for signal in (desk.studied, desk.selected, desk.looked, desk.changed):
            signal.connect(self.refresh)
        self.refresh()

    def page(self) -> Page:
        ident = self.desk.joint_in_hand()
        if not ident or self.desk.figure.joint(ident).kind != "turn":
            return Page("Limits", "no turning joint in hand", (Note("n", "Limits are about joints that turn: add one on the Figure bench with Ctrl+J, "
                                                                        "or take one in hand."), Note("c", CAUTION, True)), ("limits", ""))
        return limits_page(self.desk, ident)

    def refresh(self) -> None:
        ident = self.desk.joint_in_hand()
        self.joint.show_value(self.desk.figure.joint(ident).name if ident else "none yet")
        joints = [joint for joint in self.desk.figure.joints if joint.kind == "turn"]
        self.ladders.show_rows([self._row(joint) for joint in joints], ("joint", ident))
        self._place()
        self.update()

    def cols(self, width: float) -> dict[str, float]:
        u = self.u
        return {"name": u(10), "stop0": u(176), "soft0": u(222), "x0": u(232), "x1": width - u(262), "soft1": width - u(250),
                "stop1": width - u(160), "mark": width - u(126), "end": width - u(10)}

    def _row(self, joint: Joint) -> Row:
        finding = self.desk.finding(f"stops.{joint.id}")
        verdict = finding.verdict if finding else "not yet judged"

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            c, u = self.cols(width), kit.u
            kit.line(0, y - u(12), width, y - u(12), "hair")
            words = joint.name
            while kit.width(words, 13, 600 if on else 400) > u(128) and " " in words:
                words = words.rsplit(" ", 1)[0]
            kit.text(c["name"], y, words, 13, 600 if on else 400, "indigo" if on else "ink")
            low, high = joint.range_deg
            kit.text(c["soft0"], y, _deg(low), 13, 500, "indigo", "r")
            kit.text(c["soft1"], y, _deg(high), 13, 500, "indigo")
            if joint.stops_deg:
                kit.text(c["stop0"], y, _deg(joint.stops_deg[0]), 12, 400, "ink2", "r")
                kit.text(c["stop1"], y, _deg(joint.stops_deg[1]), 12, 400, "ink2", "r")
            if c["x1"] - c["x0"] > u(60):
                self._ladder(kit, joint, c["x0"], c["x1"], y)
            tumbler(kit, c["mark"] + u(7), y - 1, u(14), verdict)
            if finding is None:
                kit.text(c["mark"] + u(19), y, "stops not known", 12, 400, "ink2")
            else:
                kit.text(c["mark"] + u(19), y, verdict, 12, 600, VERDICT[verdict][0])
                kit.text(c["end"], y, show_reserve(finding.reserve), 13, 700, VERDICT[verdict][0], "r")

        low, high = joint.range_deg
        return Row(("joint", joint.id), f"{joint.name}, wanted {_deg(low)} to {_deg(high)}, {verdict}", paint, 25)

    def _ladder(self, kit: Kit, joint: Joint, x0: float, x1: float, y: float) -> None:
        u = kit.u
        drive = self.desk.figure.drive_of(joint.id)
        low, high = joint.range_deg
        ends = tuple(math.degrees(a) for a in servo_ends(joint, drive.actuator)) if drive else (low - 15, high + 15)
        known = (*ends, low, high, *(joint.stops_deg or ()))
        a0, a1 = min(known), max(known)

        def f(value: float) -> float:
            return x0 + u(10) + (value - a0) / (a1 - a0 or 1) * (x1 - x0 - u(20))

        if drive:
            kit.line(f(ends[0]), y, f(ends[1]), y, "ink2", 1.2)
            for a in ends:
                kit.line(f(a), y - u(5), f(a), y + u(5), "ink2", 1.6)
        top, tall = y - u(7), u(14)
        if joint.stops_deg:
            s0, s1 = joint.stops_deg
            for a, b in ((s0, low), (high, s1)):
                if b > a:
                    path = QPainterPath()
                    path.addRect(f(a), top, f(b) - f(a), tall)
                    kit.hatch(path, "brass_f", 4, 1.1)
            for a, b in ((s0, s0 + joint.stop_tolerance_deg), (s1 - joint.stop_tolerance_deg, s1)):
                kit.rect(f(a), top, f(b) - f(a), tall, "brass_f")
            kit.rect(f(s0) - u(3.5), top - 1, u(3.5), tall + 2, "ink")
            kit.rect(f(s1), top - 1, u(3.5), tall + 2, "ink")
        ink, tint = REGION[joint.region]
        kit.rect(f(low), top, f(high) - f(low), tall, tint, ink, 1.2)
        kit.circle(f(min(max(0.0, low), high)), y, u(3.2), "brass_f", "ink")

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        size = self.joint.sizeHint()
        self.joint.setGeometry(u(76), u(6), size.width(), u(28))
        rows = min(max(self.ladders.content(), u(60)), round(h * 0.42))
        self.split = h - rows - u(36)
        self.fan.setGeometry(u(16), u(40), w - u(28), self.split - u(44))
        self.ladders.setGeometry(u(8), self.split + u(26), w - u(16), h - self.split - u(32))

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        kit.text(u(16), u(20), "Limits", 18, 600)
        x = self.joint.x() + self.joint.width() + u(8)
        joint = self.fan.joint()
        words = f"0° is the figure at rest, positive is {joint.ends[1]}" if joint else self.question
        if x + kit.width(words, 13) < self.width() - u(10):
            kit.text(x, u(21), words, 13, 400, "ink2")
        y = self.split + u(13)
        kit.line(u(16), self.split + 0.5, self.width() - u(12), self.split + 0.5, "rule")
        c, left = self.cols(self.ladders.width()), self.ladders.x()
        for key, text, align in (("name", "joint", "l"), ("stop0", "stop", "r"), ("soft0", "wanted", "r"), ("soft1", "wanted", "l"),
                                 ("stop1", "stop", "r"), ("end", "room to stop", "r")):
            kit.text(left + c[key], y, text, 12, 400, "ink3", align)
        if c["x1"] - c["x0"] > u(180):
            kit.text(left + (c["x0"] + c["x1"]) / 2, y, "servo travel, stops, tolerance, band", 12, 400, "ink3", "c")
