"""A new figure: name, how finished it is, what it stands on, how it leans, what feeds it. Then the Figure bench takes over."""

from __future__ import annotations

import math
from typing import Any

from PyQt6.QtWidgets import QWidget

from karakuri.demo import DEMOS
from karakuri.errors import Trouble
from karakuri.model.edits import new_figure
from karakuri.session.places import last_figures
from karakuri.session.session import Session
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import Bench, degrees, mm
from karakuri.workbench.benches.figure_page import FINISH
from karakuri.workbench.benches.joint_page import datum_sketch
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Do, Head, Note, Page, Pick, Write, WriteText
from karakuri.workbench.widgets.tag import Tag

STEPS = (
    ("Make the figure", "In the card: what it is called and stands on. Every field has a default."),
    ("Add its joints", "Ctrl+J: where it turns, like a nod or a shake, and how far it should go."),
    ("Hang parts on it", "Ins: a name, a mass, ahead and above. A point mass is enough; shapes can come later."),
    ("Fit a servo", "Drive bench: one of the classes, or your own from its label. The verdict stands below."),
)


class StartBench(Bench):
    title, question = "A new figure", "What it is, what it stands on, how far it is built."

    def __init__(self, desk: Desk, parent: QWidget, window) -> None:
        super().__init__(desk, parent)
        self._filing = window.filing
        self.reset()
        self.demo, *self.demos = (
            Tag(desk, f"Open the demo, {title}", self, lambda name=name: self._filing.open_demo(name))
            for name, title in DEMOS.items()
        )
        self.open = Tag(desk, "Open a file", self, self._filing.open)
        self.back = Tag(desk, "Back to what was open", self, lambda: desk.turn_to("figure"))
        self.lately = [
            Tag(desk, path.stem, self, lambda path=path: self._filing.open_path(path)) for path in last_figures()[:3]
        ]
        desk.looked.connect(self._place)

    def reset(self) -> None:
        self.values: dict[str, Any] = {
            "name": "New head",
            "growth": "25",
            "depth": 200.0,
            "width": 200.0,
            "on": "a table",
            "lean": 0.0,
            "volts": 6.0,
            "amps": 5.0,
        }

    def _set(self, key: str, scale: float = 1.0):
        def done(value) -> None:
            self.values[key] = round(value * scale, 4) if isinstance(value, float) else value
            self.desk.turned.emit()

        return done

    def page(self) -> Page:
        v = self.values
        return Page(
            "A new figure",
            "every field has a default",
            (
                WriteText("name", "Name", v["name"], self._set("name")),
                Pick("finish", "State", dict(FINISH)[v["growth"]], FINISH, self._set("growth")),
                Note("ng", "What will still be added counts as a share on every part (common practice, no source)."),
                Head("hs", "Stands on"),
                WriteText("on", "Stands on", v["on"], self._set("on")),
                Write("depth", "Foot, deep", mm(v["depth"]), "length", self._set("depth", 1e3)),
                Write("width", "Foot, wide", mm(v["width"]), "length", self._set("width", 1e3)),
                Write("lean", "Also leans by", degrees(v["lean"]), "angle", self._set("lean", math.degrees(1.0))),
                Note("nl", "Posture: how the base stands. A lean other than 0° is judged besides standing level."),
                Head("hv", "Supply for the servos"),
                Write("volts", "Voltage", Quantity(v["volts"], "voltage"), "voltage", self._set("volts")),
                Write("amps", "Current", Quantity(v["amps"], "current"), "current", self._set("amps")),
                Do("make", "Make this figure", self.make),
            ),
            ("new",),
        )

    def make(self) -> None:
        """The figure as described replaces what is on the desk, which is kept or saved first."""
        v = self.values
        try:
            figure = new_figure(
                name=v["name"], stands_on=v["on"], depth_mm=v["depth"], width_mm=v["width"], lean_deg=v["lean"],
                volts=v["volts"], amps=v["amps"], growth=float(v["growth"]),
            )  # fmt: skip
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))
            return
        if self._filing.replace(Session(figure)):
            self.reset()

    def _place(self) -> None:
        u = self.u
        y = self.height() - u(58)
        x = u(16)
        for tag in (self.demo, *self.demos, self.open, *self.lately, self.back):
            size = tag.sizeHint()
            if x + size.width() > self.width() - u(12):
                x, y = u(16), y + size.height()
            tag.setGeometry(x, y, size.width(), size.height())
            x += size.width()

    def resizeEvent(self, event) -> None:
        self._place()

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        self.draw_head(kit)
        x, y = u(24), u(52)
        wide = min(u(560), w - u(48))
        step = min(u(78), (self.demo.y() - u(62)) // len(STEPS))
        for i, (name, words) in enumerate(STEPS):
            kit.line(x + u(14), y, x + u(14), y + u(20), "brass_f", 1.6)
            kit.rect(x, y + u(16), wide, u(56), "card", "brass_f", 1.4)
            kit.circle(x + u(22), y + u(44), u(12), "brass_t", "ink", 1.2)
            kit.text(x + u(22), y + u(44), str(i + 1), 13, 700, "ink", "c")
            kit.text(x + u(46), y + u(34), name, 13, 600)
            kit.lines(x + u(46), y + u(53), words, wide - u(56), 12, 400, "ink2", 14)
            y += step
        y += u(16)
        if y + u(150) < self.demo.y():
            kit.text(x, y, "Where to measure from: one ruler, one corner", 13, 600)
            datum_sketch(kit, x, y + u(14), u(300), u(100))
        elif w > u(860):
            kit.text(u(600), u(70), "Where to measure from", 13, 600)
            datum_sketch(kit, u(600), u(84), u(260), u(100))
        kit.line(u(16), self.demo.y() - u(10), w - u(12), self.demo.y() - u(10), "rule")
