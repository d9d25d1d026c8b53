"""Fit: does it all go in, and in which order. Room over all that moves, chains of sizes, and steps of putting together."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QWidget

from karakuri.model.chain import Chain
from karakuri.model.chain_edits import KINDS, add_chain
from karakuri.model.finding import Finding, show_reserve
from karakuri.model.order import Doing
from karakuri.model.order_edits import add_doing
from karakuri.model.ref import Ref, item_of
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.chain_page import CAUTION, chain_page, chains_items
from karakuri.workbench.benches.chain_view import ChainView, chain_in_hand
from karakuri.workbench.benches.order_page import order_items, order_page
from karakuri.workbench.benches.room_page import ask, room_items, room_page
from karakuri.workbench.benches.room_view import RoomView, room_in_hand, room_told
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.items import Note, Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.tag import Choice, Tag


class FitBench(Bench):
    title, question = "Fit", "Does it all go in, as parts really come out?"

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.list = Ledger(desk, "Chains of sizes", self)
        self.list.picked.connect(lambda key: desk.select(key))
        self.add = Choice(desk, "Add", lambda: list(KINDS.items()), self._add, self)
        self.add.show_value("a chain of sizes")
        self.view = ChainView(desk, self)
        self.order = Ledger(desk, "Order of putting together", self)
        self.order.picked.connect(lambda key: desk.select(key))
        self.step = Tag(desk, "One more step", self, self._add_step)
        self.room = Ledger(desk, "Room between parts", self)
        self.room.picked.connect(lambda key: desk.select(key))
        self.look = Tag(desk, "Do all parts go past each other?", self, lambda: ask(desk))
        self.section = RoomView(desk, self)
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        if self.desk.subject.kind == "doing" and item_of(self.desk.figure, self.desk.subject) is not None:
            return order_page(self.desk, self.desk.subject.id)
        if self.desk.subject.kind == "room":
            return room_page(self.desk, self.desk.subject.id)
        chain = chain_in_hand(self.desk)
        if chain is not None:
            return chain_page(self.desk, chain.id)
        items = (*room_items(self.desk), *chains_items(self.desk), *order_items(self.desk), Note("c", CAUTION, True))
        return Page("Fit", "no chain of sizes yet", items, ("fit", ""))

    def refresh(self) -> None:
        room, chain = self.desk.subject.kind == "room", chain_in_hand(self.desk)
        self.list.show_rows(
            [self._row(each) for each in self.desk.figure.chains],
            Ref("chain", chain.id) if chain and not room else None,
        )
        told, held = room_told(self.desk) if self.desk.figure.room is not None else [], room_in_hand(self.desk)
        self.room.show_rows([self._gap(each) for each in told], Ref("room", held.id) if held is not None else None)
        self.room.setVisible(self.desk.figure.room is not None)
        self.look.setVisible(self.desk.figure.room is None)
        self.section.setVisible(room)
        self.view.setVisible(not room)
        self.list.setVisible(bool(self.desk.figure.chains))
        self.order.setVisible(bool(self.desk.figure.order))
        rows = [self._step(k, doing) for k, doing in enumerate(self.desk.figure.order)]
        self.order.show_rows(rows, self.desk.subject if self.desk.subject.kind == "doing" else None)
        self._place()
        self.update()

    def _add(self, kind) -> None:
        if self.desk.edit(lambda: add_chain(self.desk.figure, kind)):
            self.desk.select(Ref("chain", self.desk.figure.chains[-1].id))

    def _add_step(self) -> None:
        if self.desk.edit(lambda: add_doing(self.desk.figure)):
            self.desk.select(Ref("doing", self.desk.figure.order[-1].id))

    def _step(self, k: int, doing: Doing) -> Row:
        """A numbered bead: filled what is done, a ring what comes next, dashed what is to come; red where it is amiss."""
        ends = ("", "shut", "unmet", "apart")
        found = [self.desk.finding("order", doing.id, *([end] if end else [])) for end in ends]
        amiss = any(f is not None and f.verdict == "fails" for f in found)
        following = next((d.id for d in self.desk.figure.order if not d.done), "")

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            ink = "verm" if amiss else "indigo" if doing.id == following else "brass"
            style = "" if doing.done or doing.id == following else "dash"
            kit.line(u(16), y - u(12), u(16), y + u(12), "brass", 1.4)
            kit.circle(u(16), y, u(9), "brass_f" if doing.done and not amiss else "card", ink, 1.6, style)
            kit.text(u(16), y, str(k + 1), 11, 600, "eye" if doing.done and not amiss else "ink", "c")
            mark = {"measure": "measured", "wear": "worn"}.get(doing.kind, "")
            right = " · ".join(
                w
                for w in (
                    mark,
                    "for good" if doing.for_good else "",
                    "helper" if doing.helper else "",
                    f"{doing.minutes:g} min",
                )
                if w
            )
            room = width - u(40) - kit.width(right, 12) - u(16)
            kit.text(
                u(32),
                y,
                kit.short(doing.name, room, 13, 600 if on else 400),
                13,
                600 if on else 400,
                "verm" if amiss else "indigo" if on else "ink",
            )
            kit.text(width - u(6), y, right, 12, 400, "ink2", "r")

        return Row(
            Ref("doing", doing.id),
            f"{k + 1}, {doing.name}{', done' if doing.done else ''}{', amiss' if amiss else ''}",
            paint,
            25,
        )

    def _gap(self, finding: Finding) -> Row:
        """A pair that comes near, or what is said of all."""
        told = finding.sentence.show(self.desk.units)

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            kit.line(0, y - u(12), width, y - u(12), "hair")
            tumbler(kit, u(10), y - 1, u(14), finding.verdict)
            weight, ink = (600, "indigo") if on else (400, "ink")
            kit.text(u(24), y, kit.short(told, width - u(32), 13, weight), 13, weight, ink)

        return Row(Ref("room", finding.id), f"{told}, {finding.verdict}", paint, 25)

    def _row(self, chain: Chain) -> Row:
        finding = self.desk.finding("fits", chain.id)
        verdict = finding.verdict if finding is not None else "not yet judged"

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            kit.line(0, y - u(12), width, y - u(12), "hair")
            tumbler(kit, u(10), y - 1, u(14), verdict)
            number = (
                show_reserve(finding.reserve)
                if finding is not None and finding.reserve is not None and math.isfinite(finding.reserve)
                else ""
            )
            kit.text(width - u(6), y, number, 13, 700, VERDICT[verdict][0], "r")
            kit.text(
                u(24),
                y,
                kit.short(chain.name, width - u(76), 13, 600 if on else 400),
                13,
                600 if on else 400,
                "indigo" if on else "ink",
            )

        return Row(Ref("chain", chain.id), f"{chain.name}, {verdict}", paint, 25)

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        wide = min(u(300), round(w * 0.34))
        size = self.add.sizeHint()
        self.add.setGeometry(u(12), u(40), min(size.width(), wide), u(28))
        third = round((h - u(84)) * 0.32)
        self.list.setGeometry(u(8), u(76), wide, max(third, 1))
        self.half = u(76) + third + u(8)
        size = self.step.sizeHint()
        self.step.setGeometry(u(8) + wide - size.width(), self.half, size.width(), size.height())
        top = self.half + size.height() + u(4)
        self.order.setGeometry(u(8), top, wide, max(third - size.height(), 1))
        self.low = self.half + third + u(12)
        self.room.setGeometry(u(8), self.low + u(26), wide, max(h - self.low - u(34), 1))
        size = self.look.sizeHint()
        self.look.setGeometry(u(8), self.low + u(32), min(size.width(), wide), size.height())
        self.section.setGeometry(wide + u(20), u(44), max(w - wide - u(30), 1), max(h - u(52), 1))
        self.view.setGeometry(wide + u(20), u(44), max(w - wide - u(30), 1), max(h - u(52), 1))

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        self.draw_head(kit)
        if not self.desk.figure.chains:
            kit.text(u(16), u(100), "None yet.", 13, 400, "ink2")
        wide = min(u(300), round(self.width() * 0.34))
        kit.text(u(16), self.half + u(20), "Order", 13, 600)
        kit.line(u(8), self.low, u(8) + wide, self.low, "hair")
        kit.text(u(16), self.low + u(14), "Room", 13, 600)
        if not self.desk.figure.order:
            kit.text(u(16), self.half + u(60), "What goes on after what,", 13, 400, "ink2")
            kit.text(u(16), self.half + u(78), "and what cannot be reached then.", 13, 400, "ink2")
        kit.line(wide + u(14), u(44), wide + u(14), self.height() - u(10), "hair")
        broken = sum(
            1
            for chain in self.desk.figure.chains
            if (f := self.desk.finding("fits", chain.id)) is not None and f.verdict == "fails"
        )
        if broken:
            kit.text(
                self.width() - u(12),
                u(21),
                self.desk.show(Quantity(float(broken), "count")) + " will not fit",
                12,
                400,
                "verm",
                "r",
            )
