"""What a card is made of. Each item knows its height at a width, paints itself, and may bring an editor."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from PyQt6.QtWidgets import QWidget

from karakuri.model.finding import Derivation, Finding, show_reserve
from karakuri.units import Quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.marks import tumbler
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.field import Field, QuantityField
from karakuri.workbench.widgets.tag import MARGIN, Choice, Tag

UNIT, RULED = 40, 76


@dataclass(eq=False, repr=False)
class Item:
    """Base: nothing to edit. `key` names it among the items of its page."""

    key: str

    def height(self, desk: Desk, width: float) -> float:
        raise NotImplementedError

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        raise NotImplementedError

    def editor(self, desk: Desk, parent: QWidget) -> QWidget | None:
        return None

    def refresh(self, editor: Any) -> None:
        """Show this item's value in an editor made for an earlier one of the same key."""

    def place(self, desk: Desk, editor: QWidget, x: float, y: float, w: float) -> None:
        """Put the editor in its place."""


def _carry_out(desk: Desk, field: Any, *value: object) -> None:
    """Hand a written value on, or that it was taken away; a field whose edit was refused shows again what the figure holds."""
    before = desk.figure
    (field.item.done if value else field.item.emptied)(*value)
    if desk.figure is before:
        field.put_back()


@dataclass(eq=False, repr=False)
class Block(Item):
    """The verdict block: mark, word, reserve, rule with ticks at 1 and at the wished margin."""

    finding: Finding | None
    wished: float = 1.25

    def height(self, desk: Desk, width: float) -> float:
        f = self.finding
        extra = 0
        if f is not None and f.reserve is not None and 0 < f.reserve < 1:
            extra += desk.look.u(17)
        if f is not None and f.decides is not None:
            extra += len(wrapped(desk.look, f.decides.show(desk.units), width, 12)) * desk.look.u(16)
        return desk.look.u(70) + extra

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        f, u = self.finding, kit.u
        verdict = f.verdict if f is not None else "not yet judged"
        ink, ground = VERDICT[verdict]
        kit.rect(x - u(6), y, w + u(12), u(62), ground)
        tumbler(kit, x + u(16), y + u(22), u(30), verdict)
        kit.text(x + u(38), y + u(21), verdict, 18, 600, ink)
        below = y + u(72)
        if f is not None and f.reserve is not None:
            self._rule(kit, x, y, w, f.reserve, ink)
        else:
            words = f.measure.show(desk.units) if f is not None and f.measure else "nothing to judge here yet"
            kit.lines(x + u(38), y + u(44), words, w - u(40), 12, 400, "ink2" if verdict == "not yet judged" else "ink")
        if f is not None and f.reserve is not None and 0 < f.reserve < 1:
            times = show_number(Quantity(1 / f.reserve, "ratio", rounding="up"), desk.units)
            kit.text(x, below, f"needs {times} times what it has", 12, 500, ink)
            below += u(17)
        if f is not None and f.decides is not None:
            kit.lines(x, below, f.decides.show(desk.units), w, 12, 400, "ink2", 16)

    def _rule(self, kit: Kit, x: float, y: float, w: float, reserve: float, ink: str) -> None:
        u = kit.u
        kit.text(x + w - 2, y + u(22), show_reserve(reserve), 26, 700, ink, "r")
        bx, by, bw = x + u(2), y + u(45), w - u(4)

        def at(value: float) -> float:
            return bx + bw * min(value, 2.5) / 2.5

        kit.line(bx, by, bx + bw, by, "rule")
        kit.line(bx, by, at(reserve), by, ink, 4)
        for tick in (1.0, self.wished):
            kit.line(at(tick), by - 6, at(tick), by + 4, "ink", 1.4)
        if self.wished > 1.01:
            kit.text(at(1.0) - 4, by + u(9), "1.00", 11, 500, "ink2", "r")
        kit.text(at(self.wished) + 4, by + u(9), f"{show_reserve(self.wished)} wished", 11, 500, "ink2")


@dataclass(eq=False, repr=False)
class Head(Item):
    """A group head in brass with a hairline."""

    text: str

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(26)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        end = kit.text(x, y + kit.u(13), self.text, 12, 600, "brass")
        if end + kit.u(8) < x + w:
            kit.line(end + kit.u(8), y + kit.u(13.5), x + w, y + kit.u(13.5), "hair")


