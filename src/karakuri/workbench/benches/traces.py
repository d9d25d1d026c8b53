"""Ribbons in hand over the last seconds: pale as the hand asked, dark as they were sent, and how far behind they are now."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.model.ref import Ref
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.steerer import KEPT
from karakuri.workbench.widgets.sheet import Sheet

ROW = 26


class Traces(Sheet):
    """One row a ribbon, between its ends."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "what it does", parent)

    def fresh(self) -> None:
        """Time went on."""
        self.update()

    def mousePressEvent(self, event) -> None:
        hand = self.desk.steered.hand
        ribbons = list(hand.ribbons) if hand is not None else []
        row = int(event.position().y() // self.u(ROW))
        if 0 <= row < len(ribbons):
            joint = hand.ribbons[ribbons[row]].lead.channel.leads
            if joint is not None:
                self.desk.select(Ref("joint", joint))

    def draw(self, kit: Kit) -> None:
        steered, u, w = self.desk.steered, kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        if steered.hand is None:
            kit.text(u(6), u(14), "nobody has hold of it", 12, 400, "ink2")
            return
        trace, left, right = list(steered.trace), u(132), w - u(128)
        for k, (ident, steer) in enumerate(steered.hand.ribbons.items()):
            top = k * u(ROW)
            if top + u(ROW) > self.height():
                break
            y, lead = top + u(ROW) / 2, steer.lead
            kit.line(0, top, w, top, "hair")
            kit.text(u(6), y, kit.short(lead.channel.name, left - u(14), 12, 600), 12, 600)
            span = max(lead.high - lead.low, 1e-9)

            def at(value: float, top: float = top, lead=lead, span: float = span) -> float:
                return top + u(ROW) - u(4) - (u(ROW) - u(8)) * (value - lead.low) / span

            step = (right - left) / KEPT
            first = KEPT - len(trace)
            for which, colour, width in ((0, "ink3", 1.0), (1, "indigo", 1.6)):
                points = [
                    (left + (first + n) * step, at(row[ident][which])) for n, row in enumerate(trace) if ident in row
                ]
                if len(points) > 1:
                    kit.draw(kit.path(points), None, colour, width)
            unit = "%" if lead.channel.leads is None else self.desk.figure.joint(lead.channel.leads).measure.sign
            words = f"{steer.now:.0f}{unit if unit == '°' else f' {unit}'}".replace("-", "−")
            kit.text(w - u(64), y, words, 12, 600, "ink", "r")
            behind = abs(steer.asked - steer.now)
            kit.text(w - u(6), y, f"{behind:.0f} off" if behind >= 0.5 else "there", 12, 400, "ink2", "r")
