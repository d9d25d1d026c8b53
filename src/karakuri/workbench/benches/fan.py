"""The fan: one joint at true angles about its pivot."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QWidget

from karakuri.actuators.pulses import pulse_map
from karakuri.limits.travel import servo_ends
from karakuri.model.joint import Joint
from karakuri.sizing.followed import as_driven, ranged
from karakuri.units import MINUS
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot, polar
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet


def sector(cx: float, cy: float, a0: float, a1: float, r0: float, r1: float) -> QPainterPath:
    steps = max(2, int(abs(a1 - a0)))
    points = [polar(cx, cy, a0 + (a1 - a0) * i / steps, r1) for i in range(steps + 1)]
    points += [polar(cx, cy, a1 - (a1 - a0) * i / steps, r0) for i in range(steps + 1)]
    return Kit.path(points, True)


MOST_DRAWN = 720.0
Label = tuple[float, float, str, str, str]
"""Angle °, radius, words, words under them, colour."""


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
        joint = as_driven(self.desk.figure, self.desk.figure.joint(ident)) if ident else None
        if joint is None or joint.kind != "turn":
            return None
        low, high = (
            min(max(end, -MOST_DRAWN), MOST_DRAWN) for end in joint.range_deg
        )  # a ratio may take a follower round and round
        return joint.unchecked(range_deg=(low, high))

    def refresh(self) -> None:
        joint = self.joint()
        if joint is not None:
            self.setAccessibleName(
                f"Fan of {joint.name}: wanted {joint.range_deg[0]:g}° to {joint.range_deg[1]:g}°, edge in hand {joint.ends[self.edge]}"
            )
        self.update()

    def draw(self, kit: Kit) -> None:
        u, joint = kit.u, self.joint()
        if joint is None:
            kit.text(u(4), u(30), "Waits for a joint that turns.", 13, 400, "ink2")
            return
        drive = self.desk.figure.drive_of(joint.id)
        travel = tuple(math.degrees(a) for a in servo_ends(self.desk.figure, joint, drive)) if drive else None
        widest = max(abs(a) for a in (*joint.range_deg, *(joint.stops_deg or ())))
        wide_open = widest > 85
        self.cx, self.cy = self.width() / 2, self.height() * (0.56 if wide_open else 0.95) - u(6)
        r1 = min(self.cy - u(34), self.width() * 0.28, self.height() * (0.42 if wide_open else 0.8))
        r0, rt = r1 * 0.52, r1 + u(18)
        self.radius = (r0, r1)
        ink = REGION[joint.region][0]
        low, high = joint.range_deg
        cx, cy = self.cx, self.cy
        self._leaf(kit, joint, r0, r1)
        if joint.stops_deg:
            self._stops(kit, joint, r0, r1)
        if travel and travel[1] - travel[0] < 359:
            self._travel(kit, travel, rt)
        for i in (0, 1):
            wide = 3.4 if self.hasFocus() and self.edge == i else 1.8
            kit.line(*polar(cx, cy, joint.range_deg[i], r0), *polar(cx, cy, joint.range_deg[i], r1), ink, wide)
        value = math.degrees(self.desk.place(joint.id))
        kit.line(*polar(cx, cy, 0, r0 - 4), *polar(cx, cy, 0, r1 + 4), "ink2", 1, "dot")
        kit.circle(*polar(cx, cy, min(max(value, low), high), r1), u(4), "brass_f", "ink", 1.1)
        pivot(kit, cx, cy, u(7))
        self._labels(kit, self._words(joint, drive, travel, (r0, r1, rt)))
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _leaf(self, kit: Kit, joint: Joint, r0: float, r1: float) -> None:
        """The pleated leaf over the wanted range."""
        ink, tint = REGION[joint.region]
        low, high = joint.range_deg
        step = 5 if high - low <= 130 else 10
        a, pleat = low, 0
        while a < high - 1e-6:
            b = min(a + step, high)
            kit.line(*polar(self.cx, self.cy, a, self.u(14)), *polar(self.cx, self.cy, a, r0), "brass_f", 1.3)
            kit.draw(sector(self.cx, self.cy, a, b, r0, r1), tint if pleat % 2 else "card", None)
            a, pleat = b, pleat + 1
        kit.draw(sector(self.cx, self.cy, low, high, r0, r1), None, ink, 1.6)

    def _words(self, joint: Joint, drive, travel, radii: tuple[float, float, float]) -> tuple[list[Label], list[Label]]:
        """What stands beside the stops, the ends of the servo's travel and those of the wanted range."""
        (r0, r1, rt), u, ink = radii, self.u, REGION[joint.region][0]
        labels: tuple[list[Label], list[Label]] = ([], [])
        for side, column in enumerate(labels):
            if joint.stops_deg:
                sure = f"measured, ± {joint.stop_tolerance_deg:g}°"
                column.append(
                    (joint.stops_deg[side], r1 - u(24), f"hard stop {deg(joint.stops_deg[side])}", sure, "ink")
                )
            if travel and travel[1] - travel[0] < 359:
                at = max(-170.0, min(170.0, travel[side]))
                column.append(
                    (at, rt + u(4), f"servo travel {deg(travel[side])}", self._pulse_words(joint, drive, side), "ink")
                )
            wanted = joint.range_deg[side]
            column.append(
                (wanted, r0 + u(24), f"wanted {joint.ends[side]} {deg(wanted)}", "drag the edge, or type it", ink)
            )
        return labels

    def _pulse_words(self, joint: Joint, drive, i: int) -> str:
        """The pulse at an end of travel; an estimate until it is calibrated."""
        mapped = pulse_map(self.desk.figure, joint, drive)
        return f"{mapped.pulses[0 if i == 0 else -1]:.0f} µs, {'calibrated' if mapped.calibrated else 'an estimate'}"

    def _stops(self, kit: Kit, joint: Joint, r0: float, r1: float) -> None:
        tolerance = joint.stop_tolerance_deg
        if joint.stops_deg is None:
            return
        for stop, soft, way in (
            (joint.stops_deg[0], joint.range_deg[0], 1),
            (joint.stops_deg[1], joint.range_deg[1], -1),
        ):
            if (soft - stop) * way > 0:
                kit.hatch(sector(self.cx, self.cy, min(stop, soft), max(stop, soft), r0, r1), "brass_f", 5, 1.2, 20)
            kit.draw(
                sector(self.cx, self.cy, min(stop, stop + way * tolerance), max(stop, stop + way * tolerance), r0, r1),
                "brass_f",
                None,
            )
            kit.line(
                *polar(self.cx, self.cy, stop, 0), *polar(self.cx, self.cy, stop, r1 + self.u(8)), "ink", self.u(5)
            )

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

    def _labels(self, kit: Kit, labels: tuple[list[Label], list[Label]]) -> None:
        """Two columns, the low side left, the high side right, in the same order on both."""
        u = kit.u
        roomy = self.width() > u(560)
        for side, mine in enumerate(labels):
            mine = sorted(mine, key=lambda row: polar(self.cx, self.cy, row[0], row[1])[1])
            y = u(20)
            for angle, r, words, under, ink in mine:
                x, edge = polar(self.cx, self.cy, angle, r), self.width() * (0.24 if side == 0 else 0.76)
                edge = (
                    min(edge, self.cx - self.radius[1] - u(34))
                    if side == 0
                    else max(edge, self.cx + self.radius[1] + u(34))
                )
                y = max(y, min(x[1], self.height() - u(40)))
                align = "r" if side == 0 else "l"
                if y > self.height() - u(9):
                    break
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
        ends = (float(new), high) if self.edge == 0 else (low, float(new))
        if new != joint.range_deg[self.edge]:
            self.desk.edit(
                lambda: ranged(self.desk.figure, joint, ends[0], ends[1], f"wanted range of {joint.name}"), dragging
            )

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


def deg(value: float) -> str:
    return f"{value:.4g}°".replace("-", MINUS)
