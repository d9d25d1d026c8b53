"""Drive: what each servo can do against what is asked of it."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QWidget

from karakuri.actuators.servo import Ability, ability
from karakuri.catalogue import servo_classes
from karakuri.model.edits import fit_servo
from karakuri.model.finding import show_reserve
from karakuri.sizing.candidates import Candidate, candidates
from karakuri.units import Quantity, show_number
from karakuri.workbench.benches.bench import CAUTION, Bench
from karakuri.workbench.benches.drive_page import drive_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.items import Note, Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.sheet import Sheet
from karakuri.workbench.widgets.tag import MARGIN, Choice, Tag


def joint_choice(desk: Desk, parent: QWidget) -> Choice:
    """The joint in hand, by name, on the benches that are about one joint."""
    return Choice(desk, "Joint", lambda: [(j.id, j.name) for j in desk.figure.joints], lambda key: desk.select("joint", key), parent)


class TorqueSpeed(Sheet):
    """The line of the fitted servo with its held and passing zones, and what the joint asks: worst hold, wanted move."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Speed against torque", parent)
        self.results, self.others = None, []

    def show_joint(self, results, others: list[Candidate]) -> None:
        self.results, self.others = results, others
        if results is not None:
            held = self.desk.show(Quantity(results.can.held, "torque")) if results.can else "no servo"
            self.setAccessibleName(f"Speed against torque of {results.joint.name}: holds {held} for long, needs "
                                   f"{self.desk.show(Quantity(results.hold.need, 'torque'))}")
        self.update()

    def _nice(self, most: float) -> float:
        if most <= 0:
            return 1.0
        step = 10 ** math.floor(math.log10(most))
        return next(step * k for k in (1, 1.5, 2, 3, 4, 5, 6, 8, 10) if step * k >= most)

    def draw(self, kit: Kit) -> None:
        u, r = kit.u, self.results
        kit.text(u(4), u(9), "Speed against torque, at the joint", 13, 600)
        if r is None:
            kit.lines(u(4), u(40), "Waits for a driven joint that turns.", self.width() - u(8), 13, 400, "ink2")
            return
        units = self.desk.units
        tq, sp = units.unit("torque"), units.unit("speed")
        servos = [c.can for c in self.others[:2]] + ([r.can] if r.can else [])
        most_t = self._nice(max([r.hold.need, *(c.usable for c in servos), r.move.torque if r.move else 0, 1e-4]) * 1.05 / tq.si)
        most_s = self._nice(max([*(c.free_speed for c in servos), r.move.speed if r.move else 0, 1.0]) * 1.1 / sp.si)
        gx0, gx1, gy0, gy1 = u(48), self.width() - u(16), u(30), self.height() - u(34)

        def fx(torque: float) -> float:
            return gx0 + min(torque / tq.si, most_t) / most_t * (gx1 - gx0)

        def fy(speed: float) -> float:
            return gy1 - min(speed / sp.si, most_s) / most_s * (gy1 - gy0)

        if r.can:
            self._zones(kit, r.can, fx, fy, gx0, gy1)
        for i in range(5):
            value = most_t * i / 4
            kit.text(gx0 + (gx1 - gx0) * i / 4, gy1 + u(13), f"{value:.3g}", 12, 400, "ink2", "c")
            value = most_s * i / 4
            kit.text(gx0 - u(7), gy1 - (gy1 - gy0) * i / 4, f"{value:.4g}", 12, 400, "ink2", "r")
            kit.line(gx0, gy1 - (gy1 - gy0) * i / 4, gx1, gy1 - (gy1 - gy0) * i / 4, "hair", 1, "dot")
        kit.line(gx0, gy0, gx0, gy1, "rule")
        kit.line(gx0, gy1, gx1, gy1, "rule")
        kit.text(gx1, gy1 + u(27), f"torque, {tq.label}", 12, 400, "ink3", "r")
        kit.text(gx0 + u(6), gy0 - u(4), sp.label, 12, 400, "ink3")
        taken: list[tuple[float, float, float, float]] = []
        for c, colour, style in zip(self.others[:2], ("asagi", "plum"), ("dash", "chain"), strict=False):
            kit.pen(colour, 1.6, style)
            kit.line(fx(0), fy(c.can.free_speed), fx(c.can.usable), gy1, colour, 1.6, style)
            kit.line(fx(c.can.held), fy(c.can.speed_at(c.can.held)), fx(c.can.held), gy1, colour, 1.6, style)
            self._label(kit, taken, fx(c.can.held) + u(6), fy(c.can.speed_at(c.can.held)) + u(12), c.servo.name.split(",")[0], colour)
        if r.can:
            kit.line(fx(0), fy(r.can.free_speed), fx(r.can.usable), gy1, "indigo", 2.2)
            for torque in (r.can.held, r.can.passing):
                kit.line(fx(torque), fy(r.can.speed_at(torque)), fx(torque), gy1, "indigo", 2 if torque == r.can.held else 1.2)
            self._label(kit, taken, fx(0) + u(14), fy(r.can.free_speed) + u(2), "fitted", "indigo")
            self._label(kit, taken, fx(r.can.held) - u(6), gy1 - u(12), f"held for long {show_number(Quantity(r.can.held, 'torque', rounding='down'), units)}",
                        "indigo", "moss_t" if fx(r.can.held) - gx0 > u(130) else "paper", "r" if fx(r.can.held) - gx0 > u(130) else "l")
            self._label(kit, taken, fx(r.can.passing) + u(5), gy1 - u(30), "in passing", "indigo")
            self._label(kit, taken, fx(r.can.usable) - u(4), gy1 - u(48), "stall", "indigo")
        self._points(kit, r, fx, fy, taken)

    def _zones(self, kit: Kit, can: Ability, fx, fy, gx0: float, gy1: float) -> None:
        held = Kit.path([(gx0, fy(can.free_speed)), (fx(can.held), fy(can.speed_at(can.held))), (fx(can.held), gy1), (gx0, gy1)], True)
        kit.draw(held, "moss_t", None)
        short = Kit.path([(fx(can.held), fy(can.speed_at(can.held))), (fx(can.passing), fy(can.speed_at(can.passing))), (fx(can.passing), gy1),
                          (fx(can.held), gy1)], True)
        kit.draw(short, "ochre_t", None)
        kit.hatch(short, "ochre_f", 6, 1, 60)

    def _label(self, kit: Kit, taken: list, x: float, y: float, text: str, colour: str, ground: str = "paper", align: str = "l") -> None:
        """A label where there is room; the least needed are dropped."""
        wide, half = kit.width(text, 12, 600), kit.u(9)
        left = x if align == "l" else x - wide
        if left + wide > self.width() - 4:
            left = self.width() - 4 - wide
        for shift in (0, -20, 20, -40, 40, -60):
            yy = y + kit.u(shift)
            box = (left - 4, yy - half, left + wide + 4, yy + half)
            free = all(box[2] < b[0] or box[0] > b[2] or box[3] < b[1] or box[1] > b[3] for b in taken)
            if free and kit.u(24) < yy < self.height() - kit.u(42):
                taken.append(box)
                kit.text(left, yy, text, 12, 600, colour, "l", ground)
                return

    def _points(self, kit: Kit, r, fx, fy, taken: list) -> None:
        u = kit.u
        points = [(r.hold.need, 0.0, "worst hold")]
        if r.move is not None:
            points.append((r.move.torque, r.move.speed, "wanted move, a bound"))
        for torque, speed, words in points:
            x, y = fx(torque), fy(speed)
            can = r.can
            state = "holds" if can and torque <= can.held and speed <= can.speed_at(torque) else \
                "tight" if can and torque <= can.passing and speed <= can.speed_at(torque) and speed > 0 else "fails"
            if can is None:
                kit.circle(x, y, u(5), "card", "ink2", 1.6, "dash")
            elif state == "holds":
                kit.circle(x, y, u(5), "moss")
            elif state == "tight":
                kit.circle(x, y, u(5), "card", "ochre", 2)
            else:
                kit.draw(Kit.path([(x, y - u(7)), (x + u(6), y + u(5)), (x - u(6), y + u(5))], True), "verm", "card", 0.7)
            ink = VERDICT[state][0] if can else "ink2"
            self._label(kit, taken, x + u(10), y - u(14), words, ink)


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
        self.rows: tuple[Candidate, ...] = ()
        for signal in (desk.studied, desk.selected, desk.looked, desk.changed):
            signal.connect(self.refresh)
        self.refresh()

    def page(self) -> Page:
        ident = self.desk.joint_in_hand()
        if not ident:
            return Page("Drive", "no joint yet", (Note("n", "A joint comes first: Figure bench, Ctrl+J."), Note("c", CAUTION, True)), ("drive", ""))
        return drive_page(self.desk, ident)

    def results(self):
        study, ident = self.desk.study, self.desk.joint_in_hand()
        if study is None:
            return None
        return next((r for r in study.results.joints if r.joint.id == ident), None)

    def refresh(self) -> None:
        r = self.results()
        ident = self.desk.joint_in_hand()
        self.joint.show_value(self.desk.figure.joint(ident).name if ident else "none yet")
        self.rows = self._candidates(r) if r is not None else ()
        fitted = next((c for c in self.rows if c.fitted), None)
        better = [c for c in self.rows if not c.fitted and c.verdict != "fails"]
        self.plot.show_joint(r, better[:2])
        names = [("class", c.servo.name) for c in self.rows]
        current = self.table.current if self.table.current in names else (("class", fitted.servo.name) if fitted else (names[0] if names else None))
        self.table.show_rows([self._row(i, c) for i, c in enumerate(self.rows)], current)
        self._name_fit()
        self._place()
        self.update()

    def _name_fit(self) -> None:
        chosen = next((c for c in self.rows if ("class", c.servo.name) == self.table.current), None)
        self.fit.setEnabled(chosen is not None and not chosen.fitted)
        self.fit.set_label(f"Fit {chosen.servo.name.split(',')[0]}" if chosen and not chosen.fitted else "Fit this class")
        self._place()

    def _candidates(self, r) -> tuple[Candidate, ...]:
        figure, study = self.desk.figure, self.desk.study
        drive = figure.drive_of(r.joint.id)
        tree = study.results.tree
        body = next((i for i, b in enumerate(tree.bodies) if drive is not None and b.id == drive.id), None)
        levers = []
        for other in study.results.joints:
            row = next((s for s in other.hold.shares if s[0] == body), None)
            if row is not None and body is not None and tree.bodies[body].mass > 0:
                levers.append((other.joint.name, row[1] / tree.bodies[body].mass))
        return candidates(servo_classes(), r.joint, r.hold.need, r.inertia, figure.supply.voltage_V, figure.assumptions,
                          drive.actuator if drive else None, tuple(levers))

    def _fit(self, key) -> None:
        servo = next((c.servo for c in self.rows if key == ("class", c.servo.name)), None)
        if servo is not None:
            self.desk.edit(fit_servo(self.desk.figure, self.desk.joint_in_hand(), servo))

    def _cols(self, width: float) -> dict[str, float]:
        u = self.u
        return {"name": u(26), "mark": max(u(240), width * 0.27), "bar": max(u(330), width * 0.38), "holds": max(u(486), width * 0.57),
                "speed": max(u(552), width * 0.645), "mass": max(u(604), width * 0.705), "amps": max(u(654), width * 0.765), "note": max(u(668), width * 0.78)}

    def _row(self, i: int, c: Candidate) -> Row:
        units, u = self.desk.units, self.u

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            k = self._cols(width)
            ink = VERDICT[c.verdict][0]
            weight = 600 if c.fitted or on else 400
            kit.line(0, y - u(12), width, y - u(12), "hair")
            kit.text(u(8), y, str(i + 1), 12, 600, "brass")
            words = c.servo.name
            while kit.width(words, 13, weight) > k["mark"] - k["name"] - u(6) and " " in words:
                words = words.rsplit(" ", 1)[0].rstrip(",")
            kit.text(k["name"], y, words, 13, weight, "indigo" if c.fitted else "ink")
            tumbler(kit, k["mark"] + u(8), y - 1, u(16), c.verdict)
            kit.text(k["mark"] + u(20), y, c.verdict, 12, 600, ink)
            kit.text(k["bar"] - u(6), y, show_reserve(c.reserve), 13, 700, ink, "r")
            wide = k["holds"] - k["bar"] - u(48)
            kit.line(k["bar"], y, k["bar"] + wide, y, "hair", 5)
            kit.line(k["bar"], y, k["bar"] + wide * min(1.0, c.reserve / 2.5), y, ink, 5)
            for tick in (1.0, self.desk.figure.assumptions.wished_margin):
                kit.line(k["bar"] + wide * tick / 2.5, y - u(6), k["bar"] + wide * tick / 2.5, y + u(6), "ink", 1.2)
            for key, q in (("holds", Quantity(c.can.held, "torque", rounding="down")), ("speed", Quantity(c.can.free_speed, "speed")),
                           ("mass", Quantity(c.servo.mass_g / 1e3, "mass")), ("amps", Quantity(c.servo.stall_current_A, "current"))):
                kit.text(k[key], y, show_number(q, units), 13, 400, "ink", "r")
            note = "fitted now" if c.fitted else c.reason or self._pays(c)
            while kit.width(note, 12, 600 if c.fitted else 400) > width - k["note"] - u(4) and " " in note:
                note = note.rsplit(" ", 1)[0].rstrip(",:")
            kit.text(k["note"], y, note, 12, 600 if c.fitted else 400, "indigo" if c.fitted else "ink2")

        spoken = f"{c.servo.name}, {c.verdict} {show_reserve(c.reserve)}, {'fitted now' if c.fitted else c.reason or self._pays(c)}"
        return Row(("class", c.servo.name), spoken, paint, 24)

    def _pays(self, c: Candidate) -> str:
        """What a heavier servo does to the joints below."""
        if not c.lower:
            return "costs no joint below" if not c.fitted else ""
        name, extra = max(c.lower, key=lambda row: abs(row[1]))
        return f"{name} {'+' if extra > 0 else '−'}{self.desk.show(Quantity(abs(extra), 'torque'))}"

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        size = self.joint.sizeHint()
        self.joint.setGeometry(u(70), u(6), size.width(), u(28))
        plot_h = round((h - u(48)) * 0.46)
        self.plot.setGeometry(u(16), u(42), w - u(28), plot_h)
        top = u(42) + plot_h + u(8)
        self.table_top = top
        self.table.setGeometry(u(8), top + u(40), w - u(16), h - top - u(46))
        size = self.fit.sizeHint()
        self.fit.setGeometry(w - u(8) - size.width(), top - MARGIN, size.width(), size.height())

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        kit.text(u(16), u(20), "Drive", 18, 600)
        x = self.joint.x() + self.joint.width() + u(8)
        drive = self.desk.figure.drive_of(self.desk.joint_in_hand()) if self.desk.joint_in_hand() else None
        words = drive.actuator.name if drive else "no servo yet"
        volts = f"supply {self.desk.show(Quantity(self.desk.figure.supply.voltage_V, 'voltage'))}"
        kit.text(x, u(21), words, 13, 400, "ink2")
        if x + kit.width(words, 13) + u(30) < w - kit.width(volts, 12):
            kit.text(w - u(12), u(21), volts, 12, 400, "ink3", "r")
        top = self.table_top
        kit.line(u(16), top + 0.5, w - u(12), top + 0.5, "rule")
        kit.text(u(16), top + u(15), "Candidates: the smallest that holds first", 13, 600)
        if not self.rows:
            kit.text(u(16), top + u(50), "Waits for a joint that turns and for what rides on it.", 13, 400, "ink2")
            return
        k = self._cols(self.table.width())
        left = self.table.x()
        units = self.desk.units
        for key, words, align in (("name", "servo class", "l"), ("mark", "reserve, worst hold", "l"), ("holds", f"holds, {units.unit('torque').label}", "r"),
                                  ("speed", "°/s", "r"), ("mass", units.unit("mass").label, "r"), ("amps", "A", "r"), ("note", "why, or who pays", "l")):
            kit.text(left + k[key], top + u(32), words, 12, 400, "ink3", align)
