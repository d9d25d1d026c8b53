"""A slider for one joint: a rule with its ends, a bob to drag. Arrows 1°, Shift 10°, Home back to rest."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from karakuri.bodies.tree import wanted_range
from karakuri.model.measures import Measure
from karakuri.model.ref import Ref
from karakuri.sizing.followed import as_driven
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import bob
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet


class PoseRule(Sheet):
    """The pose is view state: neither saved nor undone."""

    def __init__(self, desk: Desk, ident: str, parent: QWidget) -> None:
        super().__init__(desk, "pose", parent)
        self.ident = ident
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        desk.posed.connect(self._speak)
        self._speak()

    @property
    def measure(self) -> Measure:
        return self.desk.figure.joint(self.ident).measure

    def ends(self) -> tuple[float, float]:
        return wanted_range(as_driven(self.desk.figure, self.desk.figure.joint(self.ident)))

    def value(self) -> float:
        low, high = self.ends()
        return min(max(self.desk.place(self.ident), low), high)

    def _speak(self) -> None:
        if any(joint.id == self.ident for joint in self.desk.figure.joints):
            self.setAccessibleName(f"pose of {self.desk.figure.joint(self.ident).name}: {self.words()}")
            self.update()

    def words(self) -> str:
        return self.desk.show(Quantity(self.value(), self.measure.kind))

    def _span(self) -> tuple[float, float]:
        return self.u(84), self.width() - self.u(40)

    def _x(self, value: float) -> float:
        (a, b), (low, high) = self._span(), self.ends()
        return a + (b - a) * ((value - low) / (high - low) if high > low else 0.5)

    def draw(self, kit: Kit) -> None:
        joint, u, y = self.desk.figure.joint(self.ident), self.u, self.height() / 2
        on = self.desk.subject == Ref("joint", self.ident)
        ink = REGION[joint.region][0]
        words = kit.short(joint.name, u(76), 12, 600 if on else 400)
        kit.text(u(3), y, words, 12, 600 if on else 400, ink)
        a, b = self._span()
        kit.line(a, y, b, y, "rule", u(3))
        low, high = self.ends()
        zero = min(max(0.0, low), high)
        kit.line(self._x(zero), y, self._x(self.value()), y, ink, u(3))
        for x in (a, b):
            kit.rect(x - 1.5, y - u(5), 3, u(10), "ink")
        bob(kit, self._x(self.value()), y - u(5), u(15))
        kit.text(self.width() - u(3), y, self.words(), 12, 500, "ink", "r")
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _set(self, value: float) -> None:
        low, high = self.ends()
        self.desk.set_pose(self.ident, min(max(value, low), high))

    def _from(self, x: float) -> None:
        (a, b), (low, high) = self._span(), self.ends()
        value = low + (high - low) * (x - a) / (b - a)
        self._set(round(value / self.measure.step) * self.measure.step)

    def mousePressEvent(self, event) -> None:
        self.desk.select(Ref("joint", self.ident))
        if event.position().x() > self.u(80):
            self._from(event.position().x())

    def mouseMoveEvent(self, event) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._from(event.position().x())

    def keyPressEvent(self, event) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}.get(event.key())
        if event.key() == Qt.Key.Key_Home:
            self._set(0.0)
        elif step is not None:
            self._set(
                self.value()
                + step * self.measure.step * (10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
            )
        else:
            super().keyPressEvent(event)