@dataclass(eq=False, repr=False)
class Note(Item):
    """A sentence or two: an estimate, advice, a caution, why something is not there."""

    text: str
    strong: bool = False

    def height(self, desk: Desk, width: float) -> float:
        return len(wrapped(desk.look, self.text, width, 12)) * desk.look.u(16) + desk.look.u(6)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        kit.lines(x, y + kit.u(9), self.text, w, 12, 500 if self.strong else 400, "ink" if self.strong else "ink2", 16)


@dataclass(eq=False, repr=False)
class Calc(Item):
    """A worked-out number with its derivation beneath, behind a hairline bracket."""

    derivation: Derivation
    tone: str = "ink"

    def _lines(self, desk: Desk, width: float) -> list[str]:
        return wrapped(desk.look, self.derivation.show(desk.units), width - desk.look.u(8), 11.5)

    def _title(self, desk: Desk, width: float) -> list[str]:
        return wrapped(desk.look, self.derivation.show_title(desk.units), width - desk.look.u(UNIT + 62), 13, 500)

    def height(self, desk: Desk, width: float) -> float:
        u = desk.look.u
        return u(18) * len(self._title(desk, width)) + u(4) + u(15) * len(self._lines(desk, width)) + u(5)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        u, q = kit.u, self.derivation.result
        title = self._title(desk, w)
        for i, line in enumerate(title):
            kit.text(x, y + u(9) + i * u(18), line, 13, 500)
        edge = x + w - u(UNIT)
        kit.text(edge - u(4), y + u(9), show_number(q, desk.units), 14, 600, self.tone, "r")
        kit.text(edge, y + u(9), desk.units.unit(q.kind).label, 12, 400, "ink2")
        top = y + u(18) * len(title) + u(10)
        lines = self._lines(desk, w)
        for i, line in enumerate(lines):
            kit.text(x + u(8), top + i * u(15), line, 11.5, 400, "ink2")
        kit.line(x + u(2), top - u(7), x + u(2), top + (len(lines) - 1) * u(15) + u(7), "hair", 2)


@dataclass(eq=False, repr=False)
class Fact(Item):
    """A worked-out value without a sum: a name, a number, where it came from."""

    label: str
    value: str
    unit: str = ""
    under: str = ""

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(22) + (
            len(wrapped(desk.look, self.under, width, 11.5)) * desk.look.u(15) if self.under else 0
        )

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        edge = x + w - (kit.u(UNIT) if self.unit else 0)
        kit.text(x, y + kit.u(10), self.label, 13)
        kit.text(edge - kit.u(4), y + kit.u(10), self.value, 14, 600, "ink", "r")
        if self.unit:
            kit.text(edge, y + kit.u(10), self.unit, 12, 400, "ink2")
        if self.under:
            kit.lines(x, y + kit.u(27), self.under, w, 11.5, 400, "ink2", 15)


@dataclass(eq=False, repr=False)
class Write(Item):
    """A ruled number: yours to write, in place."""

    label: str
    quantity: Quantity | None
    kind: str
    done: Callable[[float], object]
    unset: str = ""
    doubt: Callable[[float], str] | None = None
    emptied: Callable[[], object] | None = None
    """What an entry taken away does, where the number may be left out again."""

    def _label(self, desk: Desk, width: float) -> list[str]:
        return wrapped(desk.look, self.label, width - desk.look.u(UNIT + 4 + RULED + 4), 13, 600)

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(26) + (len(self._label(desk, width)) - 1) * desk.look.u(15)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        on = editor is not None and editor.hasFocus()
        for i, line in enumerate(self._label(desk, w)):
            kit.text(x, y + kit.u(12 + 15 * i), line, 13, 600 if on else 400, "indigo" if on else "ink")
        kit.text(x + w - kit.u(UNIT), y + kit.u(12), desk.units.unit(self.kind).label, 12, 400, "ink2")

    def editor(self, desk: Desk, parent: QWidget) -> QWidget | None:
        editor: Any = QuantityField(desk, self.label, self.quantity, self.kind, parent)
        editor.setPlaceholderText(self.unset)
        editor.doubt, editor.may_be_empty = self.doubt, self.emptied is not None
        editor.changed.connect(lambda value: _carry_out(desk, editor, value))
        editor.emptied.connect(lambda: _carry_out(desk, editor))
        editor.item = self
        return editor

    def refresh(self, editor: Any) -> None:
        editor.item, editor.doubt, editor.may_be_empty = self, self.doubt, self.emptied is not None
        editor.setAccessibleName(self.label)
        editor.show_quantity(self.quantity)

    def place(self, desk: Desk, editor: QWidget, x: float, y: float, w: float) -> None:
        u = desk.look.u
        wide = u(RULED)
        editor.setGeometry(round(x + w - u(UNIT + 4) - wide), round(y + u(1)), wide, u(23))


