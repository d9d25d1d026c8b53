"""Limits: how far each joint can go, may go, and is wanted to go."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QWidget

from karakuri.actuators.pulses import pulse_map
from karakuri.limits.travel import servo_ends
from karakuri.model.finding import show_reserve
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.sizing.followed import as_driven
from karakuri.workbench.benches.bench import CAUTION, Bench
from karakuri.workbench.benches.drive import joint_choice
from karakuri.workbench.benches.fan import Fan, deg
from karakuri.workbench.benches.limits_page import limits_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.theme import REGION, VERDICT
from karakuri.workbench.widgets.items import Note, Page
from karakuri.workbench.widgets.ledger import Ledger, Row


class LimitsBench(Bench):
    title, question = "Limits", "How far each joint can go, may go, and is wanted to go."

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.joint = joint_choice(desk, self)
        self.fan = Fan(desk, self)
        self.ladders = Ledger(desk, "Ladders of every joint", self)
        self.ladders.picked.connect(desk.select)
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        ident = self.desk.joint_in_hand()
        if not ident or self.desk.figure.joint(ident).kind != "turn":
            return Page(
                "Limits",
                "no turning joint in hand",
                (
                    Note(
                        "n",
                        "Limits are about joints that turn: add one on the Figure bench with Ctrl+J, "
                        "or take one in hand.",
                    ),
                    Note("c", CAUTION, True),
                ),
                ("limits", ""),
            )
        return limits_page(self.desk, ident)

    def refresh(self) -> None:
        ident = self.desk.joint_in_hand()
        self.joint.show_value(self.desk.figure.joint(ident).name if ident else "none yet")
        figure = self.desk.figure
        joints = [as_driven(figure, joint) for joint in figure.joints if joint.kind == "turn"]
        self.ladders.show_rows([self._row(joint) for joint in joints], Ref("joint", ident))
        self._place()
        self.update()

    def cols(self, width: float) -> dict[str, float]:
        u = self.u
        pulses = u(50) if width > u(840) else 0
        return {
            "name": u(10),
            "stop0": u(176),
            "soft0": u(222),
            "pulse0": u(222) + pulses,
            "x0": u(232) + pulses,
            "x1": width - u(262) - pulses,
            "pulse1": width - u(250) - pulses,
            "soft1": width - u(250),
            "stop1": width - u(160),
            "mark": width - u(126),
            "end": width - u(10),
        }

    def _row(self, joint: Joint) -> Row:
        finding = self.desk.finding("stops", joint.id)
        verdict = finding.verdict if finding else "not yet judged"

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            c, u = self.cols(width), kit.u
            kit.line(0, y - u(12), width, y - u(12), "hair")
            words = kit.short(joint.name, u(128), 13, 600 if on else 400)
            kit.text(c["name"], y, words, 13, 600 if on else 400, "indigo" if on else "ink")
            low, high = joint.range_deg
            kit.text(c["soft0"], y, deg(low), 13, 500, "indigo", "r")
            kit.text(c["soft1"], y, deg(high), 13, 500, "indigo")
            drive = self.desk.figure.drive_of(joint.id)
            if drive is not None and c["pulse0"] > c["soft0"]:
                mapped = pulse_map(self.desk.figure, joint, drive)
                a, b = mapped.pulse(np.radians(joint.range_deg))
                weight = 600 if mapped.calibrated else 400
                kit.text(c["pulse0"], y, f"{a:.0f}", 12, weight, "ink2", "r")
                kit.text(c["pulse1"], y, f"{b:.0f}", 12, weight, "ink2")
            if joint.stops_deg:
                kit.text(c["stop0"], y, deg(joint.stops_deg[0]), 12, 400, "ink2", "r")
                kit.text(c["stop1"], y, deg(joint.stops_deg[1]), 12, 400, "ink2", "r")
            if c["x1"] - c["x0"] > u(60):
                self._ladder(kit, joint, c["x0"], c["x1"], y)
            tumbler(kit, c["mark"] + u(7), y - 1, u(14), verdict)
            if finding is None:
                kit.text(c["mark"] + u(19), y, "stops not known", 12, 400, "ink2")
            else:
                kit.text(c["mark"] + u(19), y, verdict, 12, 600, VERDICT[verdict][0])
                number = show_reserve(finding.reserve) if finding.reserve is not None else ""
                kit.text(c["end"], y, number, 13, 700, VERDICT[verdict][0], "r")

        low, high = joint.range_deg
        return Row(Ref("joint", joint.id), f"{joint.name}, wanted {deg(low)} to {deg(high)}, {verdict}", paint, 25)

    def _ladder(self, kit: Kit, joint: Joint, x0: float, x1: float, y: float) -> None:
        u = kit.u
        drive = self.desk.figure.drive_of(joint.id)
        low, high = joint.range_deg
        ends = (
            tuple(math.degrees(a) for a in servo_ends(self.desk.figure, joint, drive))
            if drive
            else (low - 15, high + 15)
        )
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
        for key, text, align in (
            ("name", "joint", "l"),
            ("stop0", "stop", "r"),
            ("soft0", "wanted", "r"),
            ("soft1", "wanted", "l"),
            ("stop1", "stop", "r"),
            ("end", "room to stop", "r"),
        ):
            kit.text(left + c[key], y, text, 12, 400, "ink3", align)
        if c["pulse0"] > c["soft0"]:
            kit.text(left + c["pulse0"], y, "µs", 12, 400, "ink3", "r")
            kit.text(left + c["pulse1"], y, "µs", 12, 400, "ink3")
        if c["x1"] - c["x0"] > u(180):
            kit.text(
                left + (c["x0"] + c["x1"]) / 2, y, "servo travel, stops, tolerance, soft limits", 12, 400, "ink3", "c"
            )
