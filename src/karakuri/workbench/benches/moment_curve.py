"""The moment curve of the joint in hand."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QWidget

from karakuri.actuators.servo import Capability
from karakuri.bodies.tree import posture_gravity
from karakuri.frozen import Frozen
from karakuri.mechanics.hanging import holding_curve, rests
from karakuri.mechanics.worst import moment_curve
from karakuri.model.finding import show_reserve
from karakuri.model.joint import Joint
from karakuri.units import MINUS, Quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import bob, tumbler
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet


class Shown(Frozen):
    """The joint whose curve is drawn, and what its servo can do."""

    joint: Joint
    can: Capability | None

    @property
    def free(self) -> bool:
        return self.joint.role == "free"


class MomentCurve(Sheet):
    """What pulls at a joint against its own angle, with both lines, and the bob that sets the pose; of one that nothing drives, with the
    places where it stays by itself."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Moment against angle", parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for signal in (desk.studied, desk.posed, desk.selected, desk.previewed, desk.looked):
            signal.connect(self.update)

    def results(self) -> Shown | None:
        study, ident = self.desk.study, self.desk.joint_in_hand()
        known = next((r for r in study.results.joints if r.joint.id == ident), None) if study else None
        if known is not None:
            return Shown(known.joint, known.can)
        joint = next(
            (j for j in self.desk.figure.joints if j.id == ident and j.kind == "turn" and j.role == "free"), None
        )
        return Shown(joint, None) if joint is not None else None

    def _curve(self, figure, ident: str):
        tree, q = self.desk.pose_array(figure)
        j = tree.index(ident)
        gravity = posture_gravity(self.desk.posture_value(), figure.assumptions.gravity_mps2)
        curve = holding_curve if j in tree.coupling.free else moment_curve
        angles, torque = curve(tree, j, q, gravity)
        return angles, -torque

    def draw(self, kit: Kit) -> None:
        u, r = kit.u, self.results()
        kit.line(0, 0.5, self.width(), 0.5, "rule")
        if r is None:
            kit.text(0, u(16), "Moment about a joint", 13, 600)
            kit.text(0, u(40), "Waits for a joint that turns, driven or free.", 13, 400, "ink2")
            return
        ends, units = r.joint.ends, self.desk.units
        unit = units.unit("torque")
        x = kit.text(0, u(15), f"Moment about {r.joint.name}", 13, 600) + u(10)
        noun = "it" if " " in ends[1] or "-" not in ends[1] else "the " + ends[1].split("-")[0]
        words = (
            f"{unit.label} against its angle; above 0 {noun} falls, below it lifts"
            if r.joint.axis[1] > 0.5 and "nose" in ends[1]
            else f"{unit.label} against its angle; above 0 it is pulled {ends[1]}, below {ends[0]}"
        )
        if x + kit.width(words, 12) < self.width():
            kit.text(x, u(15), words, 12, 400, "ink3")
        angles, pull = self._curve(self.desk.figure, r.joint.id)
        self.gx = (u(44), self.width() - u(150))
        gy0, gy1 = u(30), self.height() - u(46)
        can = r.can
        shown = [float(pull.max()), float(pull.min()), 0.0]
        if can:
            most = max(can.continuous, *map(abs, shown))
            shown += [can.stall * 1.06 if can.stall < 3.5 * most else 1.3 * most, can.continuous, -can.continuous * 0.6]
        top, low = max(shown) * 1.08 + 1e-9, min(shown) * 1.1 - 1e-9
        a0, a1 = float(angles[0]), float(angles[-1])
        self.span = (a0, a1)

        def fx(a: float) -> float:
            return self.gx[0] + (a - a0) / (a1 - a0 or 1) * (self.gx[1] - self.gx[0])

        def fy(v: float) -> float:
            return gy1 - (min(max(v, low), top) - low) / (top - low) * (gy1 - gy0)

        if can:
            self._lines(kit, can, fy, top, low, gy0)
        self._axis(kit, fy, unit.si, top, low)
        if r.free:
            self._wanted(kit, r, angles, fx, fy)
            self._energy(kit, angles, pull, fx, gy0, gy1)
            self._rests(kit, r, angles, pull, fx, fy)
        self._trace(kit, angles, pull, can, fx, fy)
        self._labels(kit, r, fx, fy, angles, pull, gy0)
        self._pose_rule(kit, r, fx, gy0, gy1, angles, pull, fy)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _lines(self, kit: Kit, can, fy, top: float, low: float, gy0: float) -> None:
        u, (x0, x1) = kit.u, self.gx
        units = self.desk.units
        high, deep = min(can.continuous, top), max(-can.continuous, low)
        kit.rect(x0, fy(high), x1 - x0, fy(deep) - fy(high), "moss_t")
        for value in (can.continuous, -can.continuous):
            if low < value < top:
                kit.line(x0, fy(value), x1, fy(value), "moss", 1.4)
        if can.stall < top:
            kit.line(x0, fy(can.stall), x1, fy(can.stall), "ink2", 1.4)
            path = QPainterPath()
            path.addRect(x0, gy0, x1 - x0, max(0.0, fy(can.stall) - gy0))
            kit.hatch(path, "ink3", 6)
            kit.text(
                x0 + u(10),
                fy(can.stall) + u(10),
                f"stalls at {show_number(Quantity(can.stall, 'torque', rounding='down'), units)}",
                12,
                500,
                "ink2",
                "l",
                "paper",
            )
        else:
            kit.text(
                x1 - u(6),
                gy0 + u(8),
                f"stalls at {show_number(Quantity(can.stall, 'torque', rounding='down'), units)}, above this picture",
                12,
                500,
                "ink2",
                "r",
                "paper",
            )
        if fy(deep) - fy(high) > u(18):
            kit.text(
                x0 + u(10),
                fy(high) + u(11),
                f"may be held for long, ±{show_number(Quantity(can.continuous, 'torque', rounding='down'), units)}",
                12,
                500,
                "moss",
                "l",
                "moss_t",
            )

    def _axis(self, kit: Kit, fy, si: float, top: float, low: float) -> None:
        u, (x0, x1) = kit.u, self.gx
        step = 10 ** math.floor(math.log10((top - low) / si / 2.2))
        step = next(step * k for k in (1, 2, 5, 10) if (top - low) / si / (step * k) <= 5)
        k = math.ceil(low / si / step)
        while k * step * si <= top:
            value = k * step
            y = fy(value * si)
            kit.line(x0 - 4, y, x0, y, "ink3")
            kit.text(x0 - u(7), y, f"{value:g}".replace("-", MINUS), 12, 400, "ink2", "r")
            if k == 0:
                kit.line(x0, y, x1, y, "rule")
            k += 1
        kit.line(x0, fy(top), x0, fy(low), "rule")

    def _trace(self, kit: Kit, angles, pull, can, fx, fy) -> None:
        points = [(fx(float(a)), fy(float(v))) for a, v in zip(angles, pull, strict=True)]
        if can is None:
            kit.polyline(points, "ink", 2)
            return
        over = [abs(float(v)) > can.continuous for v in pull]
        start = 0
        for i in range(1, len(points)):
            if over[i] != over[start] or i == len(points) - 1:
                kit.polyline(points[start : i + 1], "verm" if over[start] else "ink", 2.4 if over[start] else 2)
                if over[i] != over[start]:
                    kit.circle(*points[i], kit.u(3.4), "card", "verm", 1.6)
                    where = self.desk.show(Quantity(abs(float(angles[i])), "angle"))
                    kit.text(
                        points[i][0] - kit.u(8),
                        points[i][1] - kit.u(12),
                        f"lets go at {where}",
                        12,
                        600,
                        "verm",
                        "r",
                        "paper",
                    )
                start = i
        if self.desk.preview is not None and any(j.id == self.desk.joint_in_hand() for j in self.desk.preview.joints):
            angles, pull = self._curve(self.desk.preview, self.desk.joint_in_hand())
            kit.pen("indigo", 1.8, "dash")
            kit.polyline(
                [(fx(float(a)), fy(float(v))) for a, v in zip(angles, pull, strict=True)], "indigo", 1.8, "dash"
            )

    def _energy(self, kit: Kit, angles, pull, fx, gy0: float, gy1: float) -> None:
        """The energy along the way, as a bowl or a hill behind the curve: it comes to rest where that is lowest."""
        steps = 0.5 * (pull[1:] + pull[:-1]) * np.diff(angles)
        energy = -np.concatenate([[0.0], np.cumsum(steps)])
        high = float(energy.max() - energy.min())
        if high < 1e-9:
            return
        top, low = gy0 + 0.35 * (gy1 - gy0), gy1 - kit.u(6)
        points = [(fx(float(a)), low - (low - top) * float(e - energy.min()) / high) for a, e in zip(angles, energy, strict=True)]  # fmt: skip
        kit.polyline(points, "brass", 1.6, "dot")
        words = f"dotted: energy, {self.desk.show(Quantity(high, 'energy'))} in all"
        if gy1 - gy0 > kit.u(130):
            kit.lines(self.gx[1] + kit.u(14), gy1 - kit.u(24), words, kit.u(130), 11.5, 400, "brass", 14)

    def _wanted(self, kit: Kit, r: Shown, angles, fx, fy) -> None:
        """Its wanted range."""
        u, (low, high) = kit.u, (math.radians(end) for end in r.joint.range_deg)
        left, right = fx(max(low, float(angles[0]))), fx(min(high, float(angles[-1])))
        kit.rect(left, u(30), right - left, self.height() - u(76), "moss_t")
        foot = self.height() - u(54)
        kit.text(left + u(6), foot if fy(0.0) < u(70) else u(38), "wanted", 12, 500, "moss", "l", "moss_t")

    def _rests(self, kit: Kit, r: Shown, angles, pull, fx, fy) -> None:
        """Where it stays by itself: a full dot where it comes back, a ring where it tips away."""
        u = kit.u
        taken = -1e9
        for rest in rests(angles, -pull, r.joint.stops is not None):
            x, y = fx(rest.at), fy(0.0)
            kit.circle(x, y, u(4.5), "moss" if rest.stays else "card", "moss" if rest.stays else "verm", 1.8)
            words = ("hangs " if rest.stays else "tips from ") + self.desk.show(
                Quantity(abs(round(rest.at, 4)), "angle")
            )
            half = kit.width(words, 12, 600) / 2
            x = min(max(x, self.gx[0] + half), self.gx[1] - half)
            if x - half > taken:
                kit.text(
                    x,
                    y - u(14) if y > u(48) else y + u(14),
                    words,
                    12,
                    600,
                    "moss" if rest.stays else "verm",
                    "c",
                    "paper",
                )
                taken = x + half + u(8)

    def _labels(self, kit: Kit, r, fx, fy, angles, pull, gy0: float) -> None:
        u = kit.u
        x = self.gx[1] + u(14)
        finding = self.desk.finding("hangs" if r.free else "hold", r.joint.id)
        if finding is None or finding.reserve is None:
            return
        ink = VERDICT[finding.verdict][0]
        kit.text(x, gy0 + u(8), "As it stands", 12, 600, ink)
        tumbler(kit, x + u(7), gy0 + u(25), u(14), finding.verdict)
        kit.text(x + u(19), gy0 + u(26), f"{finding.verdict} {show_reserve(finding.reserve)}", 12, 600, ink)
        told = "where it is drawn, in the worst posture" if r.free else "over all wanted ranges and postures"
        kit.lines(x, gy0 + u(46), told, u(130), 11.5, 400, "ink3", 14)
        if self.desk.preview is not None:
            kit.lines(x, gy0 + u(84), f"dashed: {self.desk.preview_name}", u(130), 12, 600, "indigo", 15)

    def _pose_rule(self, kit: Kit, r, fx, gy0: float, gy1: float, angles, pull, fy) -> None:
        u = kit.u
        y = gy1 + u(20)
        a0, a1 = self.span
        tree, q = self.desk.pose_array()
        value = min(max(float(q[tree.index(r.joint.id)]), a0), a1)
        x = fx(value)
        kit.line(x, gy0 - u(4), x, y, "indigo", 1.2)
        at = min(range(len(angles)), key=lambda i: abs(float(angles[i]) - value))
        kit.circle(x, fy(float(pull[at])), u(4.2), "card", "indigo", 1.8)
        kit.line(fx(a0), y, fx(a1), y, "rule", u(5))
        kit.line(fx(min(max(0.0, a0), a1)), y, x, y, "indigo", u(5))
        for a in (a0, a1):
            kit.rect(fx(a) - 2.5, y - u(8), 5, u(16), "ink")
        kit.text(self.gx[0] - u(8), y, "Pose", 12, 600, "ink", "r")
        bob(kit, x, y - u(5), u(20))
        joint = r.joint
        words = self.desk.show(Quantity(abs(value), "angle"))
        if abs(value) > 0.008:
            words += f" {joint.ends[1] if value > 0 else joint.ends[0]}"
        kit.text(self.gx[1] + u(14), y, words, 12, 600, "indigo")
        for a in (a0, a1):
            side = joint.ends[1] if a > 0 else joint.ends[0]
            label = self.desk.show(Quantity(abs(a), "angle")) + (f" {side}" if abs(a) > 1e-6 else "")
            if abs(fx(a) - x) > u(14):
                kit.text(fx(a), y + u(17), label, 12, 400, "ink2", "l" if a == a0 else "r")

    def _from(self, x: float) -> None:
        r = self.results()
        if r is None or not hasattr(self, "span"):
            return
        (x0, x1), (a0, a1) = self.gx, self.span
        value = a0 + (a1 - a0) * (x - x0) / (x1 - x0)
        self.desk.set_pose(r.joint.id, min(max(math.radians(round(math.degrees(value))), a0), a1))

    def mousePressEvent(self, event) -> None:
        self._from(event.position().x())

    def mouseMoveEvent(self, event) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._from(event.position().x())

    def keyPressEvent(self, event) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(event.key())
        r = self.results()
        if r is None or (step is None and event.key() != Qt.Key.Key_Home):
            super().keyPressEvent(event)
            return
        low, high = math.radians(r.joint.range_deg[0]), math.radians(r.joint.range_deg[1])
        by = math.radians(10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        now = 0.0 if step is None else self.desk.place(r.joint.id) + step * by
        self.desk.set_pose(r.joint.id, min(max(now, low), high))
