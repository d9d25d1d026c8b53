"""The room from above: where sensors look, in pleats with their weights, who walks there, and where the figure looks."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QWidget

from karakuri.behaviour.senses import attention
from karakuri.model.behaviour import SEES
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

DEEP_M, STEPS = 3.4, 40


class RoomPlan(Sheet):
    """Ahead is down, the figure's left to the right of the sheet, as a visitor sees it from across."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "room plan", parent)
        self.trail: list[list[tuple[float, float]]] = []

    def went(self) -> None:
        """Time went on: a step more of each walker."""
        living = self.desk.living
        if living.engine is not None and living.visitors is not None:
            self.trail = [*self.trail, list(living.visitors.places(living.engine.now))][-STEPS:]
        self.update()

    def draw(self, kit: Kit) -> None:
        u, w, h = kit.u, self.width(), self.height()
        kit.rect(0, 0, w, h, "card", "rule", 1)
        scale = (h - u(34)) / DEEP_M
        cx, cy = w / 2, u(22)

        def at(x: float, y: float) -> tuple[float, float]:
            return cx + y * scale, cy + x * scale

        behaviour, living = self.desk.figure.behaviour, self.desk.living
        kit.p.save()
        kit.p.setClipRect(1, 1, w - 2, h - 2)
        for each in behaviour.inputs if behaviour is not None else ():
            if each.kind in SEES:
                self._pleat(kit, each, at, living.engine is not None and living.engine.level(each.id) >= 50.0)
        for age, places in enumerate(self.trail):
            for x, y in places:
                px, py = at(x, y)
                last = age == len(self.trail) - 1
                kit.circle(px, py, u(5 if last else 1.4), "indigo" if last else "ink3", "ink" if last else None)
        for each in behaviour.inputs if behaviour is not None else ():
            if each.kind in SEES:
                self._weight(kit, each, at)
        towards = attention(behaviour.inputs, living.engine._levels) if behaviour is not None and living.engine is not None else None  # fmt: skip
        if towards is not None:
            turn = math.radians(towards[0])
            px, py = at(DEEP_M * math.cos(turn), DEEP_M * math.sin(turn))
            kit.line(cx, cy, px, py, "indigo", 1.2, "dash")
        kit.rect(cx - u(12), cy - u(10), u(24), u(10), "wood", "ink", 1)
        kit.circle(cx, cy, u(6), "feather", "ink", 1.2)
        kit.p.restore()
        kit.text(u(6), u(10), "Room", 12, 600, "ink2")
        words = f"{abs(towards[0]):.0f}° {'to its left' if towards[0] >= 0 else 'to its right'}" if towards is not None else "notices nobody"  # fmt: skip
        kit.text(w - u(6), h - u(9), words, 12, 600, "indigo" if towards is not None else "ink3", "r")

    def _pleat(self, kit: Kit, each, at, notices: bool) -> None:
        place = each.at_mm or (0.0, 0.0, 0.0)
        x0, y0 = place[0] / 1e3, place[1] / 1e3
        reach, half = each.reach_mm / 1e3, math.radians(each.wide_deg / 2)
        turn = math.radians(each.heading_deg)
        rim = [
            at(x0 + reach * math.cos(turn + half * k / 6), y0 + reach * math.sin(turn + half * k / 6))
            for k in range(-6, 7)
        ]
        path = Kit.path([at(x0, y0), *rim], True)
        kit.draw(path, "asagi_t", "asagi" if notices else "rule", 2 if notices else 1, alpha=1.0 if notices else 0.55)

    def _weight(self, kit: Kit, each, at) -> None:
        """How much a sensor counts, over all that walks there."""
        place, turn = each.at_mm or (0.0, 0.0, 0.0), math.radians(each.heading_deg)
        far = 0.55 * each.reach_mm / 1e3
        px, py = at(place[0] / 1e3 + far * math.cos(turn), place[1] / 1e3 + far * math.sin(turn))
        kit.circle(px, py, kit.u(8), "card", None)
        kit.text(px, py, f"{each.weight:g}", 12, 600, "asagi", "c")
