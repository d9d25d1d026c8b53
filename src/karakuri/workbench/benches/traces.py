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

    def shown(self) -> list[str]:
        """Ribbons that have room, those of the grip in hand first."""
        hand, subject = self.desk.steered.hand, self.desk.subject
        if hand is None:
            return []
        grips = {grip.id for grip in hand.steering.grips}
        first = list(hand.of_grip(subject.id)) if subject.kind == "grip" and subject.id in grips else []
        all_of_them = [*first, *(ident for ident in hand.ribbons if ident not in first)]
        room = int(self.height() // self.u(ROW))
        return all_of_them if len(all_of_them) <= room else all_of_them[: max(1, room - 1)]

    def mousePressEvent(self, event) -> None:
        ribbons, row = self.shown(), int(event.position().y() // self.u(ROW))
        if 0 <= row < len(ribbons):
            joint = self.desk.steered.grasped[ribbons[row]].lead.channel.leads
            if joint is not None:
                self.desk.select(Ref("joint", joint))

    def draw(self, kit: Kit) -> None:
        steered, u, w = self.desk.steered, kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        if steered.hand is None:
            kit.text(u(6), u(14), "nobody has hold of it", 12, 400, "ink2")
            return
        trace, left, right = list(steered.trace), u(132), w - u(128)
        some = self.shown()
        left_out = len(steered.hand.ribbons) - len(some)
        if left_out:
            y = len(some) * u(ROW) + u(ROW) / 2
            kit.text(u(6), y, f"{left_out} more: take their pad in hand and they come first", 12, 400, "ink2")
        for k, ident in enumerate(some):
            steer, top = steered.hand.ribbons[ident], k * u(ROW)
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
