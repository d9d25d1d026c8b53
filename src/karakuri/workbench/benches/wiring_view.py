"""Power, wiring: the table of wires, the board in hand as pegs, and what crosses each joint."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.catalogue.boards import board_kind
from karakuri.model.board import Board
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.wiring.table import Wire, crossings, wires
from karakuri.workbench.benches.pegs import TALL, Pegs
from karakuri.workbench.benches.wiring_page import CAUTION, in_hand
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.sheet import Sheet

SWATCH = {"white": "card", "red": "verm", "black": "ink", "yellow": "ochre", "green": "moss", "blue": "indigo"}
EMPTY = "No boards yet. Add them on the card: a controller, a pulse generator, a rail that power is shared out from."


class WiringView(Sheet):
    """Lies over the power bench while the wiring is shown."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "wiring", parent)
        self.table = Ledger(desk, "Wires", self)
        self.table.picked.connect(self._take)
        self.crossed = Ledger(desk, "What crosses each joint", self)
        self.crossed.picked.connect(self._joint)
        self.pegs = Pegs(desk, self)
        self.found: tuple[Wire, ...] = ()
        self.at: object = None

    def refresh(self) -> None:
        """The figure, what is in hand or the look changed."""
        if not self.isVisible():
            return
        figure = self.desk.figure
        self.found = wires(figure)
        mine = [wire for wire in self.found if self._owner(wire) == self._subject()]
        at = (
            self.at
            if any(("wire", wire.number) == self.at for wire in mine)
            else ("wire", mine[0].number)
            if mine
            else None
        )
        self.at = at
        self.table.show_rows([self._row(wire) for wire in self.found], at)
        if at is not None:
            self.table.reveal()
        self.crossed.show_rows(
            [self._crossing(j, some) for j, some in crossings(self.found).items()], self.desk.subject
        )
        self.place()
        self.pegs.show_board(self._board())
        self.update()

    def _board(self) -> Board | None:
        """The board in hand, that of the plug in hand, or the first with pins."""
        figure, item = self.desk.figure, in_hand(self.desk)
        if isinstance(item, Board):
            return item
        ident = item.board if item is not None else next((plug.board for plug in figure.plugs), None)
        return next(
            (board for board in figure.boards if board.id == ident), figure.boards[0] if figure.boards else None
        )

    def _subject(self) -> Ref:
        item = in_hand(self.desk)
        return Ref() if item is None else Ref("board" if isinstance(item, Board) else "plug", item.id)

    def _owner(self, wire: Wire) -> Ref:
        return Ref("plug", wire.plug) if wire.plug else wire.a.ref

    def _take(self, key: object) -> None:
        wire = next((each for each in self.found if ("wire", each.number) == key), None)
        if wire is not None:
            self.at = key
            self.desk.select(self._owner(wire))

    def _joint(self, ref: object) -> None:
        if isinstance(ref, Ref):
            self.desk.select(ref)

    # ---- rows
    def _columns(self, width: float) -> dict[str, float]:
        u, words = self.u, width >= self.u(500)
        return {
            "a": u(34),
            "b": width * 0.41,
            "colour": width - u(196 if words else 142),
            "awg": width - u(90),
            "long": width - u(8),
        }

    def _row(self, wire: Wire) -> Row:
        name = f"{wire.number}, {wire.colour}: {wire.a.name}, {wire.a.pin}, to {wire.b.name}, {wire.b.pin}"

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u, c = kit.u, self._columns(width)
            mine = self._owner(wire) == self._subject()
            kit.line(0, y - u(10), width, y - u(10), "hair")
            ink = "indigo" if on or mine else "ink"
            kit.text(u(26), y, str(wire.number), 12, 600, "brass", "r")
            _two(kit, c["a"], y, c["b"] - c["a"] - u(10), wire.a.name, wire.a.pin, ink, 600 if mine else 400)
            _two(kit, c["b"], y, c["colour"] - c["b"] - u(10), wire.b.name, wire.b.pin or "no pin", ink if wire.b.pin else "verm", 400)  # fmt: skip
            kit.rect(c["colour"], y - u(3), u(18), u(6), SWATCH.get(wire.colour, "card"), "ink2", 0.8)
            if width >= u(500):  # where it is narrow the swatch, and what is read out, say it
                kit.text(c["colour"] + u(24), y, wire.colour, 12, 400, "ink2")
            kit.text(c["awg"], y, str(wire.awg), 12, 400, "ink", "r")
            long = self.desk.show(Quantity(wire.length, "length")) if wire.length is not None else "not known"
            kit.text(c["long"], y, long, 12, 600 if not wire.worked_out else 400, "ink" if wire.length is not None else "brass", "r")  # fmt: skip

        return Row(("wire", wire.number), name, paint, 20)

    def _crossing(self, joint: str, some: tuple[Wire, ...]) -> Row:
        name = self.desk.figure.joint(joint).name

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            u = kit.u
            kit.line(0, y - u(10), width, y - u(10), "hair")
            kit.text(u(6), y, kit.short(name, width - u(150), 12), 12, 600 if on else 400, "indigo" if on else "ink")
            thick = sum(wire.feeds for wire in some)
            kit.text(width - u(8), y, f"{len(some)} wires, {thick} of them power", 12, 400, "ink2", "r")

        return Row(Ref("joint", joint), f"{name}: {len(some)} wires", paint, 20)

    # ---- place and paint
    def place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        top, left = u(8), u(2)
        split = round(w * 0.60)
        self.split, self.top = split, top
        self.table.setGeometry(left, top + u(20), split - left - u(12), h - top - u(26))
        low = min(max(len(self.crossed.rows), 1), 6) * u(20) + u(4)
        board = self._board()
        tall = u(40) + u(TALL) * -(-len(board_kind(board.kind).pins) // 2) if board is not None else 0
        tall = max(u(80), min(tall, h - top - low - u(40)))
        self.pegs.setGeometry(split + u(8), top, w - split - u(16), tall)
        self.low = top + tall + u(12)
        self.crossed.setGeometry(split + u(8), self.low + u(22), w - split - u(16), low)
        on = bool(self.desk.figure.boards)
        for each in (self.table, self.pegs):
            each.setVisible(on)
        self.crossed.setVisible(on and bool(self.crossed.rows))

    def resizeEvent(self, event) -> None:
        self.place()
        self.pegs.show_board(self._board())

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        if not self.desk.figure.boards:
            kit.lines(u(4), u(60), EMPTY, min(w - u(20), u(560)), 14, 400, "ink2", 20)
            kit.lines(u(4), u(130), CAUTION, min(w - u(20), u(560)), 12, 400, "ink2", 16)
            return
        c, y, x = self._columns(self.table.width()), self.top + u(9), self.table.x()
        kit.text(x + c["a"], y, "From", 13, 600, "brass")
        kit.text(x + c["b"], y, "To", 13, 600, "brass")
        if self.table.width() >= u(500):
            kit.text(x + c["colour"], y, "colour", 12, 400, "ink3")
        kit.text(x + c["awg"], y, "AWG", 12, 400, "ink3", "r")
        kit.text(x + c["long"], y, "cut", 12, 400, "ink3", "r")
        kit.line(self.split, self.top, self.split, self.height() - u(6), "rule")
        kit.text(self.split + u(10), self.low + u(10), "What crosses each joint", 13, 600, "brass")
        if not self.crossed.rows:
            unknown = sum(wire.length is None or (not wire.crosses and not wire.worked_out) for wire in self.found)
            words = (
                "No wire crosses a joint."
                if not unknown
                else f"Not known of {unknown} wires: say where their boards lie."
            )
            kit.text(self.split + u(10), self.low + u(32), words, 12, 400, "ink2")


def _two(kit: Kit, x: float, y: float, room: float, name: str, pin: str, ink: str, weight: int) -> None:
    """A name, and in grey its pin behind it."""
    after = kit.width(pin, 12) + kit.u(8)
    shown = kit.short(name, max(room - after, kit.u(20)), 12, weight)
    kit.text(x, y, shown, 12, weight, ink)
    kit.text(x + kit.width(shown, 12, weight) + kit.u(8), y, pin, 12, 400, "ink2" if ink != "verm" else "verm")
