"""Figure: every part, what it weighs, and the joint it rides on."""

from __future__ import annotations

import weakref

from PyQt6.QtWidgets import QWidget

from karakuri.checks.masses import weigh_next
from karakuri.model.ref import FIGURE, Ref
from karakuri.units import Quantity, show_number
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.figure_page import figure_page
from karakuri.workbench.benches.joint_page import joint_page
from karakuri.workbench.benches.joint_tree import JointTree
from karakuri.workbench.benches.pages import page_in_hand
from karakuri.workbench.benches.part_page import part_page
from karakuri.workbench.benches.parts_list import columns, head, rows
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import bob, origin
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.ledger import Ledger
from karakuri.workbench.widgets.poserule import PoseRule
from karakuri.workbench.widgets.tag import MARGIN, Tag


class FigureBench(Bench):
    title, question = "Figure", "Every part, what it weighs, and the joint it rides on."

    def __init__(self, desk: Desk, parent: QWidget, window) -> None:
        super().__init__(desk, parent)
        near = weakref.proxy(window)
        self.side = Elevation(desk, "side", self, labels=True)
        self.front = Elevation(desk, "front", self)
        self.joint_tree = JointTree(desk, self)
        self.ledger = Ledger(desk, "Parts and joints", self)
        self.rules: dict[str, PoseRule] = {}
        self.ledger.picked.connect(lambda key: desk.select(key if isinstance(key, Ref) else FIGURE))
        self.ledger.asked.connect(lambda _: near.focus_field("Name"))
        self.tags = [
            Tag(desk, words, self, action)
            for words, action in (
                ("New", window.filing.new),
                ("Open", window.filing.open),
                ("Save", window.filing.save),
                ("Save as", window.filing.save_as),
                ("Add a joint", window.making.joint),
                ("Add a part", window.making.part),
            )
        ]
        self.fold = Tag(desk, "Show the list", self, self._fold)
        self.folded = False
        self.ghosts: list[tuple[str, str]] = []
        self.listen(desk.changed, desk.looked)
        desk.studied.connect(self._judged)
        desk.selected.connect(self._select)
        self.refresh()

    def page(self) -> Page:
        ref = self.desk.subject
        if ref.kind == "part":
            return part_page(self.desk, ref.id)
        if ref.kind in ("joint", "drive"):
            return joint_page(self.desk, self.desk.joint_in_hand())
        return page_in_hand(self.desk) or figure_page(self.desk)

    def _fold(self) -> None:
        self.folded = not self.folded
        self._place()

    def refresh(self) -> None:
        wanted = [joint.id for joint in self.desk.figure.joints]
        if list(self.rules) != wanted:
            for rule in self.rules.values():
                rule.hide()
                rule.deleteLater()
            self.rules = {ident: PoseRule(self.desk, ident, self) for ident in wanted}
        self.ledger.show_rows(rows(self.desk, self.desk.tree()), self._key())
        self._place()
        self._judged()

    def _judged(self) -> None:
        """What this page itself draws rests on the study: the foot of the list. The rest are widgets of their own."""
        x, _, w = self.list_box
        foot = self.ledger.y() + self.ledger.height()
        self.update(int(x), foot, int(w) + 1, self.height() - foot)

    def _key(self) -> Ref:
        return self.desk.subject

    def _select(self) -> None:
        self.ledger.show_rows(self.ledger.rows, self._key())
        self.ledger.reveal()
        for rule in self.rules.values():
            rule.update()
        self.update()

    def narrow(self) -> bool:
        return self.width() < self.u(860)

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        x = w - u(12)
        for tag in reversed(self.tags):
            size = tag.sizeHint()
            x -= size.width() - MARGIN
            tag.setGeometry(x, u(20) - size.height() // 2, size.width(), size.height())
        self.tags_left = x
        narrow = self.narrow()
        left_end = w - u(12) if narrow else round(u(16) + (w - u(28)) * 0.465)
        top = u(40)
        show_list = not narrow or self.folded
        show_drawings = not narrow or not self.folded
        size = self.fold.sizeHint()
        self.fold.setVisible(narrow)
        self.fold.set_label("Show the drawings" if self.folded else "Show the list")
        self.fold.setGeometry(u(76), u(20) - size.height() // 2, size.width(), size.height())
        tall = h - top - u(8)
        side_h = round(tall * 0.47)
        low_h = round(tall * 0.29)
        if narrow:
            low_h = min(max(low_h, len(self.rules) * u(20)), tall - side_h - u(6))
        rule_h = max(u(19), min(u(26), low_h // max(1, len(self.rules))))
        self.side.setGeometry(u(16), top, left_end - u(16), side_h)
        half = (left_end - u(16)) * 0.46
        self.front.setGeometry(u(16), top + side_h + u(6), round(half), low_h)
        fits = low_h // rule_h
        for i, rule in enumerate(self.rules.values()):
            rule.setGeometry(
                round(u(16) + half + u(8)), top + side_h + u(6) + i * rule_h, round(left_end - u(24) - half), rule_h
            )
            rule.setVisible(show_drawings and i < fits)
        self.joint_tree.setGeometry(
            u(16), top + side_h + low_h + u(12), left_end - u(16), h - (top + side_h + low_h + u(12)) - u(6)
        )
        for widget in (self.side, self.front):
            widget.setVisible(show_drawings)
        self.joint_tree.setVisible(show_drawings and self.joint_tree.height() > u(70))
        list_x = u(16) if narrow else left_end + u(22)
        self.list_box = (list_x, top, w - u(12) - list_x)
        weigh = u(98)
        self.ledger.setGeometry(list_x, top + u(20), w - u(12) - list_x, h - top - u(26) - weigh)
        self.ledger.resize(self.ledger.width(), min(self.ledger.height(), self.ledger.content()))
        self.ledger.setVisible(show_list)

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        x = kit.text(u(16), u(20), self.title, 18, 600) + u(14)
        if x + kit.width(self.question, 13) < self.tags_left - u(8) and not self.narrow():
            kit.text(x, u(21), self.question, 13, 400, "ink2")
        x, y, w = self.list_box
        if self.ledger.isVisible():
            if not self.narrow():
                kit.line(x - u(11.5), y, x - u(11.5), self.height() - u(6), "hair")
            kit.p.save()
            kit.p.translate(x, 0)
            head(kit, y + u(9), w, self.desk.units.unit("mass").label)
            kit.p.restore()
            self._weigh(kit, x, self.ledger.y() + min(self.ledger.height(), self.ledger.content()) + u(8), w)

    def _weigh(self, kit: Kit, x: float, y: float, w: float) -> None:
        u, study = kit.u, self.desk.study
        end = kit.text(x, y + u(4), "Weigh these three next", 12, 600, "brass")
        kit.line(end + u(8), y + u(4.5), x + w, y + u(4.5), "hair")
        y += u(21)
        judged = [r for r in study.results.joints if r.can is not None] if study else []
        worst = min(judged, key=lambda r: r.can.continuous / max(r.hold.need, 1e-9), default=None)
        weigh = weigh_next(worst, study.results) if worst is not None else ()
        if not weigh:
            words = (
                "Every mass that counts is weighed."
                if worst is not None
                else "Waits for a joint with a servo and a part on it."
            )
            kit.text(x, y, words, 12, 400, "ink2")
            y += u(18)
        c = columns(kit, w)
        for row in weigh:
            bob(kit, x + u(8), y - u(8), u(14))
            kit.text(x + u(20), y, row.name, 12, 600)
            written = row.derivation.show(self.desk.units).split(" =")[0]
            if kit.width(row.name, 12, 600) + u(34) + kit.width(written, 12) < c["g"] - u(40):
                kit.text(x + u(34) + kit.width(row.name, 12, 600), y, written, 12, 400, "ink2")
            number = "± " + show_number(Quantity(row.takes_off, "torque", rounding="up"), self.desk.units)
            kit.text(x + c["g"] + u(18), y, number, 12, 600, "brass", "r")
            kit.text(x + c["g"] + u(22), y, self.desk.units.unit("torque").label, 12, 400, "ink2")
            bar = x + c["g"] + u(62)
            kit.line(bar, y, x + w, y, "rule")
            kit.line(bar, y, bar + (x + w - bar) * row.takes_off / weigh[0].takes_off, y, "brass_f", 5)
            y += u(18)
        x0 = x
        if worst is not None and weigh:
            total = Quantity(worst.hold.high - worst.hold.need, "torque", rounding="up")
            x0 = kit.text(
                x, y + u(3), f"all masses: ± {self.desk.show(total)} on {worst.joint.name}", 12, 400, "ink2"
            ) + u(24)
        there = {part.mass_origin for part in self.desk.figure.parts}
        for kind in ("guess", "typical", "slicer", "data sheet", "weighed"):
            if kind not in there:
                continue
            if x0 + u(18) + kit.width(kind, 12) > x + w:
                break
            origin(kit, x0 + u(6), y + u(3), kind)
            x0 = kit.text(x0 + u(16), y + u(3), kind, 12, 400, "ink2") + u(16)
