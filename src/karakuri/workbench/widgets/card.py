"""The card at the right: a large tag on a brass thread. Ruled is yours to write, unruled is worked out."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QScrollArea, QWidget

from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.widgets.field import Field, QuantityField
from karakuri.workbench.widgets.items import Item, Page
from karakuri.workbench.widgets.sheet import Sheet


class CardBody(Sheet):
    """Items under each other; editors are kept by key, so that the hand stays where it is when values change."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(desk, "card", parent)
        self.page = Page("", "", ())
        self.editors: dict[str, QWidget] = {}
        self.spots: list[tuple[Item, float]] = []
        self.trouble: dict[str, str] = {}

    def show_page(self, page: Page) -> None:
        if page.subject != self.page.subject:
            self.trouble = {}
        self.page = page
        self.setAccessibleName(f"card: {page.title}")
        wanted: dict[str, QWidget] = {}
        previous: QWidget | None = None
        for item in page.items:
            kept = self.editors.pop(f"{page.subject}{type(item).__name__}{item.key}", None)
            if kept is None:
                kept = item.editor(self.desk, self)
                if kept is not None:
                    self._listen(item, kept)
                    kept.show()
            else:
                item.refresh(kept)
            if kept is not None:
                wanted[f"{page.subject}{type(item).__name__}{item.key}"] = kept
                if previous is not None:
                    self.setTabOrder(previous, kept)
                previous = kept
        if any(old.hasFocus() for old in self.editors.values()):
            self.setFocus()  # else Qt hands it to whatever comes next, and the card scrolls there
        for old in self.editors.values():
            old.blockSignals(True)
            old.hide()
            old.deleteLater()
        self.editors = wanted
        self.lay()

    def _listen(self, item: Item, editor: QWidget) -> None:
        key = item.key
        if isinstance(editor, QuantityField):
            editor.troubled.connect(lambda text: self._trouble(key, text))
            editor.changed.connect(lambda _: self._trouble(key, ""))
        if isinstance(editor, Field):
            editor.stirred.connect(self.lay)

    def _trouble(self, key: str, text: str) -> None:
        self.trouble[key] = text
        self.lay()

    def editor_of(self, item: Item) -> QWidget | None:
        return self.editors.get(f"{self.page.subject}{type(item).__name__}{item.key}")

    def under(self, item: Item) -> str:
        """What stands below a field: trouble with what was typed, or what it would give."""
        editor = self.editor_of(item)
        if self.trouble.get(item.key) and isinstance(editor, Field) and editor.isModified():
            return self.trouble[item.key]
        return editor.preview() if isinstance(editor, QuantityField) and editor.hasFocus() else ""

    def lay(self) -> None:
        u, x = self.u, self.u(14)
        w = self.width() - 2 * x
        y = float(u(58) + (len(self._title()) - 1) * u(21) + (len(self._subtitle()) - 1) * u(15))
        self.spots = []
        for item in self.page.items:
            self.spots.append((item, y))
            editor = self.editor_of(item)
            if editor is not None:
                item.place(self.desk, editor, x, y, w)
            y += item.height(self.desk, w)
            below = self.under(item)
            if below:
                y += len(wrapped(self.desk.look, below, w, 12)) * u(16)
        self.setMinimumHeight(round(y) + u(10))
        self.resize(
            self.width(), max(self.minimumHeight(), self.height() if self.height() > self.minimumHeight() else 0)
        )
        self.update()

    def _title(self) -> list[str]:
        return wrapped(self.desk.look, self.page.title, self.width() - 2 * self.u(14), 18, 600)

    def _subtitle(self) -> list[str]:
        return wrapped(self.desk.look, self.page.subtitle, self.width() - 2 * self.u(14), 12)

    def resizeEvent(self, event) -> None:
        if event.oldSize().width() != event.size().width():
            self.lay()

    def draw(self, kit: Kit) -> None:
        u, x = self.u, self.u(14)
        w = self.width() - 2 * x
        kit.rect(0, 0, self.width(), self.height(), "card")
        y = float(u(24))
        for line in self._title():
            kit.text(x, y, line, 18, 600)
            y += u(21)
        y -= u(2)
        for line in self._subtitle():
            kit.text(x, y, line, 12, 400, "ink3")
            y += u(15)
        for item, top in self.spots:
            item.paint(kit, self.desk, x, top, w, self.editor_of(item))
            below = self.under(item)
            if below:
                kit.lines(x, top + item.height(self.desk, w) + u(6), below, w, 12, 400, "ink2", 16)


class Card(Sheet):
    """The tag with its hole and thread, and the body that scrolls alone if long."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "card", parent)
        self.area = QScrollArea(self)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidgetResizable(True)
        self.body = CardBody(desk)
        self.area.setWidget(self.body)
        self.area.verticalScrollBar().valueChanged.connect(lambda _: self.update())
        self.over = False

    def show_page(self, page: Page) -> None:
        other = page.subject != self.body.page.subject
        self.body.show_page(page)
        if other:
            self.area.verticalScrollBar().setValue(0)
        self.update()

    def focus_item(self, label: str) -> bool:
        """Put the hand on the field whose label begins so."""
        for item in self.body.page.items:
            editor = self.body.editor_of(item)
            if editor is not None and getattr(item, "label", "").startswith(label):
                editor.setFocus()
                if isinstance(editor, Field):
                    editor.selectAll()
                QTimer.singleShot(0, lambda shown=editor: self.area.ensureWidgetVisible(shown, 10, 40))
                return True
        return False

    def resizeEvent(self, event) -> None:
        u = self.u
        self.area.setGeometry(u(10) + 2, u(10) + u(16), self.width() - u(20) - 4, self.height() - u(20) - u(18))

    def draw(self, kit: Kit) -> None:
        u, w, h = kit.u, self.width(), self.height()
        kit.rect(0, 0, w, h, "desk")
        kit.line(0.5, 0, 0.5, h, "rule")
        x, y, ww, hh, cut = u(10), u(10), w - u(20), h - u(20), u(16)
        kit.draw(
            Kit.path(
                [(x + cut, y), (x + ww - cut, y), (x + ww, y + cut), (x + ww, y + hh), (x, y + hh), (x, y + cut)], True
            ),
            "card",
            "rule",
        )
        mid = x + ww / 2
        kit.circle(mid, y + u(9), u(4.5), "desk", "brass_f", 1.6)
        thread = QPainterPath()
        thread.moveTo(mid, y + u(6))
        thread.cubicTo(mid - 2, y - 4, mid + 6, y - 6, mid + 4, y - u(10))
        kit.draw(thread, None, "brass_f", 1.6)
        bar = self.area.verticalScrollBar()
        if bar.maximum() > 0:
            top, tall = y + u(30), hh - u(40)
            share = self.area.height() / (bar.maximum() + self.area.height())
            at = top + tall * (1 - share) * bar.value() / bar.maximum()
            kit.line(x + ww - 4, top, x + ww - 4, top + tall, "hair", 2)
            kit.line(x + ww - 4, at, x + ww - 4, at + tall * share, "rule", 4)
