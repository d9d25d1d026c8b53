"""Drive: what each servo can do against what is asked of it."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.catalogue import servo_classes
from karakuri.model.edits import fit_servo
from karakuri.model.element import About
from karakuri.model.finding import show_reserve
from karakuri.model.ref import Ref
from karakuri.sizing.candidates import Candidate, candidates, levers
from karakuri.units import Quantity, show_number
from karakuri.workbench.benches.bench import CAUTION, Bench
from karakuri.workbench.benches.drive_page import drive_page
from karakuri.workbench.benches.element_page import element_page
from karakuri.workbench.benches.linkage_view import LinkageView, drive_in_hand, shares_in_hand
from karakuri.workbench.benches.mechanism import MechanismChart, mechanism_in_hand
from karakuri.workbench.benches.torque_speed import TorqueSpeed
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.items import Note, Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.tag import MARGIN, Choice, Tag


def joint_choice(desk: Desk, parent: QWidget) -> Choice:
    """The joint in hand, by name, on the benches that are about one joint."""
    return Choice(
        desk,
        "Joint",
        lambda: [(j.id, j.name) for j in desk.figure.joints],
        lambda key: desk.select(Ref("joint", key)),
        parent,
    )


class DriveBench(Bench):
    title, question = "Drive", "What each servo can do, against what is asked of it."

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.joint = joint_choice(desk, self)
        self.plot = TorqueSpeed(desk, self)
        self.table = Ledger(desk, "Candidates", self)
        self.table.asked.connect(self._fit)
        self.table.picked.connect(lambda _: self._name_fit())
        self.fit = Tag(desk, "Fit this class", self, lambda: self._fit(self.table.current))
        self.side = Elevation(desk, "side", self, close=True)
        self.front = Elevation(desk, "front", self, close=True)
        self.chart = MechanismChart(desk, self)
        self.linkage = LinkageView(desk, self)
        self.rows: tuple[Candidate, ...] = ()
        self.shown_joint = ""
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        ident = self.desk.joint_in_hand()
        mechanism = mechanism_in_hand(self.desk)
        if mechanism is not None:
            return element_page(self.desk, mechanism.id)
        if not ident:
            return Page(
                "Drive",
                "no joint yet",
                (Note("n", "A joint comes first: Figure bench, Ctrl+J."), Note("c", CAUTION, True)),
                ("drive", ""),
            )
        return drive_page(self.desk, ident)

    def results(self):
        study, ident = self.desk.study, self.desk.joint_in_hand()
        if study is None:
            return None
        return next((r for r in study.results.joints if r.joint.id == ident), None)

    def refresh(self) -> None:
        r = self.results()
        ident = self.desk.joint_in_hand()
        held = mechanism_in_hand(self.desk)
        about = held.joint if isinstance(held, About) else ident
        self.joint.show_value(self.desk.figure.joint(about).name if about else "none yet")
        self.rows = self._candidates(r) if r is not None and not r.opens else ()
        fitted = next((c for c in self.rows if c.fitted), None)
        better = [c for c in self.rows if not c.fitted and c.verdict != "fails"]
        self.plot.show_joint(r, better[:2])
        names = [("class", c.servo.name) for c in self.rows]
        fitted_key = ("class", fitted.servo.name) if fitted else (names[0] if names else None)
        kept = self.table.current if ident == self.shown_joint and self.table.current in names else fitted_key
        self.shown_joint = ident
        self.table.show_rows([self._row(i, c) for i, c in enumerate(self.rows)], kept)
        self._name_fit()
        self._place()
        self.update()

    def _name_fit(self) -> None:
        chosen = next((c for c in self.rows if ("class", c.servo.name) == self.table.current), None)
        self.fit.setEnabled(chosen is not None and not chosen.fitted)
        self.fit.set_label(
            f"Fit {chosen.servo.name.split(',')[0]}" if chosen and not chosen.fitted else "Fit this class"
        )
        self._place()

    def _candidates(self, r) -> tuple[Candidate, ...]:
        figure, study = self.desk.figure, self.desk.study
        drive = figure.drive_of(r.joint.id)
        holds = [(other.joint.name, other.hold) for other in study.results.joints]
        felt = levers(study.results.tree, holds, drive.id) if drive is not None else ()
        share = figure.assumptions.together_share
        servos = (*servo_classes(), *self.desk.drawer.servos())
        return candidates(
            tuple(drive.of(servo, share) for servo in servos) if drive is not None else servos,
            r.rubs,
            r.hold,
            r.placed,
            figure.supply.voltage_V,
            figure.assumptions,
            drive.acting(share) if drive else None,
            felt,
        )

    def _fit(self, key) -> None:
        name = next((c.servo.name for c in self.rows if key == ("class", c.servo.name)), "").removeprefix("2 × ")
        servo = next((s for s in (*servo_classes(), *self.desk.drawer.servos()) if s.name == name), None)
        if servo is not None:
            self.desk.edit(lambda: fit_servo(self.desk.figure, self.desk.joint_in_hand(), servo))

    def _waits(self) -> str:
        r = self.results()
        if r is not None and r.opens:
            return "Waits until its rod reaches all of the wanted range."
        return "Waits for a joint that turns and for what rides on it."

    def _cols(self, width: float) -> dict[str, float]:
        u = self.u
        return {
            "name": u(26),
            "mark": max(u(240), width * 0.27),
            "bar": max(u(330), width * 0.38),
            "holds": max(u(486), width * 0.57),
            "speed": max(u(552), width * 0.645),
            "mass": max(u(604), width * 0.705),
            "amps": max(u(654), width * 0.765),
            "note": max(u(668), width * 0.78),
        }

    def _row(self, i: int, c: Candidate) -> Row:
        units, u = self.desk.units, self.u

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            k = self._cols(width)
            ink = VERDICT[c.verdict][0]
            weight = 600 if c.fitted or on else 400
            kit.line(0, y - u(12), width, y - u(12), "hair")
            kit.text(u(8), y, str(i + 1), 12, 600, "brass")
            words = kit.short(c.servo.name, k["mark"] - k["name"] - u(6), 13, weight)
            kit.text(k["name"], y, words, 13, weight, "indigo" if c.fitted else "ink")
            tumbler(kit, k["mark"] + u(8), y - 1, u(16), c.verdict)
            kit.text(k["mark"] + u(20), y, c.verdict, 12, 600, ink)
            kit.text(k["bar"] - u(6), y, show_reserve(c.reserve), 13, 700, ink, "r")
            wide = k["holds"] - k["bar"] - u(48)
            kit.line(k["bar"], y, k["bar"] + wide, y, "hair", 5)
            kit.line(k["bar"], y, k["bar"] + wide * min(1.0, c.reserve / 2.5), y, ink, 5)
            for tick in (1.0, self.desk.figure.assumptions.wished_margin):
                kit.line(k["bar"] + wide * tick / 2.5, y - u(6), k["bar"] + wide * tick / 2.5, y + u(6), "ink", 1.2)
            for key, q in (
                ("holds", Quantity(c.can.continuous, "torque", rounding="down")),
                ("speed", Quantity(c.can.free_speed, "speed")),
                ("mass", Quantity(c.servo.mass_g / 1e3, "mass")),
                ("amps", Quantity(c.servo.stall_current_A, "current")),
            ):
                kit.text(k[key], y, show_number(q, units), 13, 400, "ink", "r")
            note = "fitted now" if c.fitted else c.reason or self._pays(c)
            note = kit.short(note, width - k["note"] - u(4), 12, 600 if c.fitted else 400)
            kit.text(k["note"], y, note, 12, 600 if c.fitted else 400, "indigo" if c.fitted else "ink2")

        spoken = f"{c.servo.name}, {c.verdict} {show_reserve(c.reserve)}, {'fitted now' if c.fitted else c.reason or self._pays(c)}"
        return Row(("class", c.servo.name), spoken, paint, 24)

    def _pays(self, c: Candidate) -> str:
        """What a heavier servo does to the joints below."""
        felt = [row for row in c.lower if abs(row[1]) > 0.01 * self._need_of(row[0])]
        if not felt:
            return "no joint below feels it"
        name, extra = max(felt, key=lambda row: abs(row[1]))
        return f"{name} {'+' if extra > 0 else '−'}{self.desk.show(Quantity(abs(extra), 'torque'))}"

    def _need_of(self, name: str) -> float:
        return next((r.hold.need for r in self.desk.study.results.joints if r.joint.name == name), 0.0)

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        size = self.joint.sizeHint()
        self.joint.setGeometry(u(70), u(6), size.width(), u(28))
        plot_h = round((h - u(48)) * 0.46)
        between = drive_in_hand(self.desk) is not None and mechanism_in_hand(self.desk) is None
        shared = between and shares_in_hand(self.desk)
        wide = round((w - u(28)) * (0.4 if shared else 0.56 if between else 1.0))
        self.plot.setGeometry(u(16), u(42), wide, plot_h)
        self.linkage.setGeometry(u(16) + wide + u(14), u(42), max(w - u(42) - wide, 1), plot_h)
        self.linkage.setVisible(between)
        top = u(42) + plot_h + u(8)
        self.table_top = top
        self.table.setGeometry(u(8), top + u(40), w - u(16), h - top - u(46))
        mechanism = mechanism_in_hand(self.desk) is not None
        across = mechanism and self._turns_across()
        for elevation in (self.side, self.front):
            elevation.setGeometry(u(16), u(42), w - u(28), plot_h)
        self.chart.setGeometry(u(16), top, w - u(28), h - top - u(6))
        for widget, shown in ((self.side, mechanism and not across), (self.front, across), (self.chart, mechanism), (self.plot, not mechanism), (self.fit, not mechanism)):  # fmt: skip
            widget.setVisible(shown)
        self.table.setVisible(bool(self.rows) and not mechanism)
        size = self.fit.sizeHint()
        self.fit.setGeometry(w - u(8) - size.width(), top - MARGIN, size.width(), size.height())

    def _turns_across(self) -> bool:
        """Whether what is in hand acts about a joint that turns in the plane of the front elevation."""
        held = mechanism_in_hand(self.desk)
        if not isinstance(held, About):
            return False
        x, y, z = (abs(each) for each in self.desk.figure.joint(held.joint).axis)
        return x > y and x > z

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        kit.text(u(16), u(20), "Drive", 18, 600)
        x = self.joint.x() + self.joint.width() + u(8)
        drive = self.desk.figure.drive_of(self.desk.joint_in_hand()) if self.desk.joint_in_hand() else None
        mechanism = mechanism_in_hand(self.desk)
        words = mechanism.name if mechanism else drive.acting(1.0).name if drive else "no servo yet"
        volts = f"supply {self.desk.show(Quantity(self.desk.figure.supply.voltage_V, 'voltage'))}"
        kit.text(x, u(21), words, 13, 400, "ink2")
        if x + kit.width(words, 13) + u(30) < w - kit.width(volts, 12):
            kit.text(w - u(12), u(21), volts, 12, 400, "ink3", "r")
        top = self.table_top
        if mechanism_in_hand(self.desk) is not None:
            return
        kit.line(u(16), top + 0.5, w - u(12), top + 0.5, "rule")
        kit.text(u(16), top + u(15), "Candidates: the smallest that holds first", 13, 600)
        if not self.rows:
            kit.text(u(16), top + u(50), self._waits(), 13, 400, "ink2")
            return
        k = self._cols(self.table.width())
        left = self.table.x()
        units = self.desk.units
        for key, words, align in (
            ("name", "servo class", "l"),
            ("mark", "reserve, worst hold", "l"),
            ("holds", f"holds, {units.unit('torque').label}", "r"),
            ("speed", "°/s", "r"),
            ("mass", units.unit("mass").label, "r"),
            ("amps", "A", "r"),
            ("note", "why, or who pays", "l"),
        ):
            kit.text(left + k[key], top + u(32), words, 12, 400, "ink3", align)
