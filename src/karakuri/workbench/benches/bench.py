"""What the benches share: a head with title and question, and the page of the card. To add a bench NAME: a row in routes.py,
benches/NAME.py with a class NameBench, and its glyph in marks.py."""

from __future__ import annotations

import math
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from karakuri.checks.contract import Key
from karakuri.model.edits import implausible, set_field, set_one_of
from karakuri.sizing.cord import CordFound
from karakuri.sizing.stroke import StrokeFound
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Item, Page, Write
from karakuri.workbench.widgets.sheet import Sheet

F = TypeVar("F", CordFound, StrokeFound)

CAUTION = (
    "Advises, certifies nothing. Fingers, hair and scarves get pinched where parts turn: keep clear while it is powered. "
    "A servo jumps to its place at power-up: take the horn off or hold clear the first time. Local codes and licensed "
    "practice come first."
)


def coordinates(desk: Desk, collection: str, ident: str, labels: tuple[tuple[int, str], ...], words: str) -> list[Item]:
    """A field for each coordinate of a part or joint; a place out of all reach is asked about once."""
    item = next(i for i in getattr(desk.figure, collection) if i.id == ident)

    def write(which: int, label: str) -> Item:
        def done(value: float) -> None:
            desk.edit(lambda: set_one_of(desk.figure, collection, ident, "at_mm", which, round(value * 1e3, 3), words))

        def doubt(value: float) -> str:
            at = list(item.at_mm)
            at[which] = value * 1e3
            return implausible(desk.figure, item.rides_on, tuple(at))

        return Write("xyz"[which], label, mm(item.at_mm[which]), "length", done, doubt=doubt)

    return [write(which, label) for which, label in labels]


class Bench(Sheet):
    """A page of the workbench. `page()` is what the card shows while it is in front."""

    title, question = "", ""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, f"{self.title} bench", parent)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)  # a press anywhere on it takes the keyboard out of a field

    def page(self) -> Page:
        raise NotImplementedError

    def refresh(self) -> None:
        """Show the desk as it is now."""

    def listen(self, *signals) -> None:
        """Refresh on these signals while in front; what was missed is made up for when the bench is turned to."""
        self.missed = True
        for signal in signals:
            signal.connect(self._heard)

    def _heard(self) -> None:
        if self.isVisible():
            self.refresh()
        else:
            self.missed = True

    def showEvent(self, event) -> None:
        if getattr(self, "missed", False):
            self.missed = False
            self.refresh()

    def draw_head(self, kit: Kit, right: str = "") -> float:
        """Title and question; returns where the question ended."""
        y = self.u(20)
        x = kit.text(self.u(16), y, self.title, 18, 600) + self.u(14)
        if x + kit.width(self.question, 13) < self.width() - self.head_room():
            x = kit.text(x, y + 1, self.question, 13, 400, "ink2")
        if right:
            kit.text(self.width() - self.u(12), y + 1, right, 12, 400, "ink3", "r")
        return x

    def head_room(self) -> float:
        return self.u(20)


def found_of(desk: Desk, key: Key[tuple[F, ...]], ident: str) -> F | None:
    """What the latest study found of an element; None where it judged none such."""
    if desk.study is None:
        return None
    ids = [element.id for element in desk.study.figure.elements]
    return next((each for each in desk.study.results[key] or () if ids[each.i] == ident), None)


def mm(value: float) -> Quantity:
    return Quantity(value / 1e3, "length")


def grams(value: float | None) -> Quantity | None:
    return None if value is None else Quantity(value / 1e3, "mass")


def degrees(value: float) -> Quantity:
    return Quantity(math.radians(value), "angle")


def rename(desk: Desk, collection: str, ident: str, text: str) -> None:
    """A name is free but for its length; an empty one is refused by the model with a sentence."""
    desk.edit(lambda: set_field(desk.figure, collection, ident, ("name",), text.strip(), "name"))
