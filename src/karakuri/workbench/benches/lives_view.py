"""Rehearse, behaviour: the figure living by itself, with simulated visitors, inputs to press, its story, and what starts what."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.model.behaviour import ANALOG, Input
from karakuri.model.behaviour_edits import trigger_words
from karakuri.model.ref import Ref
from karakuri.workbench.benches.room_plan import RoomPlan
from karakuri.workbench.benches.story import Story
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.living import PACES
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.sheet import Sheet
from karakuri.workbench.widgets.tag import Choice, Tag


class LivesView(Sheet):
    """Lies over the board's view while behaviour is shown."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "behaviour", parent)
        living = desk.living
        self.front = Elevation(desk, "front", self, posing=False)
        self.plan = RoomPlan(desk, self)
        self.inputs = Ledger(desk, "Inputs", self)
        self.inputs.picked.connect(desk.select)
        self.inputs.asked.connect(self._press)
        self.story = Story(desk, self)
        self.table = Ledger(desk, "What starts what", self)
        self.table.picked.connect(desk.select)
        self.told = Ledger(desk, "What happened", self)
        self.run = Tag(desk, "Let it live", self, living.toggle)
        self.again = Tag(desk, "From the beginning", self, living.again)
        self.pace = Choice(desk, "Pace", lambda: [(str(p), f"{p} ×") for p in PACES], lambda key: living.set_pace(int(key)), self)  # fmt: skip
        self.count = Choice(desk, "Visitors", lambda: [(str(n), str(n)) for n in range(5)], lambda key: living.set_count(int(key)), self)  # fmt: skip
        living.ticked.connect(self._ticked)
        living.ran.connect(self.refresh)

    def told_in_short(self) -> str:
        """Beside the bench's title."""
        behaviour = self.desk.figure.behaviour
        count = len(behaviour.states) if behaviour is not None else 0
        return f"{count} {'states' if count != 1 else 'state'}, visitors are a stand-in"

    def refresh(self) -> None:
        """The figure, what is in hand or the look changed."""
        if not self.isVisible():
            return
        living = self.desk.living
        self.run.set_label("Stop" if living.running else "Let it live")
        self.pace.show_value(f"{living.pace} ×")
        self.count.show_value(str(living.count))
        behaviour = self.desk.figure.behaviour
        starts = behaviour.starts if behaviour is not None else ()
        self.table.show_rows([self._start_row(start) for start in starts], self.desk.subject)
        self._ticked()
        self.place()

    def _ticked(self) -> None:
        if not self.isVisible():
            return
        behaviour, engine = self.desk.figure.behaviour, self.desk.living.engine
        inputs = behaviour.inputs if behaviour is not None else ()
        self.inputs.show_rows([self._input_row(each) for each in inputs], self.desk.subject)
        entered = engine.entered[-30:] if engine is not None else []
        self.told.show_rows([self._told_row(each) for each in reversed(entered)], None)
        self.plan.went()
        self.story.fresh()
        self.update()

    def _press(self, ref: Ref) -> None:
        """Enter or a second press on an input: on, or off again."""
        living = self.desk.living
        if ref.kind == "input":
            now = living.engine.level(ref.id) if living.engine is not None else 0.0
            living.hold(ref.id, 0.0 if now >= 50.0 else 100.0)

    # ---- rows
    def _input_row(self, each: Input) -> Row:
        engine = self.desk.living.engine
        level = engine.level(each.id) if engine is not None else 0.0

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            kit.line(0, y - kit.u(11), width, y - kit.u(11), "hair")
            kit.text(kit.u(6), y, kit.short(each.name, width - kit.u(90), 13), 13, 600 if on else 400, "indigo" if on else "ink")  # fmt: skip
            words = f"{level:.0f} %" if each.kind in ANALOG else "on" if level >= 50.0 else "off"
            kit.text(width - kit.u(8), y, words, 13, 600, "asagi" if level >= 50.0 else "ink3", "r")

        return Row(Ref("input", each.id), f"{each.name}, {'on' if level >= 50.0 else 'off'}", paint, 22)

    def _start_row(self, start) -> Row:
        behaviour = self.desk.figure.behaviour
        came = ", ".join(behaviour.state(ident).name for ident in start.while_in) or "anything"
        to, by = behaviour.state(start.to).name, trigger_words(behaviour, start.on)

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            kit.line(0, y - u(10), width, y - u(10), "hair")
            ink, third = "indigo" if on else "ink", (width - u(70)) / 3
            kit.text(u(6), y, kit.short(came, third - u(8), 12), 12, 400, "ink2")
            kit.text(u(6) + third, y, kit.short(by, third - u(8), 12), 12, 400, ink)
            kit.text(u(6) + 2 * third, y, kit.short(to, third - u(8), 12, 600), 12, 600, ink)
            extra = f"{start.chance:.0%}".replace("%", "\u00a0%") if start.chance < 1 else f"{start.cool_s:g} s" if start.cool_s else ""  # fmt: skip
            kit.text(width - u(6), y, extra, 12, 400, "ink2", "r")

        return Row(Ref("start", start.id), f"while {came}, {by}: {to}", paint, 20)

    def _told_row(self, entered) -> Row:
        behaviour = self.desk.figure.behaviour
        names = {state.id: state.name for state in behaviour.states} if behaviour is not None else {}
        start = next((s for s in behaviour.starts if s.id == entered.by), None) if behaviour is not None else None
        words = names.get(entered.state, "") + (f", {trigger_words(behaviour, start.on)}" if start is not None else "")

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            kit.text(kit.u(52), y, f"{entered.at:.1f} s", 12, 600, "ink2", "r")
            kit.text(kit.u(60), y, kit.short(words, width - kit.u(66), 12), 12)

        return Row(("entered", entered.at, entered.state), words, paint, 18)

    # ---- layout
    def place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        tight = h < u(470)
        upper = u(126) if tight else max(u(150), round(h * 0.36))
        third = round((w - u(40)) * 0.34)
        self.front.setGeometry(u(14), u(34), third, upper - u(34))
        self.plan.setGeometry(u(14) + third + u(12), u(34), third, upper - u(34))
        x = u(14) + 2 * third + u(24)
        self.inputs.setGeometry(x, u(34) + u(18), w - x - u(10), upper - u(52))
        at = u(12)
        for widget in (self.run, self.again, self.pace, self.count):
            size = widget.sizeHint()
            widget.setGeometry(at, u(2), size.width(), size.height())
            at += size.width() + u(6)
        self.story_y = upper + u(22)
        tall = u(130 if tight else 146)
        self.story.setGeometry(u(14), self.story_y, w - u(24), tall)
        self.low = self.story_y + tall + u(22)
        half = round((w - u(34)) * 0.58)
        self.table.setGeometry(u(14), self.low, half, max(u(30), h - self.low - u(6)))
        self.told.setGeometry(u(24) + half, self.low, w - half - u(34), max(u(30), h - self.low - u(6)))

    def resizeEvent(self, event) -> None:
        self.place()

    def showEvent(self, event) -> None:
        self.refresh()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        kit.text(self.inputs.x() + u(4), u(42), "Inputs", 13, 600, "brass")
        kit.text(self.width() - u(10), u(42), "double press: on, off", 11, 400, "ink3", "r")
        kit.text(u(16), self.story_y - u(10), "Story", 13, 600, "brass")
        kit.text(u(60), self.story_y - u(10), "read left to right; a slip says what turns the page", 12, 400, "ink2")
        kit.text(u(16), self.low - u(10), "What starts what", 13, 600, "brass")
        kit.text(self.told.x() + u(4), self.low - u(10), "What happened", 13, 600, "brass")
