"""The race: height is voltage at the peak, thickness is wire; what feeds on the left, servos hanging at the voltage they get, the least they live on below."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import AtServo, PowerFound
from karakuri.model.power import Power
from karakuri.power.cells import empty_V
from karakuri.power.wire import diameter_m
from karakuri.units import Quantity
from karakuri.wiring.table import wires
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet

STEPS_V = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0)
MOST_LINES, MOST_HANGING, PADDLES = 5, 5, 12


class Race(Sheet):
    """Volts from the cells to the servos."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Volts from what feeds it to the servos", parent)
        self.found: PowerFound | None = None

    def show_found(self, found: PowerFound | None) -> None:
        self.found = found
        if found is not None:
            least = self._volts(found.most.servo)
            hang = "".join(f"; the {name} gets {self._volts(each.least)}" for name, _, each in self._hanging())
            self.setAccessibleName(f"Volts at the servos under the peak: {least}{hang}")
        self.update()

    def _volts(self, value: float) -> str:
        """To hundredths, down: what is lost along a servo's own wires is seldom more."""
        return f"{math.floor(value * 100.0 + 1e-9) / 100.0:.2f}\u00a0V"

    def _hanging(self) -> list[tuple[str, str, AtServo]]:
        """The servo of each region that gets least, with the region and its name, of those whose wires are known."""
        figure, worst = self.desk.figure, {}
        for each in self.found.at_servos if self.found is not None else ():
            plug = next((p for p in figure.plugs if p.id == each.plug), None)
            drive = next((d for d in figure.drives if plug is not None and d.id == plug.item), None)
            if drive is not None:
                joint = figure.joint(drive.joint)
                if joint.region not in worst or each.least < worst[joint.region][2].least:
                    worst[joint.region] = (joint.name, joint.region, each)
        return sorted(worst.values(), key=lambda one: -one[2].least)[-MOST_HANGING:]

    def draw(self, kit: Kit) -> None:
        u, w, h, power = kit.u, self.width(), self.height(), self.desk.figure.power
        if power is None or self.found is None:
            return
        kit.text(u(4), u(9), "The race", 13, 600)
        kit.text(u(66), u(9), "height is voltage at the peak, thickness is wire", 12, 400, "ink2")
        each, supply, hanging = self.found.most, self.desk.figure.supply, self._hanging()
        before = empty_V(power.cells) if power.cells is not None and power.converter is not None else each.stands
        after = each.stands - each.sag
        least = min([each.servo, *(one.least for _, _, one in hanging)])
        low, high = min(power.least_V, max(least, 0.0)), max(before, each.stands, supply.voltage_V)
        spread = max(high - low, 0.5)
        low, high = low - 0.12 * spread, high + 0.06 * spread
        top, floor = u(36), h - u(20)

        def y(volts: float) -> float:
            return floor - (volts - low) / (high - low) * (floor - top)

        self._lines(kit, y, low, high, w)
        self._floor(kit, power, y(power.least_V), w, y(least) < y(power.least_V) - u(20))
        begin, wheel = u(128), max(round(w * 0.3), u(250))
        rail = min(wheel + u(150), w - u(98))
        hanging = hanging[len(hanging) - min(len(hanging), max(0, int((w - rail - u(72)) / u(74)))) :]
        thick = max(u(3), min(u(11), diameter_m(power.wire.gauge_awg) * 1e3 * u(4)))
        self._vessel(kit, power, y(before), floor)
        near = ", near empty" if power.cells is not None else ""
        kit.text(begin - u(4), y(before) - u(13), f"{self._volts(before)}{near}", 12, 600, "indigo", "l", "paper")
        fuse = begin + u(30) if power.fuse_A is not None else None
        end = y(before) if power.converter is not None else y(after)
        self._band(
            kit,
            begin - u(16),
            y(before),
            fuse if fuse is not None else wheel,
            y(before) if fuse is not None else end,
            thick,
        )
        if fuse is not None:
            self._fuse(kit, fuse, y(before), thick, f"fuse {power.fuse_A:g} A")
            self._band(kit, fuse + u(26), y(before), wheel, end, thick)
        out = wheel
        if power.converter is not None:
            r = min(u(24), (floor - top) / 4)
            self._wheel(kit, wheel, (y(before) + y(after)) / 2, r)
            words = f"converter, {power.converter.efficiency:.0%}".replace("%", "\u00a0%")
            kit.text(wheel, (y(before) + y(after)) / 2 + r * 1.16 + u(10), words, 12, 600, "ink", "c", "paper")
            out = wheel + r * 0.6
        wire = f"{power.wire.gauge_awg} AWG, {self.desk.show(Quantity(power.wire.length_mm / 1e3, 'length'))}"
        self._band(kit, out, y(after), rail, y(each.servo), thick)
        kit.text((out + rail) / 2 + u(6), min(y(after), y(each.servo)) - u(14), wire, 12, 400, "ink2", "c", "paper")
        ink = "verm" if each.servo < power.least_V else "indigo"
        if not hanging:
            self._box(kit, rail, y(each.servo), "servos", self._volts(each.servo), ink)
            return
        self._band(kit, rail, y(each.servo), w - u(14), y(each.servo), thick)
        kit.text(rail + u(6), y(each.servo) - u(14), self._volts(each.servo), 12, 600, ink, "l", "paper")
        self._hang(kit, hanging, y, y(each.servo), rail + u(58), w - u(14), floor)

    def _lines(self, kit: Kit, y: Callable[[float], float], low: float, high: float, w: float) -> None:
        step = next((s for s in STEPS_V if (high - low) / s <= MOST_LINES), 10.0)
        for k in range(math.ceil(low / step), math.floor(high / step) + 1):
            at = y(k * step)
            kit.line(kit.u(34), at, w - kit.u(8), at, "rule", 0.8, "dot")
            kit.text(kit.u(30), at, f"{k * step:.1f}", 12, 400, "ink3", "r")

    def _floor(self, kit: Kit, power: Power, at: float, w: float, clear: bool) -> None:
        """The least they live on; its words on the right, unless servos hang there."""
        u = kit.u
        kit.hatch(
            kit.path([(u(34), at), (w - u(8), at), (w - u(8), at + u(5)), (u(34), at + u(5))], True), "verm", u(5), 0.8
        )
        kit.line(u(34), at, w - u(8), at, "verm", 1.4)
        words = f"below {self.desk.show(Quantity(power.least_V, 'voltage'))} the controller may restart"
        kit.text(w - u(8) if clear else u(128), at + u(14), words, 12, 400, "verm", "r" if clear else "l")

    def _vessel(self, kit: Kit, power: Power, level: float, floor: float) -> None:
        """What feeds it, filled as high as its volts."""
        u = kit.u
        left, right, rim = u(46), u(112), level - u(12)

        def across(at: float) -> tuple[float, float]:
            inset = u(7) * (at - rim) / max(floor - rim, 1.0)
            return left + inset, right - inset

        (l0, r0), (l1, r1) = across(level), across(floor)
        kit.draw(kit.path([(l0, level), (r0, level), (r1, floor), (l1, floor)], True), "indigo_t", None)
        kit.line(l0, level, r0, level, "indigo", 1.2)
        kit.draw(kit.path([(left, rim), (l1, floor), (r1, floor), (right, rim)], False), None, "ink", 1.6)
        cells = power.cells
        what = (
            f"{cells.count} {'cells' if cells.count > 1 else 'cell'}"
            if cells is not None
            else self.desk.figure.supply.name
        )
        middle = (left + right) / 2
        kit.text(
            middle, floor - u(24 if cells is not None else 12), kit.short(what, u(54), 12, 600), 12, 600, "ink", "c"
        )
        if cells is not None:
            kit.text(middle, floor - u(9), f"{cells.capacity_mAh / 1e3:g} Ah", 12, 400, "ink2", "c")

    def _band(self, kit: Kit, x0: float, y0: float, x1: float, y1: float, thick: float, fill: str = "indigo_m", edge: str = "indigo") -> None:  # fmt: skip
        half = thick / 2
        kit.draw(kit.path([(x0, y0 - half), (x1, y1 - half), (x1, y1 + half), (x0, y0 + half)], True), fill, edge, 1.0)

    def _fuse(self, kit: Kit, x: float, y: float, thick: float, words: str) -> None:
        """One strand between two posts."""
        u = kit.u
        kit.line(x, y, x + u(26), y, "indigo", 1.6)
        for at in (x, x + u(26)):
            kit.rect(at - u(3), y - thick / 2 - u(4), u(6), thick + u(8), "brass_f", "ink", 1.0)
        kit.text(x + u(13), y + thick / 2 + u(15), words, 12, 600, "ink", "c", "paper")

    def _wheel(self, kit: Kit, x: float, y: float, r: float) -> None:
        kit.circle(x, y, r, "brass_t", "ink", 1.4)
        for k in range(PADDLES):
            turn = 2 * math.pi * k / PADDLES
            c, s = math.cos(turn), math.sin(turn)
            kit.line(x + c * r * 0.25, y + s * r * 0.25, x + c * r, y + s * r, "ink3", 0.8)
            tip = r * 1.16
            kit.line(x + c * r, y + s * r, x + math.cos(turn + 0.12) * tip, y + math.sin(turn + 0.12) * tip, "ink", 1.6)
        kit.circle(x, y, r * 0.22, "brass_f", "ink", 1.2)

    def _box(self, kit: Kit, x: float, y: float, name: str, volts: str, ink: str) -> None:
        u = kit.u
        kit.rect(x, y - u(8), u(26), u(16), "card", "ink", 1.2)
        kit.text(x + u(13), y + u(18), name, 12, 600, "ink", "c", "paper")
        kit.text(x + u(32), y, volts, 13, 600, ink)

    def _hang(self, kit: Kit, hanging: list[tuple[str, str, AtServo]], y: Callable[[float], float], rail: float, x0: float, x1: float, floor: float) -> None:  # fmt: skip
        """The servo of each region that gets least, on its own wires, at the voltage it gets at the worst."""
        u, power = kit.u, self.desk.figure.power
        own = {wire.plug: wire for wire in wires(self.desk.figure) if wire.lead == "plus"}
        room = (x1 - x0) / len(hanging)
        for k, (name, region, each) in enumerate(hanging):
            edge, fill = REGION.get(region, ("ink2", "desk"))
            at, box, wire = x0 + k * room, x0 + k * room + min(u(34), room * 0.3), own.get(each.plug)
            low = min(y(each.least), floor - u(2))
            thick = max(2.0, diameter_m(wire.awg) * 1e3 * u(4)) if wire is not None else 2.0
            self._band(kit, at, rail, box, low, thick, fill, edge)
            kit.circle(at, rail, u(3), "brass_f", "ink", 1.0)
            kit.rect(box, low - u(7), u(20), u(14), "card", "ink", 1.2)
            ink = "verm" if power is not None and each.least < power.least_V else "indigo"
            kit.text(box + u(10), low + u(16), self._volts(each.least), 12, 600, ink, "c")
            kit.text(at - u(4), rail - u(17), kit.short(name, room - u(8), 12, 600), 12, 600, edge, "l", "paper")
