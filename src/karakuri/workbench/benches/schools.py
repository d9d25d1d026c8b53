"""The schools beside each other: what each brings, asks for and cannot do. A press, or Enter, hangs one up or takes it down."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtWidgets import QWidget

from karakuri.starters import STARTERS
from karakuri.starters.composed import Sums
from karakuri.starters.contract import FEATURES, Starter
from karakuri.units import Quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.ledger import Ledger, Row

HEADS = ("axes", "servos", "wires", "mass", "price", "people")


class Schools(Ledger):
    """One row a starter, under the name of its feature."""

    def __init__(self, desk: Desk, parent: QWidget, hang: Callable[[str], None]) -> None:
        super().__init__(desk, "Schools beside each other", parent)
        self._hang = hang
        self.asked.connect(self._take_up)

    def _take_up(self, key: str) -> None:
        if key in {each.id for each in STARTERS}:
            self._hang(key)

    def show_all(self, sums: Mapping[str, Sums], chosen: frozenset[str]) -> None:
        """Of every starter by id, what it brings, and which are hung up."""
        rows, before = [], ""
        for each in sorted(STARTERS, key=lambda one: list(FEATURES).index(one.feature)):
            first = each.feature != before
            before = each.feature
            rows.append(self._row(each, sums[each.id], each.id in chosen, first))
        self.show_rows(rows, self.current if self.current in {row.key for row in rows} else rows[0].key)

    def columns(self, width: float) -> dict[str, float]:
        """Where each column ends, pixels; the first two and the last two begin there."""
        u = self.u
        ends = {name: u(252) + (k + 1) * u(46) for k, name in enumerate(HEADS)}
        rest = width - u(252) - len(HEADS) * u(46) - u(24)
        return {"feature": u(12), "name": u(96), "driven": u(268) + len(HEADS) * u(46), "cannot": u(268) + len(HEADS) * u(46) + rest * 0.34, **ends}  # fmt: skip

    def _row(self, starter: Starter, sums: Sums, hung: bool, first: bool) -> Row:
        desk = self.desk
        values = (
            show_number(Quantity(float(sums.axes), "count"), desk.units), show_number(Quantity(float(sums.servos), "count"), desk.units),
            show_number(Quantity(float(sums.wires), "count"), desk.units), desk.show(Quantity(round(sums.grams) / 1e3, "mass")),
            f"{sums.price:g}" if sums.servos else "–", show_number(Quantity(float(sums.people), "count"), desk.units),
        )  # fmt: skip

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u, at = kit.u, self.columns(width)
            if first:
                kit.text(at["feature"], y, FEATURES[starter.feature], 12, 600, "brass")
            kit.circle(at["name"] - u(8), y, u(2.6), "brass_f" if hung else "paper", "ink" if hung else "rule")
            kit.text(at["name"], y, kit.short(starter.name, u(150), 12, 600), 12, 600, "indigo" if hung else "ink")
            for name, text in zip(HEADS, values, strict=True):
                kit.text(at[name], y, text, 12, 500, "ink", "r")
            kit.text(
                at["driven"], y, kit.short(starter.driven, at["cannot"] - at["driven"] - u(8), 12), 12, 400, "ink2"
            )
            kit.text(at["cannot"], y, kit.short(starter.cannot, width - at["cannot"] - u(8), 12), 12, 400, "ink2")

        return Row(starter.id, f"{starter.name}: {', '.join(f'{n} {v}' for n, v in zip(HEADS, values, strict=True))}; {starter.driven}; cannot: {starter.cannot}", paint, 22)  # fmt: skip

    def draw_heads(self, kit: Kit, x: float, y: float, width: float) -> None:
        """The heads of the columns, on the bench, in line with the rows."""
        at = self.columns(width)
        for name in HEADS:
            kit.text(x + at[name], y, name, 11.5, 400, "ink3", "r")
        kit.text(x + at["driven"], y, "who can drive it", 11.5, 400, "ink3")
        kit.text(x + at["cannot"], y, "what it cannot do", 11.5, 400, "ink3")
