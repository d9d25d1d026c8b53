"""Balance: what each joint must carry, and what would carry it with less."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.model.ref import FIGURE, Ref, RefKind
from karakuri.units import Quantity, show_number
from karakuri.workbench.benches.balance_page import balance_page
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.drive import joint_choice
from karakuri.workbench.benches.moment_curve import MomentCurve
from karakuri.workbench.benches.pages import page_in_hand
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.stage.letters import LETTERS
from karakuri.workbench.stage.strung import strung_mark
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.ledger import Ledger, Row


class BalanceBench(Bench):
    title, question = "Balance", "What each joint must carry, and what would carry it with less."

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.joint = joint_choice(desk, self)
        self.masses = Ledger(desk, "Masses", self)
        self.masses.picked.connect(
            lambda ref: desk.select(ref) if ref.kind in ("part", "element", "rod", "fastening", "wearer") else None
        )
        self.side = Elevation(desk, "side", self, bobs=True)
        self.front = Elevation(desk, "front", self, bobs=True)
        self.curve = MomentCurve(desk, self)
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        return page_in_hand(self.desk) or balance_page(self.desk, self.desk.joint_in_hand())

    def refresh(self) -> None:
        ident = self.desk.joint_in_hand()
        self.joint.show_value(self.desk.figure.joint(ident).name if ident else "none yet")
        self.masses.show_rows(self._rows(), Ref(self.desk.subject.kind, self.desk.subject.id))
        if self.desk.subject.kind in ("part", "element", "rod", "fastening", "wearer"):
            self.masses.reveal()
        self._place()
        self.update()

    def _rows(self) -> list[Row]:
        tree = self.desk.tree()
        bodies = [b for b in tree.bodies if b.kind == "part"]
        out = [self._row(b.ref, LETTERS[i % 26], b.name, b.mass, "indigo") for i, b in enumerate(bodies)]
        servos = sum(b.mass for b in tree.bodies if b.kind == "servo")
        if servos:
            out.append(self._row(Ref("drive"), "", "servos, all", servos, "ink"))
        out.append(self._row(FIGURE, "", "whole figure", float(tree.mass.sum()), "ink", True))
        out += [
            self._strung(
                {"cord": "cords", "actuator": "actuators"}.get(e.kind, "elements"), "element", e.id, e.name, e.kind
            )
            for e in self.desk.figure.elements
        ]
        if self.desk.figure.base.held == "worn":
            out.append(self._strung("worn", "wearer", "", "who wears it", "wearer"))
        out += [self._strung("rods", "rod", rod.id, rod.name, "rod") for rod in self.desk.figure.rods]
        out += [
            self._strung("fastened", "fastening", each.id, each.name, "fastening")
            for each in self.desk.figure.fastenings
        ]
        for i, site in enumerate(self.desk.figure.ballast_sites):
            out.append(
                self._row(
                    Ref("ballast_site", site.id), LETTERS[i].upper(), f"{site.name}, up to", site.most_g / 1e3, "moss"
                )
            )
        return out

    def _row(self, key, letter: str, name: str, mass: float, ink: str, strong: bool = False) -> Row:
        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            number = show_number(Quantity(mass, "mass"), self.desk.units)
            if strong:
                kit.line(0, y - u(9), width, y - u(9), "hair")
            kit.text(u(6), y, letter, 12, 700 if ink == "moss" else 600, ink)
            room = width - u(32) - kit.width(number, 13, 600)
            words = kit.short(name, room, 12, 600 if strong or on else 400)
            kit.text(u(20), y, words, 12, 600 if strong or on else 400, "indigo" if on else "ink")
            kit.text(width - u(6), y, number, 13, 600 if strong else 400, "ink", "r")

        return Row(key, f"{letter} {name} {self.desk.show(Quantity(mass, 'mass'))}", paint, 17.5)

    def _strung(self, rule: str, what: RefKind, ident: str, name: str, kind: str) -> Row:
        """A spring and its like, or a rod: its name and verdict."""
        finding = self.desk.finding(rule, *([ident] if ident else []))

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            strung_mark(kit, kind, u(4), y, u(12))
            words = kit.short(name, width - u(42), 12, 600 if on else 400)
            kit.text(u(20), y, words, 12, 600 if on else 400, "indigo" if on else "ink")
            if finding is not None:
                tumbler(kit, width - u(12), y - 1, u(13), finding.verdict)

        said = f"{name}, {finding.verdict}" if finding is not None else name
        return Row(Ref(what, ident), said, paint, 17.5)

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        size = self.joint.sizeHint()
        self.joint.setGeometry(u(96), u(6), size.width(), u(28))
        top, low = u(40), round(h * 0.58)
        narrow = w < u(760)
        list_w = u(150)
        self.masses.setGeometry(u(12), top + u(18), list_w, low - top - u(22))
        self.masses.setVisible(not narrow)
        left = u(16) if narrow else u(12) + list_w + u(10)
        wide = w - left - u(12)
        self.side.setGeometry(left, top, round(wide * 0.54), low - top)
        self.front.setGeometry(left + round(wide * 0.54) + u(8), top, wide - round(wide * 0.54) - u(8), low - top)
        self.curve.setGeometry(u(16), low + u(4), w - u(28), h - low - u(8))

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        kit.text(u(16), u(20), "Balance", 18, 600)
        x = self.joint.x() + self.joint.width() + u(8)
        if x + kit.width(self.question, 13) < self.width() - u(10):
            kit.text(x, u(21), self.question, 13, 400, "ink2")
        if self.masses.isVisible():
            kit.text(u(16), u(48), "Masses", 12, 600, "brass")
            kit.text(
                self.masses.x() + self.masses.width() - u(6),
                u(48),
                self.desk.units.unit("mass").label,
                12,
                400,
                "ink3",
                "r",
            )
