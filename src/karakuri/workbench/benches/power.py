"""Power: what the whole score draws, what reaches the servos, and how long what feeds it lasts."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import POWER, PowerFound
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.current_chart import CurrentChart
from karakuri.workbench.benches.power_page import CAUTION, IN_SHORT, power_page
from karakuri.workbench.benches.race import Race
from karakuri.workbench.benches.water_clock import WaterClock
from karakuri.workbench.benches.wiring_page import wiring_page
from karakuri.workbench.benches.wiring_view import WiringView
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.tag import Choice

ROOMY = 500
"""With so much height all of it has a row of its own."""
SHOWS = {"current": "the current", "wiring": "the wiring"}


class PowerBench(Bench):
    title, question = "Power", "What the whole score draws, and what reaches the servos."

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.chart = CurrentChart(desk, self)
        self.race = Race(desk, self)
        self.clock = WaterClock(desk, self)
        self.table = Ledger(desk, "What draws", self)
        self.table.picked.connect(self._take)
        self.shows = Choice(desk, "Shows", lambda: list(SHOWS.items()), desk.feed, self)
        self.wiring: WiringView | None = None
        self.words = CAUTION
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        return wiring_page(self.desk) if self.wired else power_page(self.desk)

    @property
    def wired(self) -> bool:
        """Whether the wiring is shown, not the current: also where a board or a plug is in hand."""
        return self.desk.feeding == "wiring" or self.desk.subject.kind in ("board", "plug")

    @property
    def found(self) -> PowerFound | None:
        """What the study found of the figure as it last stood."""
        study = self.desk.study
        return study.results[POWER] if study is not None and self.desk.figure.power is not None else None

    def _take(self, key: object) -> None:
        """A row pressed: what draws is taken in hand; a region of servos has no card here."""
        if isinstance(key, Ref):
            self.desk.select(key)

    def refresh(self) -> None:
        self.shows.show_value(SHOWS["wiring" if self.wired else "current"])
        if self.wired and self.wiring is None:
            self.wiring = WiringView(self.desk, self)
        if self.wiring is not None:
            self.wiring.setVisible(self.wired)
            self.wiring.raise_()
        found = self.found
        self.chart.show_found(found)
        self.race.show_found(found)
        self.clock.show_found(found)
        self.table.show_rows([self._row(part) for part in found.parts] if found is not None else [], self.desk.subject)
        self._place()
        if self.wiring is not None:
            self.wiring.refresh()
        self.update()

    def _row(self, part) -> Row:
        power = self.desk.figure.power
        load = next((each for each in power.loads if each.id == part.id), None) if power is not None else None
        mean, peak = float(part.amps.mean()), float(part.amps.max())
        name = part.name if load is not None else f"servos, {part.name}"

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            kit.line(0, y - u(11), width, y - u(11), "hair")
            guess = load is not None and load.guess
            kit.text(u(6), y, kit.short(name, width - u(230), 13), 13, 600 if on else 400, "indigo" if on else "ink")
            kit.text(width - u(150), y, "a guess" if guess else "", 12, 400, "brass", "r")
            kit.text(width - u(76), y, f"{mean:.2f}", 13, 400, "ink", "r")
            kit.text(width - u(8), y, f"{peak:.2f}", 13, 600, "ink", "r")

        words = self.desk.show(Quantity(peak, "current", rounding="up"))
        return Row(
            Ref("load", part.id) if load is not None else ("region", part.id), f"{name}, {words} at its most", paint, 22
        )

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        left, top = u(14), u(42)
        size = self.shows.sizeHint()
        self.shows.setGeometry(w - size.width() - u(8), u(6), size.width(), size.height())
        if self.wiring is not None:
            self.wiring.setGeometry(left, u(38), w - left - u(2), h - u(38))
        rows = u(22) * max(len(self.table.rows), 1) + u(6)
        self.roomy = h - top >= u(ROOMY)
        lasts = self.roomy and self.clock.hours is not None
        if self.roomy:
            upper, self.low = top + round((h - top) * 0.36), top + round((h - top) * 0.69)
            self.chart.setGeometry(left, top, w - left - u(10), upper - top)
            self.race.setGeometry(left, upper + u(8), w - left - u(10), self.low - upper - u(16))
            begin = left + (round(w * 0.32) if lasts else 0)
            self.clock.setGeometry(left, self.low - u(2), begin - left - u(12), h - self.low - u(2))
            self.caution = min(round(w * 0.26), u(300))
            self.table.setGeometry(
                begin, self.low + u(22), w - begin - self.caution - u(28), min(rows, h - self.low - u(26))
            )
        else:
            upper = top + round((h - top) * 0.46)
            self.low = upper + u(14)
            self.chart.setGeometry(left, top, w - left - u(10), upper - top)
            wide = round(w * 0.6)
            self.race.setGeometry(left, self.low, wide - left, h - self.low - u(6))
            room, across = h - self.low - u(30), w - wide - u(30)
            self.words = CAUTION if rows + self._said(CAUTION, across) < room else IN_SHORT
            high = min(rows, max(room - self._said(self.words, across), u(44)))
            self.table.setGeometry(wide + u(12), self.low + u(24), w - wide - u(22), high)
        self.clock.setVisible(lasts and self.found is not None and not self.wired)
        self.chart.setVisible(not self.wired)
        for each in (self.race, self.table):
            each.setVisible(self.found is not None and not self.wired)

    def _said(self, words: str, wide: float) -> int:
        """How much height words take where they are so wide."""
        return self.u(12) + self.u(15) * len(wrapped(self.desk.look, words, wide, 12))

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        kit.text(u(16), u(20), "Power", 18, 600)
        x = u(16) + kit.width("Power", 18, 600) + u(14)
        words = f"“{self.desk.figure.score.name}”, {self.desk.figure.score.length_s:.1f} s"
        question = "What is plugged into what, and how long to cut it." if self.wired else self.question
        if x + kit.width(question, 13) < self.shows.x() - kit.width(words, 12) - u(28):
            kit.text(x, u(21), question, 13, 400, "ink2")
        kit.text(self.shows.x() - u(14), u(21), words, 12, 400, "ink2", "r")
        if self.found is None or self.wired:
            return
        kit.line(u(14), self.low - u(6), w - u(10), self.low - u(6), "rule")
        if self.roomy:
            kit.line(u(14), self.race.y() - u(5), w - u(10), self.race.y() - u(5), "rule")
        left, wide, head = self.table.x(), self.table.width(), self.table.y() - u(15)
        kit.text(left + u(4), head, "What draws", 13, 600, "brass")
        kit.text(left + wide - u(76), head, "mean A", 12, 400, "ink3", "r")
        kit.text(left + wide - u(8), head, "most A", 12, 400, "ink3", "r")
        if self.roomy:
            kit.lines(left + wide + u(16), head + u(24), CAUTION, self.caution, 12, 400, "ink2", 15)
            return
        kit.lines(left + u(4), self.table.geometry().bottom() + u(16), self.words, wide - u(8), 12, 400, "ink2", 15)
