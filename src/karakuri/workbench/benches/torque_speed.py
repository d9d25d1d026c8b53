"""The torque-speed picture of the joint in hand."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QWidget

from karakuri.actuators.servo import Capability
from karakuri.sizing.candidates import Candidate
from karakuri.units import Quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet


class TorqueSpeed(Sheet):
    """The line of the fitted servo with its held and passing zones, and what the joint asks: worst hold, wanted move."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Speed against torque", parent)
        self.results, self.others = None, []

    def show_joint(self, results, others: list[Candidate]) -> None:
        self.results, self.others = results, others
        if results is not None:
            held = self.desk.show(Quantity(results.can.continuous, "torque")) if results.can else "no servo"
            self.setAccessibleName(
                f"Speed against torque of {results.joint.name}: holds {held} for long, needs "
                f"{self.desk.show(Quantity(results.hold.need, 'torque'))}"
            )
        self.update()

    def _nice(self, most: float) -> float:
        if most <= 0:
            return 1.0
        step = 10 ** math.floor(math.log10(most))
        return next(step * k for k in (1, 1.5, 2, 3, 4, 5, 6, 8, 10) if step * k >= most)

    def draw(self, kit: Kit) -> None:
        u, r = kit.u, self.results
        kit.text(
            u(4),
            u(9),
            "Speed against torque, at the joint"
            if r is None or r.geared is None
            else "Speed against torque, at the servo",
            13,
            600,
        )
        if r is None:
            kit.lines(u(4), u(40), "Waits for a driven joint that turns.", self.width() - u(8), 13, 400, "ink2")
            return
        if r.opens:
            kit.lines(
                u(4),
                u(40),
                "Waits until its rod reaches all of the wanted range.",
                self.width() - u(8),
                13,
                400,
                "ink2",
            )
            return
        units = self.desk.units
        tq, sp = units.unit("torque"), units.unit("speed")
        servos = [c.can for c in self.others[:2]] + ([r.can] if r.can else [])
        most_t = self._nice(
            max([r.hold.need, *(c.stall for c in servos), r.move.torque if r.move else 0, 1e-4]) * 1.05 / tq.si
        )
        most_s = self._nice(max([*(c.free_speed for c in servos), r.move.speed if r.move else 0, 1.0]) * 1.1 / sp.si)
        gx0, gx1, gy0, gy1 = u(48), self.width() - u(16), u(30), self.height() - u(34)

        def fx(torque: float) -> float:
            return gx0 + min(torque / tq.si, most_t) / most_t * (gx1 - gx0)

        def fy(speed: float) -> float:
            return gy1 - min(speed / sp.si, most_s) / most_s * (gy1 - gy0)

        if r.can:
            self._zones(kit, r.can, fx, fy, gy1)
        for i in range(5):
            value = most_t * i / 4
            kit.text(gx0 + (gx1 - gx0) * i / 4, gy1 + u(13), f"{value:.3g}", 12, 400, "ink2", "c")
            value = most_s * i / 4
            kit.text(
                gx0 - u(7),
                gy1 - (gy1 - gy0) * i / 4,
                f"{value:.4g}" if value < 9999.5 else f"{value:.0f}",
                11.5,
                400,
                "ink2",
                "r",
            )
            kit.line(gx0, gy1 - (gy1 - gy0) * i / 4, gx1, gy1 - (gy1 - gy0) * i / 4, "hair", 1, "dot")
        kit.line(gx0, gy0, gx0, gy1, "rule")
        kit.line(gx0, gy1, gx1, gy1, "rule")
        kit.text(gx1, gy1 + u(27), f"torque, {tq.label}", 12, 400, "ink3", "r")
        kit.text(gx0 + u(6), gy0 - u(4), sp.label, 12, 400, "ink3")
        taken: list[tuple[float, float, float, float]] = []
        rivals = list(zip(self.others[:2], ("asagi", "plum"), ("dash", "chain"), strict=False))
        for c, colour, style in rivals:
            self._line(kit, c.can, fx, fy, gy1, colour, 1.6, style, (c.can.continuous,))
        if r.can:
            self._line(kit, r.can, fx, fy, gy1, "indigo", 2.2, "", (r.can.continuous, r.can.intermittent))
        self._points(kit, r, fx, fy, taken)
        if r.can:
            self._own_labels(kit, r.can, fx, fy, gy1, taken)
        for c, colour, _ in rivals:
            x, y = fx(c.can.continuous), fy(c.can.speed_at(c.can.continuous))
            self._label(kit, taken, x + u(6), y + u(12), c.servo.name.split(",")[0], colour)

    def _line(
        self,
        kit: Kit,
        can: Capability,
        fx,
        fy,
        gy1: float,
        colour: str,
        width: float,
        style: str,
        posts: tuple[float, ...],
    ) -> None:
        """One servo's line, with a post where holding, and using in passing, end."""
        kit.line(fx(0), fy(can.free_speed), fx(can.stall), gy1, colour, width, style)
        for torque in posts:
            kit.line(fx(torque), fy(can.speed_at(torque)), fx(torque), gy1, colour, width - 0.2, style)

    def _own_labels(self, kit: Kit, can: Capability, fx, fy, gy1: float, taken: list) -> None:
        u, held, passing = kit.u, fx(can.continuous), fx(can.intermittent)
        number = show_number(Quantity(can.continuous, "torque", rounding="down"), self.desk.units)
        top, edge = fy(can.speed_at(can.intermittent)), fy(can.speed_at(can.continuous))
        self._label(kit, taken, fx(0) + u(14), fy(can.free_speed) + u(2), "fitted", "indigo")
        self._label(kit, taken, held + u(16), edge - u(18), f"held for long {number}", "indigo", post=(held, edge))
        self._label(kit, taken, passing + u(16), top - u(18), "in passing", "indigo", post=(passing, top))
        self._label(kit, taken, fx(can.stall) + u(16), gy1 - u(24), "stall", "indigo", post=(fx(can.stall), gy1))

    def _zones(self, kit: Kit, can: Capability, fx, fy, gy1: float) -> None:
        """Held with the wished margin, held with less than that, used in passing."""

        def below(a: float, b: float):
            corners = [(fx(a), gy1), (fx(a), fy(can.speed_at(a))), (fx(b), fy(can.speed_at(b))), (fx(b), gy1)]
            return Kit.path(corners, True)

        ample = can.with_spare(self.desk.figure.assumptions.wished_margin)
        short = below(can.continuous, can.intermittent)
        kit.draw(below(0.0, ample), "moss_t", None)
        kit.draw(below(ample, can.continuous), "ochre_t", None)
        kit.draw(short, "ochre_t", None)
        kit.hatch(short, "ochre_f", 6, 1, 60)

    def _label(
        self,
        kit: Kit,
        taken: list,
        x: float,
        y: float,
        text: str,
        colour: str,
        ground: str = "paper",
        align: str = "l",
        post: tuple[float, float] | None = None,
    ) -> None:
        """A label where there is room; the least needed are dropped."""
        wide, half = kit.width(text, 12, 600), kit.u(9)
        left = x if align == "l" else x - wide
        if left + wide > self.width() - 4:
            left = self.width() - 4 - wide
        for shift in (0, -18, 18, -36, 36, -54):
            yy = y + kit.u(shift)
            box = (left - 4, yy - half, left + wide + 4, yy + half)
            free = all(box[2] < b[0] or box[0] > b[2] or box[3] < b[1] or box[1] > b[3] for b in taken)
            if free and kit.u(24) < yy < self.height() - kit.u(42):
                taken.append(box)
                if post is not None:
                    kit.line(left - 3 if align == "l" else left + wide + 3, yy, *post, colour, 1)
                kit.text(left, yy, text, 12, 600, colour, "l", ground)
                return

    def _points(self, kit: Kit, r, fx, fy, taken: list) -> None:
        u = kit.u
        points = [(r.hold.need, 0.0, "worst hold", "hold")]
        if r.move is not None:
            points.append((r.move.torque, r.move.speed, "wanted move", "move"))
        for torque, speed, words, rule in points:
            x, y = fx(torque), fy(speed)
            finding = self.desk.finding(rule, r.joint.id)
            state = finding.verdict if finding is not None else "not yet judged"
            if state == "not yet judged":
                kit.circle(x, y, u(5), "card", "ink2", 1.6, "dash")
            elif state == "holds":
                kit.circle(x, y, u(5), "moss")
            elif state == "tight":
                kit.circle(x, y, u(5), "card", "ochre", 2)
            else:
                kit.draw(
                    Kit.path([(x, y - u(7)), (x + u(6), y + u(5)), (x - u(6), y + u(5))], True), "verm", "card", 0.7
                )
            ink = VERDICT[state][0]
            taken.append((x - u(9), y - u(9), x + u(9), y + u(9)))
            self._label(kit, taken, x + u(22), y - u(16), words, ink, post=(x + u(5), y - u(3)))
