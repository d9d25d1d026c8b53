"""The tag: actions, remedies and choices. One shape, its left corners cut, a hole."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QSize, QTimer
from PyQt6.QtWidgets import QMenu, QWidget

from karakuri.model.finding import Remedy, show_reserve
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, text_width
from karakuri.workbench.marks import arrow, tag_path, tumbler, unfold
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Press

MARGIN = 4
SECTION = "\x1f"
"""The key of what only heads a few choices of a list."""
MENU = """QMenu{{background:{card};color:{ink};border:1px solid {rule};padding:4px;}}
QMenu::item{{padding:6px 22px 6px 12px;}} QMenu::item:selected{{background:{indigo};color:{card};}}
QMenu::section{{color:{ink3};padding:4px 10px;}}"""


class Tag(Press):
    """A action: text in a tag. A press does it."""

    def __init__(
        self, desk: Desk, text: str, parent: QWidget | None = None, action: Callable[[], None] | None = None
    ) -> None:
        super().__init__(desk, text, parent)
        self.label = text
        if action is not None:
            self.clicked.connect(lambda: action())

    def set_label(self, text: str) -> None:
        self.label = text
        self.setAccessibleName(text)
        self.updateGeometry()
        self.update()

    def tall(self) -> int:
        return self.u(28 if self.desk.look.scale < 1.25 else 24.5)

    def inner_width(self) -> float:
        return text_width(self.desk.look, self.label, 12, 500)

    def sizeHint(self) -> QSize:
        return QSize(round(self.inner_width()) + self.u(28) + 2 * MARGIN, self.tall() + 2 * MARGIN)

    def draw(self, kit: Kit) -> None:
        w, h, m = self.width() - 2 * MARGIN, self.height() - 2 * MARGIN, MARGIN
        on, cut = self.isChecked() or self.isDown(), self.u(8)
        if not self.isEnabled():
            kit.draw(tag_path(m, m, w, h, cut), None, "rule", 1, "dot")
            kit.text(m + self.u(18), m + h / 2, self.label, 12, 400, "ink3")
            return
        fill = "indigo" if on else "indigo_t" if self.hot() else "card"
        kit.draw(tag_path(m, m, w, h, cut), fill, "indigo" if self.hot() or on else "rule", 1.8 if self.hot() else 1)
        kit.circle(m + cut + 1, m + h / 2, 2.2, "paper", "indigo" if self.hot() else "rule")
        self.fill_in(kit, m + self.u(18), m + h / 2, "card" if on else "indigo")
        if self.hasFocus():
            kit.draw(tag_path(1, 1, self.width() - 2, self.height() - 2, cut + 2), None, "indigo", 2)

    def fill_in(self, kit: Kit, x: float, y: float, colour: str) -> None:
        kit.text(x, y, self.label, 12, 500, colour)


class RemedyTag(Tag):
    """What it does, arrow, tumbler, new reserve; resting on it or focusing it shows its effect, a press does it."""

    def __init__(self, desk: Desk, remedy: Remedy, parent: QWidget | None = None) -> None:
        self.remedy = remedy
        super().__init__(desk, remedy.label.show(desk.units), parent)
        self.clicked.connect(self._take)
        self._rest = QTimer(self, singleShot=True, interval=400)
        self._rest.timeout.connect(self._show)
        self.set_words()

    def _take(self) -> None:
        """Do it; for half a second no other remedy answers, and all keep their places, so that a second press takes nothing else."""
        hold = getattr(self.parent(), "hold_remedies", None)
        if hold is None or hold():
            self.desk.edit(self.remedy.edit)

    def set_words(self) -> None:
        r = self.remedy
        self.label = r.label.show(self.desk.units)
        self.number = show_reserve(r.reserve) if r.reserve is not None else ""
        self.worse = "; ".join(r.worse)
        spoken = f"{self.label}, then {r.verdict} {self.number}" + (f"; {self.worse}" if self.worse else "")
        self.setAccessibleName(spoken)
        self.setToolTip(spoken)

    def inner_width(self) -> float:
        look = self.desk.look
        width = text_width(look, self.label, 12, 500) + self.u(42) + text_width(look, self.number, 13, 700)
        return width + (text_width(look, self.short_worse(), 11.5) + self.u(8) if self.worse else 0)

    def short_worse(self) -> str:
        first = self.remedy.worse[0] if self.remedy.worse else ""
        return first + (f" and {len(self.remedy.worse) - 1} more" if len(self.remedy.worse) > 1 else "")

    def fill_in(self, kit: Kit, x: float, y: float, colour: str) -> None:
        ink = colour if colour == "card" else VERDICT[self.remedy.verdict][0]
        x = kit.text(x, y, self.label, 12, 500, colour) + self.u(6)
        arrow(kit, x, y, self.u(11), "card" if colour == "card" else "ink3")
        tumbler(kit, x + self.u(24), y - 1, self.u(14), self.remedy.verdict)
        x = kit.text(x + self.u(35), y, self.number, 13, 700, ink)
        if self.worse:
            kit.text(x + self.u(8), y, self.short_worse(), 11.5, 400, "card" if colour == "card" else "ink2")

    def _show(self) -> None:
        self.desk.set_preview(self.remedy.edit, self.label)

    def event(self, event) -> bool:
        kind = event.type()
        if kind in (QEvent.Type.HoverEnter, QEvent.Type.FocusIn):
            self._rest.start()
        elif kind in (QEvent.Type.HoverLeave, QEvent.Type.FocusOut, QEvent.Type.Hide):
            self._rest.stop()
            if self.desk.preview is not None:
                self.desk.set_preview(None)
        return super().event(event)


class Choice(Press):
    """A word with an unfold mark; a press opens the list of what else it may be."""

    def __init__(
        self,
        desk: Desk,
        caption: str,
        options: Callable[[], list[tuple[str, str]]],
        pick: Callable[[str], None],
        parent: QWidget | None = None,
        bold: bool = True,
    ) -> None:
        super().__init__(desk, caption, parent)
        self.caption, self.options, self.pick, self.shown, self.bold = caption, options, pick, "", bold
        self.clicked.connect(self.unfold)
        self.menu: QMenu | None = None

    def show_value(self, text: str) -> None:
        if text != self.shown:
            self.shown = text
            self.setAccessibleName(f"{self.caption}: {text}" if self.caption else text)
            self.updateGeometry()
            self.update()

    def sizeHint(self) -> QSize:
        look = self.desk.look
        caption = text_width(look, self.caption, 12) + self.u(7) if self.caption else 0
        return QSize(round(caption + text_width(look, self.shown, 13, 600)) + self.u(24), self.u(28))

    def draw(self, kit: Kit) -> None:
        y, x = self.height() / 2, self.u(4)
        if self.hot():
            kit.rect(0, 2, self.width(), self.height() - 4, "sel")
        if self.caption:
            x = kit.text(x, y, self.caption, 12, 400, "ink3") + self.u(7)
        shown = kit.short(self.shown, self.width() - x - self.u(16), 13, 600 if self.bold else 400)
        x = kit.text(x, y, shown, 13, 600 if self.bold else 400, "indigo") + self.u(8)
        unfold(kit, x, y + 1)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def unfold(self) -> None:
        """Open the list; keyboard works in it as in any menu."""
        self.menu = QMenu(self)
        self.menu.setStyleSheet(MENU.format(**self.desk.look.colours))
        self.menu.setAccessibleName(self.caption or "choice")
        for key, words in self.options():
            if key == SECTION:
                self.menu.addSection(words)
                continue
            action = self.menu.addAction(words)
            action.setData(key)
            action.triggered.connect(lambda _=False, key=key: self.pick(key))
        self.menu.popup(self.mapToGlobal(QPoint(0, self.height())))
