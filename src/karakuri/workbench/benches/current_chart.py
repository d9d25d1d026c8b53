"""Current over the show, part on part as they come together, and the peak once more as a post at the same scale."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import PowerFound
from karakuri.power.over_score import coinciding
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet

LOAD = (("brass", "brass_f"), ("ochre", "ochre_t"), ("brass", "desk"))
HATCHED = ("neck", "lids")


class CurrentChart(Sheet):
    """Areas stacked from what is always on up; two of the regions are hatched, so that they differ without colour."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Current over the score", parent)
        self.found: PowerFound | None = None

    def show_found(self, found: PowerFound | None) -> None:
        self.found = found
        if found is not None:
            peak, mean = (self.desk.show(Quantity(v, "current", rounding="up")) for v in (found.least.peak, found.least.mean))  # fmt: skip
            self.setAccessibleName(f"Current over the score: {peak} at its most, {mean} on the mean")
        self.update()

    def _colours(self) -> list[tuple[str, str, bool]]:
        """Edge, fill and whether it is hatched, of each part."""
        out, k = [], 0
        for part in self.found.parts:
            if part.id in REGION:
                out.append((*REGION[part.id], part.id in HATCHED))
            else:
                out.append((*LOAD[k % len(LOAD)], False))
                k += 1
        return out

    def draw(self, kit: Kit) -> None:
        u, found = kit.u, self.found
        kit.text(u(4), u(9), "Current at the servos’ voltage", 13, 600)
        kit.text(u(4) + kit.width("Current at the servos’ voltage", 13, 600) + u(10), u(9), "A against s", 12, 400, "ink2")  # fmt: skip
        if found is None or not len(found.total):
            words = "Waits until the figure is judged." if self.desk.figure.power is not None else "Nothing is asked of power yet: begin on the card."  # fmt: skip
            kit.lines(u(4), u(40), words, self.width() - u(8), 13, 400, "ink2")
            return
        post = u(190)
        x0, x1, y0, y1 = u(40), self.width() - post, u(26), self.height() - u(22)
        gives, length = self.desk.figure.supply.current_A, len(found.total) * found.step_s
        scale = max(found.least.peak * 1.3, 0.05)
        near = gives <= 2.0 * scale
        scale = max(scale, gives * 1.1) if near else scale
        step = 10.0 ** math.floor(math.log10(scale))
        step = next(step * k for k in (0.1, 0.2, 0.5, 1.0, 2.0) if scale / (step * k) <= 6)

        def fy(amps: float) -> float:
            return y1 - min(amps, scale) / scale * (y1 - y0)

        def fx(at: float) -> float:
            return x0 + at / length * (x1 - x0)

        for k in range(int(scale / step) + 1):
            kit.line(x0, fy(k * step), x1, fy(k * step), "hair")
            kit.text(x0 - u(6), fy(k * step), f"{k * step:g}", 12, 400, "ink2", "r")
        columns = max(2, min(len(found.total), int(x1 - x0)))
        edges = np.linspace(0, len(found.total), columns + 1).astype(int)[:-1]
        worst = [int(k + found.total[k : max(j, k + 1)].argmax()) for k, j in zip(edges, [*edges[1:], len(found.total)], strict=True)]  # fmt: skip
        xs = np.linspace(x0, x1, columns)
        below = np.zeros(columns)
        for part, (edge, fill, hatched) in zip(found.parts, self._colours(), strict=True):
            above = below + part.amps[worst]
            points = [(float(x), fy(v)) for x, v in zip(xs, above, strict=True)]
            under = [(float(x), fy(v)) for x, v in zip(xs[::-1], below[::-1], strict=True)]
            area = kit.path(points + under, True)
            kit.draw(area, fill, None)
            if hatched:
                kit.hatch(area, edge, u(6), 0.6, 90)
            kit.polyline(points, edge, 1.0)
            below = above
        self._axis(kit, x0, x1, y1, length, fx)
        mean = fy(found.least.mean)
        kit.line(x0, mean, x1, mean, "ink2", 1, "dash")
        kit.text(x1 - u(4), mean - u(9), f"mean {self._amps(found.least.mean)}", 12, 400, "ink2", "r", "paper")
        if near:
            kit.hatch(kit.path([(x0, y0), (x1, y0), (x1, fy(gives)), (x0, fy(gives))], True), "hair", u(6))
            kit.line(x0, fy(gives), x1, fy(gives), "ink", 2)
            kit.text(x0 + u(6), fy(gives) + u(10), f"the {self.desk.figure.supply.name} gives {self._amps(gives)}", 12, 600, "ink", "l", "paper")  # fmt: skip
        px, py = fx(found.peak_at), fy(found.least.peak)
        kit.line(px, y0, px, y1, "ink", 1)
        kit.circle(px, py, u(4), "card", "ochre", 2)
        self._peak(kit, px, y0 + u(8), x0, x1)
        self._post(kit, self.width() - post + u(14), y0, y1, fy)

    def _peak(self, kit: Kit, px: float, y: float, x0: float, x1: float) -> None:
        """How much and when, and who makes it together, beside the peak on the side where there is more room."""
        u, found = kit.u, self.found
        names = coinciding(found.parts, round(found.peak_at / found.step_s))
        short = f"peak {self._amps(found.least.peak)} at {found.peak_at:.1f} s"
        together = f": {' and '.join([', '.join(names[:-1]), names[-1]])} together" if len(names) > 1 else ""
        right = x1 - px > px - x0
        room = (x1 - px if right else px - x0) - u(14)
        words = short + together if kit.width(short + together, 12, 600) <= room else short
        kit.text(px + (u(10) if right else -u(10)), y, words, 12, 600, "ochre", "l" if right else "r", "paper")

    def _axis(self, kit: Kit, x0: float, x1: float, y1: float, length: float, fx) -> None:
        kit.line(x0, y1, x1, y1, "ink", 1)
        step = next((s for s in (0.5, 1, 2, 5, 10, 20, 60, 120, 300, 600, 1800) if length / s <= 10), 3600)
        for k in range(int(length / step) + 1):
            kit.text(fx(k * step), y1 + kit.u(11), f"{k * step:g}", 12, 400, "ink2", "c")

    def _post(self, kit: Kit, x: float, y0: float, y1: float, fy) -> None:
        """What the peak is made of, at the same scale; names beside, kept apart."""
        u, found = kit.u, self.found
        k = round(found.peak_at / found.step_s)
        kit.text(x, u(9), "at the peak", 12, 600, "brass")
        below, at = 0.0, y1 - u(2)
        for part, (edge, fill, hatched) in zip(found.parts, self._colours(), strict=True):
            amps = float(part.amps[k])
            top, bottom = fy(below + amps), fy(below)
            kit.rect(x, top, u(34), bottom - top, fill, edge, 1)
            if hatched and bottom - top > 2:
                kit.hatch(kit.path([(x, top), (x + u(34), top), (x + u(34), bottom), (x, bottom)], True), edge, u(6), 0.6, 90)  # fmt: skip
            below += amps
            middle = min((top + bottom) / 2, at)
            if middle < y0 - u(4):
                continue
            kit.line(x + u(34), (top + bottom) / 2, x + u(44), middle, edge, 1)
            kit.text(x + u(48), middle, kit.short(part.name, u(74), 12, 600), 12, 600, "ink")
            kit.text(x + u(170), middle, self._amps(amps), 12, 600, "ink", "r")
            at = middle - u(15)

    def _amps(self, amps: float) -> str:
        return self.desk.show(Quantity(amps, "current", rounding="up")) if amps >= 0.05 else f"{amps * 1e3:.0f}\u00a0mA"
