"""Hours on its cells as a water clock: what may be used with hours on its side, what age and cold take at the top, what stays in the cells at the bottom, the show's end
as a bar across."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import PowerFound
from karakuri.power.cells import inside
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

STEPS_H = (0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0, 25.0, 50.0, 100.0, 250.0, 1000.0)
MOST_TICKS, LEAST = 6, 0.005


class WaterClock(Sheet):
    """How long the cells last over the show, again and again."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Hours on its cells", parent)
        self.found: PowerFound | None = None

    def show_found(self, found: PowerFound | None) -> None:
        self.found = found
        hours = self.hours
        if hours is not None:
            self.setAccessibleName(f"Hours on its cells: they last {self._hours(hours, 'down')}")
        self.update()

    @property
    def hours(self) -> float | None:
        """How long they last with all that is known to draw, h; None without cells."""
        return self.found.most.hours if self.found is not None else None

    def _hours(self, hours: float, rounding) -> str:
        return self.desk.show(Quantity(min(hours, 9999.0) * 3600.0, "hours", rounding=rounding))

    def draw(self, kit: Kit) -> None:
        u, w, h, power, hours = kit.u, self.width(), self.height(), self.desk.figure.power, self.hours
        if power is None or power.cells is None or hours is None:
            return
        kit.text(u(4), u(9), "Hours on its cells", 13, 600)
        has = inside(power.cells)
        printed = has.cold + has.age + has.kept + has.used
        left, right, top, foot = u(36), u(36) + min(u(96), round(w * 0.4)), u(26), h - u(10)

        def y(amount: float) -> float:
            """Where so many Ah from the rim down lie."""
            return top + amount / printed * (foot - top)

        def across(at: float) -> tuple[float, float]:
            inset = u(14) * (at - top) / (foot - top)
            return left + inset, right - inset

        def slab(y0: float, y1: float):
            (l0, r0), (l1, r1) = across(y0), across(y1)
            return kit.path([(l0, y0), (r0, y0), (r1, y1), (l1, y1)], True)

        gone, empty = y(has.cold + has.age), y(has.cold + has.age + has.used)
        if gone > top + 1:
            kit.hatch(slab(top, gone), "moss", u(5), 0.8)
        kit.draw(slab(gone, empty), "indigo_t", None)
        kit.line(across(gone)[0], gone, across(gone)[1], gone, "indigo", 1.4)
        if foot > empty + 1:
            kit.hatch(slab(empty, foot), "ochre", u(5), 0.8)
            kit.line(across(empty)[0], empty, across(empty)[1], empty, "ochre", 1)
        (l0, r0), (l1, r1) = across(top), across(foot)
        kit.draw(kit.path([(l0, top), (l1, foot), (r1, foot), (r0, top)], False), None, "ink", 1.6)
        self._scale(kit, hours, gone, empty, across)
        show = power.lasts_h
        bar = gone + min(show / hours, 1.0) * (empty - gone) if hours > 0 else gone
        enough = hours >= show
        (x0, x1) = across(bar)
        kit.line(x0 - u(4), bar, x1 + u(4), bar, "ink" if enough else "verm", 2.2)
        colour = "ink" if enough else "verm"
        words = "the show ends" if enough else "the show asks"
        beside = [(bar, f"{words}, {self._hours(show, 'up')}".replace("asks,", "asks"), colour, 600)]
        beside.append((empty, f"lasts {self._hours(hours, 'down')}", "indigo", 600))
        lost = [
            f"{word} {_share(ah / printed)}"
            for word, ah in (("cold", has.cold), ("age", has.age))
            if ah > LEAST * printed
        ]
        if lost:
            beside.append(((top + gone) / 2, "lost: " + ", ".join(lost), "moss", 400))
        if has.kept > LEAST * printed:
            beside.append(((empty + foot) / 2, f"{_share(has.kept / printed)} stays in them", "ochre", 400))
        self._beside(kit, sorted(beside), right + u(12), w, top, foot)

    def _scale(self, kit: Kit, hours: float, gone: float, empty: float, across) -> None:
        step = next((s for s in STEPS_H if hours / s <= MOST_TICKS), None)
        k = 0
        while step is not None and k * step <= hours:
            at = gone + k * step / hours * (empty - gone) if hours > 0 else gone
            x = across(at)[0]
            kit.line(x, at, x + kit.u(9), at, "indigo", 1)
            kit.text(x - kit.u(5), at, f"{k * step:g} h", 12, 400, "ink2", "r")
            k += 1

    def _beside(self, kit: Kit, rows: list[tuple[float, str, str, int]], x: float, w: float, top: float, foot: float) -> None:  # fmt: skip
        """Words beside the vessel at their heights, kept apart."""
        line = kit.u(16)
        places = [at for at, *_ in rows]
        for i in range(1, len(places)):
            places[i] = max(places[i], places[i - 1] + line)
        over = max(0.0, places[-1] - foot)
        for i in range(len(places) - 1, -1, -1):
            places[i] = min(places[i], foot - (len(places) - 1 - i) * line) if over else places[i]
        for at, (_, words, colour, weight) in zip(places, rows, strict=True):
            kit.text(x, max(at, top - kit.u(2)), kit.short(words, w - x, 12, weight), 12, weight, colour)


def _share(part: float) -> str:
    return f"{part:.0%}".replace("%", "\u00a0%")
