"""A chain of sizes drawn: its sizes to scale one after the other, how much each may vary, and the gap on one rule: likely, at worst, and what must stay."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QWidget

from karakuri.model.chain import Chain
from karakuri.model.finding import verdict_of
from karakuri.sizing.chains import Gap, adds, gap_of, wedge_grows
from karakuri.units import Quantity, digits
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet

ROW, MOST_ROWS = 20.0, 14
SEAM_TIMES = 4.0
"""A ring's seam is drawn so many times as open as it is, and says so."""


def chain_in_hand(desk: Desk) -> Chain | None:
    """The chain in hand, else the first."""
    chains = desk.figure.chains
    if desk.subject.kind == "chain":
        return next((chain for chain in chains if chain.id == desk.subject.id), chains[0] if chains else None)
    return chains[0] if chains else None


class ChainView(Sheet):
    """The chain in hand."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "a chain of sizes", parent)
        for signal in (desk.changed, desk.selected, desk.looked, desk.studied):
            signal.connect(self.update)

    def draw(self, kit: Kit) -> None:
        chain = chain_in_hand(self.desk)
        u, w = kit.u, self.width()
        if chain is None:
            kit.text(
                u(4),
                u(24),
                "A chain of sizes says what is left of a gap once all that adds up to it varies.",
                13,
                400,
                "ink2",
            )
            kit.text(
                u(4),
                u(44),
                "Add one: a ring and its wedge, a seat, a screw, a pin, a rim, a row of pieces.",
                13,
                400,
                "ink2",
            )
            return
        gap = gap_of(chain)
        kit.text(u(4), u(10), kit.short(chain.name, w * 0.5, 13, 600), 13, 600)
        if w > u(560):
            kit.text(w - u(8), u(10), "how much each may vary", 12, 400, "ink2", "r")
        y = self._rows(kit, chain, u(30), w)
        y = self._rule(kit, chain, gap, y + u(6), w)
        if self.height() - y > u(96):
            side = min(u(170), w * 0.34) if chain.kind == "ring" else 0.0
            self._scale(
                kit, chain, gap, y + u(18), w - side - (u(12) if side else 0), min(self.height() - y - u(24), u(150))
            )
            if side:
                self._ring(kit, chain, w - side, y + u(18), side, min(self.height() - y - u(24), u(170)))

    def _rows(self, kit: Kit, chain: Chain, y: float, w: float) -> float:
        """Name, sign, size and ±, with a bar for what it is likely to move the gap by."""
        u, units = kit.u, self.desk.units
        most = (
            max((link.times * link.plus_minus_mm * math.sqrt(link.count) for link in chain.links), default=0.0) or 1.0
        )
        name_w, bar = w * 0.42, w * 0.24
        roomy = w - u(24) - bar > name_w + u(170)  # else how much each may vary stays in numbers
        unit = units.unit("length")
        for link in chain.links[:MOST_ROWS]:
            words = f"{link.count} × {link.name}" if link.count > 1 else link.name
            kit.text(u(8), y, kit.short(words, name_w - u(30), 13), 13)
            kit.text(name_w, y, "+" if link.adds else "−", 13, 600, "ink2", "c")
            size = abs(link.mm) * link.count / 1e3 / unit.si
            kit.text(name_w + u(72), y, digits(size, 1 if unit.label == "mm" else 3), 13, 600, "indigo", "r")
            off = f"± {digits(link.plus_minus_mm / 1e3 / unit.si, 2 if unit.label == 'mm' else 4)}" + (
                " each" if link.count > 1 else ""
            )
            kit.text(name_w + u(82), y, off, 12, 400, "ink2")
            if link.times != 1:
                kit.text(
                    name_w + u(150),
                    y,
                    "× π" if abs(link.times - math.pi) < 1e-6 else f"× {link.times:g}",
                    12,
                    400,
                    "ink2",
                )
            if not roomy:
                y += u(ROW)
                continue
            middle = w - u(12) - bar / 2
            half = bar / 2 * link.times * link.plus_minus_mm * math.sqrt(link.count) / most
            kit.line(middle - bar / 2, y, middle + bar / 2, y, "hair")
            if half > 0:
                kit.rect(middle - half, y - u(5), 2 * half, u(10), "brass_f", "ink", 1)
            kit.line(middle, y - u(7), middle, y + u(7), "ink", 1.6)
            y += u(ROW)
        if len(chain.links) > MOST_ROWS:
            kit.text(u(8), y, f"and {len(chain.links) - MOST_ROWS} more", 12, 400, "ink2")
            y += u(ROW)
        return y

    def _rule(self, kit: Kit, chain: Chain, gap: Gap, y: float, w: float) -> float:
        """The gap: solid likely, hatched at worst, red what must stay or must not be passed."""
        u, show = kit.u, self.desk.show
        kit.line(u(4), y, w - u(8), y, "rule")
        reserve = gap.reserve(chain.judge)
        verdict = verdict_of(reserve, self.desk.figure.assumptions.wished_margin) if math.isfinite(reserve) else "holds"
        y += u(16)
        kit.text(u(8), y, "gap left", 13, 600)
        kit.text(w * 0.42 + u(72), y, show(Quantity(gap.middle, "length")), 13, 700, VERDICT[verdict][0], "r")
        kit.text(
            w * 0.42 + u(84),
            y,
            f"likely {show(Quantity(gap.middle - gap.likely, 'length'))} to {show(Quantity(gap.middle + gap.likely, 'length'))}",
            12,
            400,
            "ink2",
        )
        y += u(18)
        kit.text(
            w * 0.42 + u(84),
            y,
            f"at worst {show(Quantity(gap.middle - gap.worst, 'length'))} to {show(Quantity(gap.middle + gap.worst, 'length'))}",
            12,
            400,
            "ink2",
        )
        y += u(24)
        ends = [
            gap.middle - gap.worst,
            gap.middle + gap.worst,
            gap.least,
            *([gap.most] if math.isfinite(gap.most) else []),
            0.0,
        ]
        low, high = min(ends), max(ends)
        more = 0.12 * max(high - low, 1e-4)
        low, high = low - more, high + more
        left, right = u(12), w - u(16)
        at = lambda value: left + (right - left) * (value - low) / (high - low)  # noqa: E731
        kit.hatch(
            kit.path([(left, y - u(9)), (at(gap.least), y - u(9)), (at(gap.least), y + u(9)), (left, y + u(9))], True),
            "verm",
            5,
        )
        kit.line(at(gap.least), y - u(13), at(gap.least), y + u(13), "verm", 1.6)
        if math.isfinite(gap.most):
            kit.hatch(
                kit.path(
                    [(at(gap.most), y - u(9)), (right, y - u(9)), (right, y + u(9)), (at(gap.most), y + u(9))], True
                ),
                "verm",
                5,
            )
            kit.line(at(gap.most), y - u(13), at(gap.most), y + u(13), "verm", 1.6)
        kit.line(left, y + u(12), right, y + u(12), "rule")
        if gap.worst > 0:
            a, b = at(gap.middle - gap.worst), at(gap.middle + gap.worst)
            frame = kit.path([(a, y - u(5)), (b, y - u(5)), (b, y + u(5)), (a, y + u(5))], True)
            kit.draw(frame, "card", "ink", 1)
            kit.hatch(frame, "brass", 4)
            a, b = at(gap.middle - gap.likely), at(gap.middle + gap.likely)
            kit.rect(a, y - u(5), max(b - a, 1.0), u(10), "brass_f", "ink", 1)
        kit.line(at(gap.middle), y - u(9), at(gap.middle), y + u(9), "ink", 2)
        if low < 0 < high:
            kit.line(at(0.0), y + u(12), at(0.0), y + u(17), "ink2", 1.2)
            kit.text(at(0.0), y + u(24), "0", 11, 400, "ink2", "c")
        must = f"at least {show(Quantity(gap.least, 'length'))}" + (
            f", at most {show(Quantity(gap.most, 'length'))}" if math.isfinite(gap.most) else ""
        )
        kit.text(right, y + u(37), must, 11, 600, "verm", "r")
        return y + u(46)

    def _scale(self, kit: Kit, chain: Chain, gap: Gap, y: float, w: float, h: float) -> None:
        """Sizes one after the other as they add and take, to scale; what is left between the last and the first is the gap."""
        u = kit.u
        ends, at_mm = [0.0], 0.0
        for link in chain.links:
            at_mm += adds(link)
            ends.append(at_mm)
        low, high = min(ends), max(ends)
        k = (w - u(32)) / max(high - low, 1e-6)
        to = lambda value: u(16) + k * (value - low)  # noqa: E731
        kit.text(u(4), y, "one after the other, to scale", 12, 400, "ink2")
        rows = len(chain.links) + 1
        step = min(u(20), (h - u(18)) / rows)
        if step < u(7):
            return
        for n, link in enumerate(chain.links):
            a, b = sorted((to(ends[n]), to(ends[n + 1])))
            top = y + u(14) + n * step
            kit.rect(a, top, max(b - a, 1.5), step * 0.62, "brass_f" if link.adds else "feather_d", "ink", 1)
            kit.line(to(ends[n + 1]), top, to(ends[n + 1]), top + step, "ink3", 1, "dot")
        top = y + u(14) + (rows - 1) * step
        a, b = sorted((to(0.0), to(gap.middle)))
        kit.rect(a, top, max(b - a, 1.5), step * 0.62, "moss_t" if gap.middle >= gap.least else "verm_t", "ink", 1.2)

    def _ring(self, kit: Kit, chain: Chain, x: float, y: float, w: float, h: float) -> None:
        """A ring with the wedge in its seam, opened more than it is, and how much it grows."""
        u = kit.u
        ring = next((link for link in chain.links if link.times > 1 and link.adds), None)
        wedge = next((link for link in chain.links if link.may_change), None)
        if ring is None or wedge is None or ring.mm <= 0:
            return
        radius = min(w / 2 - u(8), h / 2 - u(24))
        if radius < u(20):
            return
        cx, cy = x + w / 2, y + u(8) + radius
        half = min(SEAM_TIMES * wedge.mm / (math.pi * ring.mm) * math.pi, 1.2)
        points = [
            (
                cx + radius * math.sin(half + t * (2 * math.pi - 2 * half) / 60),
                cy - radius * math.cos(half + t * (2 * math.pi - 2 * half) / 60),
            )
            for t in range(61)
        ]
        kit.polyline(points, "brass", 7)
        kit.polyline(points, "card", 3)
        kit.text(cx, cy - u(8), self.desk.show(Quantity(ring.mm / 1e3, "length")), 12, 600, "ink", "c")
        kit.text(
            cx, cy + u(8), f"+ {self.desk.show(Quantity(wedge_grows(wedge.mm / 1e3), 'length'))}", 12, 400, "moss", "c"
        )
        kit.text(cx, y + u(18) + 2 * radius, f"seam drawn {SEAM_TIMES:.0f} times as open", 11, 400, "ink2", "c")
