"""What a hand takes hold of on screen: a stick, a knob or two keys of one grip. Drag it, or arrows 5 per cent, Shift 1; a stick springs back."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from karakuri.model.behaviour import Input
from karakuri.model.ref import Ref
from karakuri.model.steering import Expressions, Grip, Keyed
from karakuri.model.steering_edits import steering_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

STEP, FINE, HEAD = 5.0, 1.0, 20
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Down: (0, -1), Qt.Key.Key_Up: (0, 1)}


class HandPad(Sheet):
    """One grip. Along it to the right is its last input's way up, upwards its first's, where it has two; of a knob to the right."""

    def __init__(self, desk: Desk, grip_id: str, parent: QWidget) -> None:
        super().__init__(desk, "pad", parent)
        self.grip_id = grip_id
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._dragged = False

    @property
    def grip(self) -> Grip | None:
        """The grip; None where it is gone."""
        return next((g for g in steering_of(self.desk.figure).grips if g.id == self.grip_id), None)

    def fresh(self) -> None:
        """An input changed."""
        grip = self.grip
        if grip is not None:
            self.setAccessibleName(
                f"{grip.name}: {', '.join(self._words(ident) for ident in dict.fromkeys(grip.inputs))}"
            )
            self.update()

    def _words(self, ident: str) -> str:
        each = self._input(ident)
        return f"{each.name if each is not None else ident} {self.desk.steered.level(ident):.0f} %"

    def _input(self, ident: str) -> Input | None:
        behaviour = self.desk.figure.behaviour
        return next((i for i in behaviour.inputs if i.id == ident), None) if behaviour is not None else None

    def _axes(self) -> tuple[str | None, str | None]:
        """What goes to the right, and what upwards."""
        grip = self.grip
        if grip is None:
            return None, None
        inputs = grip.inputs
        return (inputs[0], None) if len(inputs) == 1 else (inputs[1], inputs[0])

    def _room(self) -> tuple[float, float, float, float]:
        """The field that is dragged in: x, y, width, height."""
        u, w, h = self.u, self.width(), self.height()
        if self._axes()[1] is None:
            return u(14), u(HEAD) + (h - u(HEAD)) / 2 - u(13), w - u(28), u(26)
        side = min(w - u(16), h - u(HEAD) - u(8))
        return (w - side) / 2, u(HEAD) + u(2), side, side

    # ---- hands
    def mousePressEvent(self, event) -> None:
        self.setFocus()
        self.desk.select(Ref("grip", self.grip_id))
        if event.button() == Qt.MouseButton.LeftButton:
            self._dragged = True
            self._to(event.position().x(), event.position().y())

    def mouseMoveEvent(self, event) -> None:
        if self._dragged:
            self._to(event.position().x(), event.position().y())

    def mouseReleaseEvent(self, event) -> None:
        self._dragged = False
        self._let_go()

    def keyPressEvent(self, event) -> None:
        step = FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP
        if event.key() in ARROWS:
            right, up = ARROWS[event.key()]
            self._by(right * step, up * step)
            return
        if event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            for ident in self.grip.inputs if self.grip is not None else ():
                self.desk.steered.hold(ident, 0.0 if isinstance(self.grip, Keyed) else 50.0)
            return
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event) -> None:
        if event.key() in ARROWS and not event.isAutoRepeat() and isinstance(self.grip, Keyed):
            self._let_go()
            return
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event) -> None:
        if isinstance(self.grip, Keyed):
            self._let_go()
        super().focusOutEvent(event)

    def _by(self, right: float, up: float) -> None:
        across, along = self._axes()
        steered, grip = self.desk.steered, self.grip
        if isinstance(grip, Keyed):
            if up:
                steered.hold(grip.up if up > 0 else grip.down, 100.0)
            return
        for ident, by in ((across, right or (up if along is None else 0.0)), (along, up)):
            if ident is not None and by:
                steered.hold(ident, steered.level(ident) + by)

    def _to(self, px: float, py: float) -> None:
        x, y, w, h = self._room()
        across, along = self._axes()
        grip, steered = self.grip, self.desk.steered
        if isinstance(grip, Keyed):
            steered.hold(grip.up, 100.0 if py < y + h / 2 else 0.0)
            steered.hold(grip.down, 100.0 if py >= y + h / 2 else 0.0)
            return
        if across is not None:
            steered.hold(across, 100.0 * (px - x) / w)
        if along is not None:
            steered.hold(along, 100.0 * (1.0 - (py - y) / h))

    def _let_go(self) -> None:
        """Keys come up, a stick springs back; a knob stays."""
        grip = self.grip
        for ident in dict.fromkeys(grip.inputs if grip is not None else ()):
            each = self._input(ident)
            if each is not None and each.kind == "stick":
                self.desk.steered.hold(ident, 50.0)
            elif isinstance(grip, Keyed):
                self.desk.steered.hold(ident, 0.0)

    # ---- drawing
    def draw(self, kit: Kit) -> None:
        grip, u, w = self.grip, kit.u, self.width()
        if grip is None:
            return
        on = self.desk.subject == Ref("grip", grip.id)
        kit.rect(
            1,
            1,
            w - 2,
            self.height() - 2,
            "card",
            "indigo" if on or self.hasFocus() else "rule",
            2 if self.hasFocus() else 1,
        )
        near = self._nearest(grip) if isinstance(grip, Expressions) else ""
        ink = "asagi" if near else "indigo" if on else "ink"
        kit.text(w / 2, u(11), kit.short(near or grip.name, w - u(12), 12, 600), 12, 600, ink, "c")
        x, y, rw, rh = self._room()
        across, along = self._axes()
        level = self.desk.steered.level
        if isinstance(grip, Keyed):
            self._keys(kit, grip, x, y, rw, rh)
        elif along is None:
            at = x + rw * level(across or "") / 100.0
            kit.line(x, y + rh / 2, x + rw, y + rh / 2, "ink2", 2)
            each = self._input(across or "")
            if each is not None and each.kind == "stick":
                kit.line(x + rw / 2, y + u(4), x + rw / 2, y + rh - u(4), "rule")
            kit.circle(at, y + rh / 2, u(9), "brass_f", "ink", 1.2)
        else:
            kit.rect(x, y, rw, rh, "paper", "rule", 1)
            cx, cy = x + rw / 2, y + rh / 2
            kit.line(x, cy, x + rw, cy, "hair")
            kit.line(cx, y, cx, y + rh, "hair")
            if isinstance(grip, Expressions):
                self._faces(kit, grip, cx, cy, rw / 2)
            px, py = x + rw * level(across or "") / 100.0, y + rh * (1.0 - level(along) / 100.0)
            kit.line(cx, cy, px, py, "brass", 2)
            kit.circle(px, py, u(9), "brass_f", "ink", 1.2)

    def _keys(self, kit: Kit, grip: Keyed, x: float, y: float, w: float, h: float) -> None:
        for k, (ident, words) in enumerate(((grip.up, "up"), (grip.down, "down"))):
            pressed = self.desk.steered.level(ident) >= 50.0
            top = y + k * (h / 2 + kit.u(1))
            kit.rect(x + w * 0.2, top, w * 0.6, h / 2 - kit.u(3), "indigo" if pressed else "paper", "rule", 1)
            kit.text(x + w / 2, top + h / 4 - kit.u(1), words, 12, 600, "card" if pressed else "indigo", "c")

    def _faces(self, kit: Kit, grip: Expressions, cx: float, cy: float, reach: float) -> None:
        for face in grip.faces:
            turn = math.radians(face.towards_deg)
            fx, fy = cx + 0.78 * reach * math.sin(turn), cy - 0.78 * reach * math.cos(turn)
            kit.circle(fx, fy, kit.u(2.5), "asagi", None)

    def _nearest(self, grip: Expressions) -> str:
        """The pose it is pushed towards most."""
        level = self.desk.steered.level
        ahead, across = level(grip.ahead) - 50.0, level(grip.across) - 50.0
        if math.hypot(ahead, across) < 10.0 or not grip.faces:
            return ""
        turn = math.degrees(math.atan2(across, ahead))
        face = min(grip.faces, key=lambda f: abs((turn - f.towards_deg + 180.0) % 360.0 - 180.0))
        return self.desk.figure.pose(face.pose).name
