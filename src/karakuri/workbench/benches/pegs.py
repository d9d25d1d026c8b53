"""A board as pegs on either side of its rail: what is plugged into each pin; dotted ones are free."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from karakuri.catalogue.boards import board_kind
from karakuri.model.board import Board, Plug
from karakuri.model.leads import called
from karakuri.model.ref import Ref
from karakuri.wiring.following import told_at
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

TALL = 20


class Pegs(Sheet):
    """The board in hand, or the first that has pins."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Pins of the board", parent)
        self.board: Board | None = None
        self.shown: list[tuple[str, list[tuple[Plug, str]]]] = []
        self.more = 0

    def show_board(self, board: Board | None) -> None:
        self.board = board
        if board is not None:
            at = dict[str, list[tuple[Plug, str]]]()
            for plug in self.desk.figure.plugs:
                for lead, pin in plug.pins if plug.board == board.id else ():
                    at.setdefault(pin, []).append((plug, lead))
            pins = [pin.id for pin in board_kind(board.kind).pins]
            pins += [pin for pin in at if pin not in pins]
            room = 2 * max(1, (self.height() - self.u(30)) // self.u(TALL))
            if len(pins) > room:  # what is plugged in comes before what is free
                free = [pin for pin in pins if pin not in at]
                cut = set(free[max(0, room - len(at)) :])
                pins = [pin for pin in pins if pin not in cut]
            self.more = len(board_kind(board.kind).pins) - len(pins)
            self.shown = [(pin, at.get(pin, [])) for pin in pins[:room]]
            self.setAccessibleName(f"Pins of {board.name}: {len(at)} taken")
        self.update()

    def _name(self, plug: Plug, lead: str) -> str:
        """What is on a pin, in short: of a servo the joint."""
        name = called(self.desk.figure, plug).removeprefix("servo of ")
        return name if lead == "signal" else f"{name}, {lead}"

    def _rows(self) -> int:
        return (len(self.shown) + 1) // 2

    def _place(self, k: int) -> tuple[bool, float]:
        """Whether a peg is on the right, and its height."""
        rows = self._rows()
        return k >= rows, self.u(34) + (k % rows) * self.u(TALL)

    def mousePressEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        for k, (_, some) in enumerate(self.shown):
            right, at = self._place(k)
            if some and abs(y - at) <= self.u(TALL) / 2 and (x > self.width() / 2) == right:
                self.desk.select(Ref("plug", some[0][0].id))
                return
        if self.board is not None:
            self.desk.select(Ref("board", self.board.id))

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        if self.board is None:
            return
        kind, mid = board_kind(self.board.kind), w / 2
        kit.text(u(2), u(9), kit.short(self.board.name, w * 0.5, 13, 600), 13, 600)
        more = f"{self.more} more are free" if self.more > 0 else kind.name
        kit.text(w - u(4), u(9), kit.short(more, w * 0.48, 12), 12, 400, "ink2", "r")
        if not self.shown:
            kit.lines(u(2), u(30), "What feeds is shared out from here: it has terminals, no pins.", w - u(6), 12, 400, "ink2", 15)  # fmt: skip
            return
        tall = self._rows() * u(TALL)
        kit.rect(u(2), u(22), w - u(5), tall + u(6), "card", "rule")
        kit.rect(mid - u(3), u(22), u(6), tall + u(6), "brass")
        told = {pin: f"bus, {what}" for pin, what in told_at(self.desk.figure, self.board).items()}
        for k, (pin, some) in enumerate(self.shown):
            right, y = self._place(k)
            side = 1 if right else -1
            edge = w - u(12) if right else u(10)
            kit.text(edge, y, pin, 12, 600, "brass", "r" if right else "l")
            taken = bool(some)
            on = any(Ref("plug", plug.id) == self.desk.subject or plug.item == self.desk.subject.id for plug, _ in some)
            words = " and ".join(self._name(plug, lead) for plug, lead in some)
            after = u(26 if len(pin) < 4 else 33)
            room = mid - after - u(46)
            if len(some) > 1 and kit.width(words, 12) > room:
                words = f"{kit.short(self._name(*some[0]), room - kit.width(' + 1', 12), 12)} + {len(some) - 1}"
            name_at = edge - after if right else edge + after
            free = "stop switch" if kind.what == "controller" and pin == kind.stop else told.get(pin, "free")
            colour = "verm" if len(some) > 1 and not _bus(some) else "indigo" if on else "ink" if taken else "ink3"
            kit.text(name_at, y, kit.short(words or free, room, 12), 12, 600 if on else 400, colour, "r" if right else "l")  # fmt: skip
            at = mid + side * u(6)
            if taken:
                kit.rect(min(at, at + side * u(16)), y - u(4), u(16), u(8), "indigo" if on else "ink2")
                kit.circle(at + side * u(16), y, u(3), "brass", "ink")
            else:
                for n in range(3):
                    kit.circle(at + side * u(4 + 5 * n), y, u(1), "ink3")


def _bus(some: list[tuple[Plug, str]]) -> bool:
    return all(lead in ("data", "clock") for _, lead in some)