@dataclass(eq=False, repr=False)
class WriteText(Item):
    """A ruled text."""

    label: str
    text: str
    done: Callable[[str], object]

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(26)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        on = editor is not None and editor.hasFocus()
        kit.text(x, y + kit.u(12), self.label, 13, 600 if on else 400, "indigo" if on else "ink")

    def editor(self, desk: Desk, parent: QWidget) -> QWidget | None:
        editor: Any = Field(desk, self.label, parent, right=False)
        editor.show_text(self.text)
        editor.item = self
        editor.entered.connect(lambda text: _carry_out(desk, editor, text))
        return editor

    def refresh(self, editor: Any) -> None:
        editor.item = self
        editor.show_text(self.text)

    def place(self, desk: Desk, editor: QWidget, x: float, y: float, w: float) -> None:
        u = desk.look.u
        editor.setGeometry(round(x + u(96)), round(y + u(1)), round(w - u(96)), u(23))


@dataclass(eq=False, repr=False)
class Pick(Item):
    """One of several, by a word with an unfold mark."""

    label: str
    value: str
    options: tuple[tuple[str, str], ...]
    done: Callable[[str], object]

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(30)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        kit.text(x, y + kit.u(14), self.label, 13)

    def editor(self, desk: Desk, parent: QWidget) -> QWidget | None:
        editor = PickChoice(desk, self, parent)
        return editor

    def refresh(self, editor: Any) -> None:
        editor.take(self)

    def place(self, desk: Desk, editor: QWidget, x: float, y: float, w: float) -> None:
        wide = min(editor.sizeHint().width(), round(w - desk.look.u(70)))
        editor.setGeometry(round(x + w - wide), round(y), wide, desk.look.u(28))


class PickChoice(Choice):
    """The choice of a Pick; keeps the newest item, so that a press acts on what is shown."""

    def __init__(self, desk: Desk, item: Pick, parent: QWidget) -> None:
        super().__init__(desk, "", lambda: list(self.item.options), lambda key: self.item.done(key), parent)
        self.take(item)

    def take(self, item: Pick) -> None:
        self.item = item
        self.shown = ""
        self.show_value(item.value)
        self.setAccessibleName(f"{item.label}: {item.value}")


@dataclass(eq=False, repr=False)
class Do(Item):
    """A tag in the card. A disabled one says why, next to it."""

    label: str
    done: Callable[[], object] = field(compare=False)
    why_not: str = ""

    def height(self, desk: Desk, width: float) -> float:
        extra = len(wrapped(desk.look, self.why_not, width, 12)) * desk.look.u(16) if self.why_not else 0
        return desk.look.u(28) + 2 * MARGIN + extra

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        if self.why_not:
            kit.lines(x, y + kit.u(28) + 2 * MARGIN + kit.u(6), self.why_not, w, 12, 400, "ink2", 16)

    def editor(self, desk: Desk, parent: QWidget) -> QWidget | None:
        editor: Any = Tag(desk, self.label, parent, lambda: editor.item.done())
        editor.item = self
        editor.setEnabled(not self.why_not)
        return editor

    def refresh(self, editor: Any) -> None:
        editor.item = self
        editor.set_label(self.label)
        editor.setEnabled(not self.why_not)

    def place(self, desk: Desk, editor: QWidget, x: float, y: float, w: float) -> None:
        size = editor.sizeHint()
        editor.setGeometry(round(x) - MARGIN, round(y), min(size.width(), round(w) + 2 * MARGIN), size.height())


@dataclass(eq=False, repr=False)
class Sketch(Item):
    """A small drawing."""

    tall: float
    drawing: Callable[[Kit, float, float, float, float], None] = field(compare=False)

    def height(self, desk: Desk, width: float) -> float:
        return desk.look.u(self.tall)

    def paint(self, kit: Kit, desk: Desk, x: float, y: float, w: float, editor: QWidget | None) -> None:
        self.drawing(kit, x, y, w, kit.u(self.tall))


@dataclass(eq=False, repr=False)
class Page:
    """A card's content."""

    title: str
    subtitle: str
    items: tuple[Item, ...]
    subject: tuple = ()
