"""The picture of a cord on its card: opening against how far it is pulled, and how hard."""

from __future__ import annotations

import numpy as np

from karakuri.checks.contract import CORDS
from karakuri.model.element import Cord
from karakuri.sizing.cord import CordFound
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import found_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Item, Note, Sketch

CAUTION = (
    "No cord round or across a neck, and none tied to a face, without a break-away that lets go at a light pull. Whoever pulls it stops at pain. "
    "Let somebody else be able to free the wearer at once."
)
MEASURE = (
    "Measure on the person: hold a ruler beside the chin or hand and note how far it moves without effort; hook a luggage scale to the cord and note "
    "how hard it is pulled at the end."
)


def cord_items(desk: Desk, cord: Cord) -> list[Item]:
    found = found_of(desk, CORDS, cord.id)
    items: list[Item] = []
    if found is not None and found.dead_at is None:
        items.append(Sketch("cord", 128, lambda kit, x, y, w, h: draw_cord(kit, desk, cord, found, x, y, w, h)))
    elif found is None:
        items.append(
            Note("nz", "It turns nothing that hangs free: its second end belongs on a joint that nothing drives.")
        )
    return [*items, Note("nm", MEASURE)]


def draw_cord(kit: Kit, desk: Desk, cord: Cord, found: CordFound, x: float, y: float, w: float, h: float) -> None:
    """How far it opens (drawn) and how hard it is pulled (dashed) against how far it is pulled; upright lines: what the hand gives."""
    u = kit.u
    travel, opened = found.travel, np.abs(found.angles - found.angles[0])
    far, wide = max(float(travel.max()), 1e-6), max(float(opened.max()), 1e-6)
    strong = max(float(found.force.max()), 1e-6)
    left, right, top, bottom = x + u(36), x + w - u(44), y + u(10), y + h - u(36)
    across = max(far, (cord.pulled_mm or 0.0) / 1e3)

    def at(pulled: float, share: float) -> tuple[float, float]:
        return left + (right - left) * pulled / across, bottom - (bottom - top) * share

    kit.line(left, bottom, right, bottom, "rule", 1)
    kit.line(left, top, left, bottom, "rule", 1)
    kit.polyline([at(float(t), float(o) / wide) for t, o in zip(travel, opened, strict=True)], "indigo", 1.8)
    kit.polyline(
        [at(float(t), float(f) / strong) for t, f in zip(travel, found.force, strict=True)], "brass", 1.4, "dash"
    )
    if cord.pulled_mm is not None:
        px, _ = at(cord.pulled_mm / 1e3, 0)
        kit.line(px, top, px, bottom, "ink2", 1, "dot")
    kit.text(left - u(4), top + u(3), desk.show(Quantity(wide, "angle")), 11, 400, "indigo", "r")
    kit.text(right + u(4), top + u(3), desk.show(Quantity(strong, "force")), 11, 400, "brass")
    kit.text(right, bottom + u(11), desk.show(Quantity(across, "length")), 11, 400, "ink2", "r")
    kit.text(
        x, bottom + u(26), kit.short("drawn: opening; dashed: pull, both over its travel", w, 11, 400), 11, 400, "ink2"
    )
