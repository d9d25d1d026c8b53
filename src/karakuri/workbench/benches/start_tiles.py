"""Tiles of the Start bench: a kind of figure to choose, a starter to hang up. Arrows go from one to the next, Space presses."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QWidget

from karakuri.starters.composed import Sums
from karakuri.starters.contract import Kind, Starter
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, fit
from karakuri.workbench.marks import tag_path
from karakuri.workbench.stage.starter_drawings import draw_starter
from karakuri.workbench.widgets.sheet import Press

FULL, SHORT = 66, 44
"""Design pixels: a starter's tile with all it says, and as little as it may have."""


def counted(number: int, one: str, many: str) -> str:
    """A number with its word."""
    return f"{number} {one if number == 1 else many}"


class Tile(Press):
    """A tile that stays pressed: indigo edge, filled bead."""

    def __init__(self, desk: Desk, name: str, parent: QWidget, ident: str) -> None:
        super().__init__(desk, name, parent)
        self.ident = ident
        self.setCheckable(True)

    def ground(self, kit: Kit) -> None:
        w, h, on = self.width() - 2, self.height() - 2, self.isChecked()
        edge = "indigo" if on or self.hot() else "rule"
        kit.draw(tag_path(1, 1, w, h, self.u(8)), "sel" if on else "indigo_t" if self.hot() else "card", edge, 1.8 if on else 1)  # fmt: skip
        if self.hasFocus():
            kit.draw(tag_path(3, 3, w - 4, h - 4, self.u(7)), None, "indigo", 2)

    def keyPressEvent(self, event) -> None:
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: 0, Qt.Key.Key_Up: 0}.get(event.key())
        board = self.parent()
        if step is None or not hasattr(board, "beside"):
            super().keyPressEvent(event)
            return
        down = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(event.key(), 0)
        board.beside(self, step, down)


class KindTile(Tile):
    """A kind of figure, with its drawing where there is room."""

    def __init__(self, desk: Desk, kind: Kind, parent: QWidget) -> None:
        super().__init__(desk, f"{kind.name}, {kind.words}", parent, kind.id)
        self.kind = kind

    def draw(self, kit: Kit) -> None:
        u, w, h = kit.u, self.width(), self.height()
        self.ground(kit)
        foot = u(12)
        if h > u(70):
            draw_starter(kit, self.kind.id, u(10), u(6), w - u(20), h - u(34))
        else:
            foot = h / 2
        size, lines = fit(kit.look, self.kind.name, w - u(14), ((13, 1), (11.5, 2)))
        for k, line in enumerate(lines):
            y = (h - foot if h > u(70) else foot) + (k - (len(lines) - 1) / 2) * u(13)
            kit.text(w / 2, y, line, size, 600, "indigo" if self.isChecked() else "ink", "c")


class StarterTile(Tile):
    """A starter: drawing, name, axes, servos, what it weighs, who can drive it. Resting on it tells what it cannot do."""

    def __init__(self, desk: Desk, starter: Starter, parent: QWidget) -> None:
        super().__init__(desk, starter.name, parent, starter.id)
        self.starter = starter
        self.sums: Sums | None = None
        self.resting = lambda ident: None

    def show_sums(self, sums: Sums) -> None:
        if sums != self.sums:
            self.sums = sums
            self.setAccessibleName(
                f"{self.starter.name}: {self._counts()}; {self.starter.driven}; {self.starter.cannot}"
            )
            self.update()

    def _counts(self) -> str:
        assert self.sums is not None
        servos = counted(self.sums.servos, "servo", "servos") if self.sums.servos else "no servo"
        return f"{counted(self.sums.axes, 'axis', 'axes')} · {servos}"

    def draw(self, kit: Kit) -> None:
        u, w, h = kit.u, self.width(), self.height()
        self.ground(kit)
        on = self.isChecked()
        kit.circle(u(9), h / 2, u(2.6), "brass_f" if on else "paper", "ink" if on else "rule")
        full, flat = h >= u(FULL - 6), h < u(SHORT - 6)
        wide = min(u(40 if flat else 74), round(w * 0.31))
        draw_starter(kit, self.starter.id, u(16), u(4), wide, h - u(8))
        x, room = u(24) + wide, w - wide - u(32)
        lines = (u(15), u(33), u(50)) if full else (h / 2, h / 2, 0.0) if flat else (h * 0.3, h * 0.7, 0.0)
        size, name = fit(kit.look, self.starter.name, room, ((13, 1), (12, 1)))
        kit.text(x, lines[0], name[0], size, 600, "indigo" if on else "ink")
        if self.sums is None:
            return
        weight = self.desk.show(Quantity(round(self.sums.grams) / 1e3, "mass"))
        end = w - u(8)
        if flat and x + kit.width(name[0], size, 600) > end - kit.width(weight, 12, 600) - u(6):
            return  # its name is worth more than what it weighs
        kit.text(end, lines[1], weight, 12, 600, "ink", "r")
        if flat:
            return
        kit.text(
            x, lines[1], kit.short(self._counts(), end - x - kit.width(weight, 12, 600) - u(6), 12), 12, 400, "ink2"
        )
        if full:
            kit.text(x, lines[2], kit.short(self.starter.driven, room, 12), 12, 400, "ink2")

    def event(self, event) -> bool:
        if event.type() in (QEvent.Type.HoverEnter, QEvent.Type.FocusIn):
            self.resting(self.ident)
        return super().event(event)
