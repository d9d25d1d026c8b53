"""The picture of a linear actuator on its card: what it must push and pull over the joint's range, beside what it has."""

from __future__ import annotations

import numpy as np

from karakuri.checks.contract import STROKES
from karakuri.model.element import Linear
from karakuri.sizing.stroke import StrokeFound
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import found_of
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Item, Note, Sketch

CAUTION = "It pushes on when something is in the way: fingers out of what it closes, a fuse or a switch at both ends, and no lid over a child’s reach."
MEASURE = "Measure pin to pin all in and all out; its label says force and speed, and whether it stays where it is without current."


def stroke_items(desk: Desk, it: Linear) -> list[Item]:
    found = found_of(desk, STROKES, it.id)
    items: list[Item] = []
    if found is not None:
        items.append(Sketch("stroke", 130, lambda kit, x, y, w, h: draw_stroke(kit, desk, found, x, y, w, h)))
    return [*items, Note("nm", MEASURE)]


def draw_stroke(kit: Kit, desk: Desk, found: StrokeFound, x: float, y: float, w: float, h: float) -> None:
    """Force over the range, pushing above the line; the band of what it has; red where its stroke does not reach."""
    u = kit.u
    push = np.where(found.pushes >= found.pulls, found.pushes, -found.pulls)
    push = np.clip(np.where(np.isfinite(push), push, 0.0), -1e6, 1e6)
    most = max(float(np.abs(push).max()), found.force) * 1.1 or 1.0
    left, right, top, bottom = x + u(40), x + w - u(8), y + u(8), y + h - u(36)
    middle = (top + bottom) / 2

    def at(k: int, force: float) -> tuple[float, float]:
        return left + (right - left) * k / (len(push) - 1), middle - (bottom - top) / 2 * force / most

    band = (bottom - top) / 2 * found.force / most
    kit.rect(left, middle - band, right - left, 2 * band, "moss_t")
    outside = (found.length < found.short - 1e-9) | (found.length > found.long + 1e-9)
    for k in np.flatnonzero(outside):
        a, _ = at(int(k), 0.0)
        kit.line(a, top, a, bottom, "verm_t", max(1.0, (right - left) / (len(push) - 1)))
    kit.line(left, middle, right, middle, "rule", 1)
    kit.line(left, top, left, bottom, "rule", 1)
    kit.polyline([at(k, float(force)) for k, force in enumerate(push)], "indigo", 1.8)
    kit.text(right - u(2), middle - min(band, (bottom - top) / 2 - u(7)) + u(7), desk.show(Quantity(found.force, "force")), 11, 400, "moss", "r")  # fmt: skip
    kit.text(left - u(4), top + u(3), "push", 11, 400, "ink2", "r")
    kit.text(left - u(4), bottom - u(3), "pull", 11, 400, "ink2", "r")
    joint = desk.study.figure.joint(desk.study.results.tree.ids[found.j]) if desk.study is not None else None
    if joint is not None:
        kit.text(left, bottom + u(11), kit.short(joint.ends[0], w / 2, 11, 400), 11, 400, "ink2")
        kit.text(right, bottom + u(11), kit.short(joint.ends[1], w / 2, 11, 400), 11, 400, "ink2", "r")
    words = "drawn: needed; green: there" + ("; red: out of its stroke" if outside.any() else "")
    kit.text(x, bottom + u(26), kit.short(words, w, 11, 400), 11, 400, "ink2")
