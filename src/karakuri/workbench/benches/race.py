"""The race: height is voltage at the peak, thickness is wire; what feeds on the left, the servos on the right, the least they live on below."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import PowerFound
from karakuri.power.cells import empty_V
from karakuri.power.wire import diameter_m
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet


class Race(Sheet):
    """Volts from the cells to the servos."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Volts from what feeds it to the servos", parent)
        self.found: PowerFound | None = None

    def show_found(self, found: PowerFound | None) -> None:
        self.found = found
        if found is not None:
            self.setAccessibleName(f"Volts at the servos under the peak: {self.desk.show(Quantity(found.most.servo, 'voltage', rounding='down'))}")  # fmt: skip
        self.update()

    def draw(self, kit: Kit) -> None:
        u, w, h, power = kit.u, self.width(), self.height(), self.desk.figure.power
        if power is None or self.found is None:
            return
        kit.text(u(4), u(9), "The race", 13, 600)
        kit.text(u(66), u(9), "height is voltage at the peak, thickness is wire", 12, 400, "ink2")
        each, supply = self.found.most, self.desk.figure.supply
        before = empty_V(power.cells) if power.cells is not None and power.converter is not None else each.stands
        low, high = min(power.least_V, each.servo) - 0.3, max(before, each.stands, supply.voltage_V) + 0.3
        top, floor = u(30), h - u(22)

        def y(volts: float) -> float:
            return floor - (volts - low) / (high - low) * (floor - top)

        def volts(value: float) -> str:
            return self.desk.show(Quantity(value, "voltage", rounding="down"))

        begin, mid, end = u(96), round(w * 0.5), w - u(96)
        thick = max(2.0, min(u(12), diameter_m(power.wire.gauge_awg) * 1e3 * u(4)))
        line = y(power.least_V)
        kit.line(u(8), line, w - u(8), line, "verm", 1.4)
        words = f"below {volts(power.least_V)} the controller may restart"
        kit.text(begin, line + u(11), words, 12, 400, "verm")
        kit.rect(u(20), y(before) - u(4), u(64), floor - y(before) + u(4), "desk", "ink", 1.2)
        what = f"{power.cells.count} cells" if power.cells is not None else supply.name
        kit.text(u(52), floor - u(12), kit.short(what, u(60), 12, 600), 12, 600, "ink", "c")
        near = ", near empty" if power.cells is not None else ""
        kit.text(begin - u(4), y(before) - u(14), f"{volts(before)}{near}", 12, 600, "indigo")
        after = min(each.stands - each.sag, before) if power.converter is None else each.stands - each.sag
        kit.polyline(
            [(begin - u(12), y(before)), (mid, y(before if power.converter is not None else after))], "indigo", thick
        )
        if power.fuse_A is not None:
            x = begin + (mid - begin) * 0.35
            kit.rect(x, y(before) - u(7), u(22), u(14), "brass_f", "ink", 1.2)
            kit.text(x + u(11), y(before) + u(16), f"fuse {power.fuse_A:g} A", 12, 600, "ink", "c")
        if power.converter is not None:
            middle = (y(before) + y(after)) / 2
            kit.line(mid, y(before), mid, y(after), "indigo", thick)
            kit.circle(mid, middle, u(15), "brass_f", "ink", 1.2)
            words = f"converter, {power.converter.efficiency:.0%}".replace("%", "\u00a0%")
            kit.text(mid - u(20), max(middle, y(before) + u(14)), words, 12, 600, "ink", "r")
        kit.polyline([(mid, y(after)), (end, y(each.servo))], "indigo", thick)
        kit.rect(end, y(each.servo) - u(9), u(30), u(18), "card", "ink", 1.2)
        ink = "verm" if each.servo < power.least_V else "indigo"
        kit.text(end + u(36), y(each.servo), volts(each.servo), 13, 600, ink)
        wire = f"{power.wire.gauge_awg} AWG, {self.desk.show(Quantity(power.wire.length_mm / 1e3, 'length'))}"
        kit.text((mid + end) / 2, (y(after) + y(each.servo)) / 2 - u(14), wire, 12, 400, "ink2")
