"""What a cord or a linear actuator does over the range of what it moves, large: on the Drive bench beside the mechanism itself."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import CORDS, STROKES
from karakuri.model.element import Cord, Linear, Motor
from karakuri.model.ref import item_of
from karakuri.workbench.benches.bench import found_of
from karakuri.workbench.benches.cord_items import draw_cord
from karakuri.workbench.benches.motor_items import draw_turn
from karakuri.workbench.benches.stroke_items import draw_stroke
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet


def mechanism_in_hand(desk: Desk) -> Cord | Linear | Motor | None:
    """The cord, the linear actuator or the motor that is in hand, or None."""
    if desk.subject.kind == "joint":  # what turns it, where that is a motor
        return next((e for e in desk.figure.elements if isinstance(e, Motor) and e.joint == desk.subject.id), None)
    item = item_of(desk.figure, desk.subject) if desk.subject.kind == "element" else None
    return item if isinstance(item, (Cord, Linear, Motor)) else None


class MechanismChart(Sheet):
    """Force, and for a cord how far it opens, over its travel; waits where nothing is judged yet."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "force over the range", parent)
        for signal in (desk.studied, desk.selected, desk.looked):
            signal.connect(self.update)

    def draw(self, kit: Kit) -> None:
        u, it = kit.u, mechanism_in_hand(self.desk)
        if it is None:
            return
        kit.line(0, 0.5, self.width(), 0.5, "rule")
        if isinstance(it, Motor):
            kit.text(0, u(15), "What it must turn with", 13, 600)
            draw_turn(kit, self.desk, it, 0, u(26), self.width() - u(20), self.height() - u(32))
            return
        cord = isinstance(it, Cord)
        kit.text(0, u(15), "Opening and pull over its travel" if cord else "Push and pull over the range", 13, 600)
        found = found_of(self.desk, CORDS, it.id) if cord else found_of(self.desk, STROKES, it.id)
        if found is None or found.dead_at is not None:
            words = (
                "Waits for one joint that it moves."
                if found is None
                else "It goes dead on the way: move its ends first."
            )
            kit.text(0, u(44), words, 13, 400, "ink2")
            return
        box = (u(20), u(28), self.width() - u(60), self.height() - u(34))
        if isinstance(it, Cord):
            draw_cord(kit, self.desk, it, found, *box)
        else:
            draw_stroke(kit, self.desk, found, *box)
