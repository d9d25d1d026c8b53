"""Rehearse, by hand: the figure, pads to drive it with, and beside each ribbon what the hand asked and where it was sent."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.model.behaviour_edits import behaviour_of
from karakuri.model.steering_edits import steering_of
from karakuri.workbench.benches.pad import HandPad
from karakuri.workbench.benches.traces import Traces
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.widgets.sheet import Sheet
from karakuri.workbench.widgets.tag import Choice, Tag

SENSITIVE = ("fine", "middle", "full")


class HandView(Sheet):
    """Lies over the board's view while driving by hand is shown."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "by hand", parent)
        steered = desk.steered
        self.front = Elevation(desk, "front", self, posing=False)
        self.traces = Traces(desk, self)
        self.pads: list[HandPad] = []
        self.hold = Tag(desk, "Take hold", self, steered.toggle)
        self.record = Tag(desk, "Record", self, self._record)
        self.held = Tag(desk, "Hold to move", self, self._held)
        self.trying = Tag(desk, "A simulated hand", self, steered.try_it)
        self.sense = Choice(desk, "Goes", self._shares, lambda key: steered.sense(int(key)), self)
        for tag in (self.held, self.trying, self.record, self.hold):
            tag.setCheckable(True)
        steered.ticked.connect(self._ticked)
        steered.ran.connect(self.refresh)

    def told_in_short(self) -> str:
        """Beside the bench's title."""
        steered, steering = self.desk.steered, steering_of(self.desk.figure)
        if not steering.grips:
            return "no hand drives it yet: set that down in the card"
        if steered.recording:
            return f"recording, {steered.recorded_s:.1f} s"
        if steered.told:
            return steered.told
        if steered.running:
            hand = steered.hand
            return "driven by hand" if hand is None or hand.held else "let go: the dead man’s switch is not held"
        return f"{len(steering.grips)} {'grips' if len(steering.grips) != 1 else 'grip'}, nobody has hold of it"

    def _shares(self) -> list[tuple[str, str]]:
        shares = steering_of(self.desk.figure).sensitivities
        return [(str(k), f"{name}, {share:g}\u00a0% of the way") for k, (name, share) in enumerate(zip(SENSITIVE, shares, strict=True))]  # fmt: skip

    def _record(self) -> None:
        steered = self.desk.steered
        (steered.finish if steered.recording else steered.record)()
        self.refresh()

    def _held(self) -> None:
        ident = steering_of(self.desk.figure).held_by
        if ident is not None:
            self.desk.steered.hold(ident, 0.0 if self.desk.steered.level(ident) >= 50.0 else 100.0)

    # ---- showing
    def refresh(self) -> None:
        """The figure, what is in hand or the look changed."""
        if not self.isVisible():
            return
        steered, steering = self.desk.steered, steering_of(self.desk.figure)
        idents = [grip.id for grip in steering.grips]
        if [pad.grip_id for pad in self.pads] != idents:
            for pad in self.pads:
                pad.hide()
                pad.deleteLater()
            self.pads = [HandPad(self.desk, ident, self) for ident in idents]
        self.hold.set_label("Let go" if steered.running else "Take hold")
        self.record.set_label("Stop recording" if steered.recording else "Record")
        for tag, on in ((self.hold, steered.running), (self.record, steered.recording), (self.trying, steered.trying)):
            tag.setChecked(on)
            tag.setEnabled(bool(idents))
        self.sense.show_value(SENSITIVE[steered.sensitivity])
        held = steering.held_by
        self.held.set_label(
            next((i.name for i in behaviour_of(self.desk.figure).inputs if i.id == held), "Hold to move")
        )
        self.held.setVisible(held is not None)
        self._ticked()
        self.place()

    def _ticked(self) -> None:
        if not self.isVisible():
            return
        held = steering_of(self.desk.figure).held_by
        self.held.setChecked(held is not None and self.desk.steered.level(held) >= 50.0)
        for pad in self.pads:
            pad.fresh()
        self.traces.fresh()
        self.update()
        self.parentWidget().update(0, 0, self.parentWidget().width(), self.y())

    # ---- layout
    def place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        at, y = u(12), u(2)
        for widget in (self.hold, self.held, self.record, self.trying, self.sense):
            if widget.isHidden():
                continue
            size = widget.sizeHint()
            if at + size.width() > w - u(8):
                at, y = u(12), y + size.height()
            widget.setGeometry(at, y, size.width(), size.height())
            at += size.width() + u(6)
        top = y + u(54)
        tall = max(u(150), min(round((h - top) * 0.56), u(420)))
        stage = round(w * 0.32)
        self.front.setGeometry(u(14), top, stage, tall - u(8))
        self.pads_at = (u(14) + stage + u(16), top)
        self._grid(w - self.pads_at[0] - u(10), tall - u(8))
        self.low = top + tall + u(16)
        self.traces.setGeometry(u(14), self.low, w - u(24), max(u(24), h - self.low - u(6)))

    def _grid(self, w: int, h: int) -> None:
        """Pads in as many columns as make them largest."""
        u, n = self.u, max(len(self.pads), 1)
        columns = max(
            range(1, n + 1),
            key=lambda c: min((w - u(8) * (c - 1)) / c, (h - u(8) * (-(-n // c) - 1)) / -(-n // c) * 1.25),
        )
        rows = -(-n // columns)
        wide, tall = (w - u(8) * (columns - 1)) // columns, (h - u(8) * (rows - 1)) // rows
        wide, tall = min(wide, u(230)), min(tall, u(200))
        x0, y0 = self.pads_at
        for k, pad in enumerate(self.pads):
            pad.setGeometry(x0 + (k % columns) * (wide + u(8)), y0 + (k // columns) * (tall + u(8)), wide, tall)
            pad.setVisible(tall >= u(44))

    def resizeEvent(self, event) -> None:
        self.place()

    def showEvent(self, event) -> None:
        self.refresh()

    def draw(self, kit: Kit) -> None:
        u = kit.u
        kit.rect(0, 0, self.width(), self.height(), "paper")
        kit.text(self.pads_at[0] + u(2), self.pads_at[1] - u(8), "Pads", 13, 600, "brass")
        hint = "drag, or arrows; a stick springs back"
        room = self.width() - self.pads_at[0] - u(60)
        kit.text(self.width() - u(12), self.pads_at[1] - u(8), kit.short(hint, room, 12), 12, 400, "ink2", "r")
        kit.text(u(16), self.low - u(9), "What it does", 13, 600, "brass")
        kit.text(
            u(104),
            self.low - u(9),
            kit.short("the last eight seconds: pale as the hand asked, dark as it was sent", self.width() - u(120), 12),
            12,
            400,
            "ink2",
        )
        if not self.pads:
            kit.lines(
                self.pads_at[0] + u(4),
                self.pads_at[1] + u(16),
                "Nothing is driven by hand yet. In the card, “Drive it by hand” lays a knob on each ribbon.",
                self.width() - self.pads_at[0] - u(20),
                13,
                400,
                "ink2",
                18,
            )
