"""Room drawn: a section straight up through where two parts come nearest, in that pose, both in ink, the gap in its verdict's colour."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.bodies.blocks import blocks
from karakuri.checks.contract import ROOM
from karakuri.checks.room import pair_told, section_of
from karakuri.mechanics.pairs import Nearest, RoomFound
from karakuri.mechanics.section import Section
from karakuri.model.finding import Finding
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet


def room_told(desk: Desk) -> list[Finding]:
    """What is told of room, worst first."""
    order = ("fails", "not yet judged", "tight", "holds")
    findings = [f for f in desk.study.findings if f.rule == "room"] if desk.study is not None else []
    return sorted(findings, key=lambda f: order.index(f.verdict))


def room_in_hand(desk: Desk) -> Finding | None:
    """What of room is in hand, else the worst that is told."""
    if desk.subject.kind != "room":
        return None
    told = room_told(desk)
    return next((f for f in told if f.id == desk.subject.id), told[0] if told else None)


def pair_in_hand(desk: Desk) -> tuple[RoomFound, Nearest] | None:
    """Its two solids as they come nearest; None of what is no pair, and while the figure is ahead of its study."""
    finding, study = room_in_hand(desk), desk.study
    if finding is None or study is None or study.results.figure is not desk.figure:
        return None
    found = study.results[ROOM]
    pair = pair_told(study.results, finding.id)
    return (found, pair) if found is not None and pair is not None else None


class RoomView(Sheet):
    """The pair in hand."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "room between two parts", parent)
        self._cut: tuple[Nearest, Section] | None = None
        for signal in (desk.changed, desk.selected, desk.looked, desk.studied):
            signal.connect(self.update)

    def draw(self, kit: Kit) -> None:
        u, w, h = kit.u, self.width(), self.height()
        finding, pair = room_in_hand(self.desk), pair_in_hand(self.desk)
        kit.text(u(4), u(10), "Section straight up, where they come nearest", 13, 600)
        if finding is None or pair is None:
            words = finding.sentence.show(self.desk.units) if finding is not None else "Looking for room …"
            kit.lines(u(4), u(40), words, w - u(20), 13, 400, "ink2")
            return
        found, near = pair
        seen = self._section(near)
        corners = [p for outline in (seen.outsides[near.a], seen.outsides[near.b]) for p in outline]
        corners += list(seen.nearest)
        xs, ys = [p[0] for p in corners], [p[1] for p in corners]
        wide, high = max(max(xs) - min(xs), 0.02), max(max(ys) - min(ys), 0.02)
        scale = min((w - u(60)) / wide, (h - u(110)) / high)
        left, top = (w - scale * wide) / 2, u(36) + (h - u(110) - scale * high) / 2

        def at(p: tuple[float, float]) -> tuple[float, float]:
            return left + scale * (p[0] - min(xs)), top + scale * (max(ys) - p[1])

        kit.p.save()
        kit.p.setClipRect(0, u(24), w, max(h - u(80), 1))
        for k, outline in enumerate(seen.outsides):
            if k not in (near.a, near.b) and len(outline) > 2:
                kit.draw(kit.path([at(p) for p in outline], True), None, "hair", 1)
        for k, fill in ((near.a, "brass_f"), (near.b, "indigo_t")):
            if len(seen.outsides[k]) > 2:
                kit.draw(kit.path([at(p) for p in seen.outsides[k]], True), fill, "ink", 1.6)
            if len(seen.insides[k]) > 2:
                kit.draw(kit.path([at(p) for p in seen.insides[k]], True), "paper", "ink", 1)
                if near.inside and k == near.a and len(seen.outsides[near.b]) > 2:
                    kit.draw(kit.path([at(p) for p in seen.outsides[near.b]], True), "indigo_t", "ink", 1.6)
        colour = VERDICT[finding.verdict][0]
        a, b = (at(p) for p in seen.nearest)
        kit.line(*a, *b, colour, 3)
        kit.circle((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, u(9), None, colour, 1.6)
        kit.p.restore()
        every = blocks(self.desk.figure)
        names = [every[found.rows[k]].name for k in (near.a, near.b)]
        y = h - u(44)
        for k, (name, fill) in enumerate(zip(names, ("brass_f", "indigo_t"), strict=True)):
            kit.rect(u(8) + k * w * 0.4, y - u(6), u(14), u(12), fill, "ink", 1)
            kit.text(u(28) + k * w * 0.4, y, kit.short(name, w * 0.4 - u(40), 12), 12)
        gap = self.desk.show(Quantity(abs(near.most), "length", rounding="up" if near.most < 0 else "down"))
        words = f"{gap} {'in one another' if near.most < 0 else 'apart'}, in the pose that is nearest"
        kit.text(u(8), y + u(22), words, 12, 600, colour)

    def _section(self, near: Nearest) -> Section:
        if self._cut is None or self._cut[0] is not near:
            self._cut = (near, section_of(self.desk.study.results, near))
        return self._cut[1]
