"""The window: rail, top line, bench, card and strip; where each stands, and which is in front."""

from __future__ import annotations

import importlib
import itertools
import weakref
from functools import cached_property

from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QColor, QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import QMainWindow, QWidget

from karakuri.session.session import Session
from karakuri.study.line import Line
from karakuri.workbench.benches.symptom_page import symptom_page
from karakuri.workbench.desk import NEW, Desk
from karakuri.workbench.filing import Filing
from karakuri.workbench.keys import bind, pressed
from karakuri.workbench.making import Making
from karakuri.workbench.recovery import Recovery
from karakuri.workbench.widgets.card import Card
from karakuri.workbench.widgets.find import carry_out
from karakuri.workbench.widgets.say import Say
from karakuri.workbench.widgets.stop import StopButton
from karakuri.workbench.widgets.strip import HEAD, ROW, Strip
from karakuri.workbench.widgets.tag import Tag
from karakuri.workbench.widgets.top import Rail, Top


class Window(QMainWindow):
    """1280 × 800 at first. `in_place` makes studies run in the caller's thread, for tests."""

    def __init__(self, session: Session | None = None, in_place: bool = False, line: Line | None = None) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Karakuri")
        self.desk = desk = Desk(session or Session(), in_place, line)
        if not in_place:  # studied beside the building of all that shows it
            desk.look_over()
        self.middle = Ground(desk, self)
        self.setCentralWidget(self.middle)
        self.making, self.filing, self.recovery = Making(self), Filing(self), Recovery(self)
        self.top, self.rail = Top(desk, self.middle), Rail(desk, self.middle)
        self.benches = Benches(self)
        self.card, self.strip, self.note = Card(desk, self.middle), Strip(desk, self.middle), Say(desk, self.middle)
        self.stop = StopButton(desk, self.middle)
        self.slide = Tag(desk, "Card", self.middle, self.toggle_card)
        self.slide.setCheckable(True)
        self.card_out, self.was_over, self.folded = True, False, False
        self.centre = (0, 0, 900, 600)
        self.top.finder.returnPressed.connect(self._find)
        desk.turned.connect(self._turned)
        desk.looked.connect(self.relook)
        desk.said.connect(self._say)
        for signal in (desk.changed, desk.studied, desk.selected, desk.looked):
            signal.connect(self._page)
        desk.remedied.connect(lambda: self._page() if desk.bench == "drive" else None)
        self._paging = QTimer(self, singleShot=True, interval=0)
        self._paging.timeout.connect(self._show_page)
        desk.boarded.connect(self._boarded)
        desk.wanted.connect(lambda words: self.exports.carry_out(words))
        bind(self)
        self.resize(1280, 800)
        desk.turn_to(NEW if session is None else "figure")
        self.middle.setFocus()
        if in_place:
            desk.look_over()

    # ---- layout
    def relook(self) -> None:
        self.lay()
        for child in self.middle.findChildren(QWidget):
            if hasattr(child, "dress"):
                child.dress()
            child.update()
        for bench in self.benches.values():
            if hasattr(bench, "refresh"):
                bench.refresh()
        self.strip.relook()
        self.card.resizeEvent(None)
        self.card.body.lay()
        self._show_page()

    def overlapping(self) -> bool:
        """Below 1180 design pixels the card slides over the view."""
        return self.middle.width() < self.desk.look.u(1180)

    def lay(self) -> None:
        u, w, h = self.desk.look.u, self.middle.width(), self.middle.height()
        over = self.overlapping()
        if over != self.was_over:
            self.was_over, self.card_out = over, not over
        rail = u(76) if not over else u(62)
        rows = 3 if h < 1000 else 4 if h < 1300 else 6
        new = self.desk.making_anew  # what is found of the figure that was open is not of the one to be made
        strip = 0 if new else u(HEAD) + (1 if self.folded else 2 if over else rows) * u(ROW) + u(3)
        self.strip.setVisible(not new)
        card = u(276) if w < u(1600) else u(320)
        top = u(44)
        self.rail.setGeometry(0, 0, rail, h)
        self.top.setGeometry(rail, 0, w - rail, top)
        self.strip.setGeometry(rail, h - strip, w - rail, strip)
        centre = w - rail - (0 if over else card)
        self.centre = (rail, top, centre, h - top - strip)
        for bench in self.benches.values():
            bench.setGeometry(*self.centre)
        self.card.setGeometry(w - card, top, card, h - top - strip)
        self.card.setVisible(not over or self.card_out)
        self.card.raise_()
        self.slide.setVisible(over)
        size = self.slide.sizeHint()
        self.slide.setChecked(self.card_out)
        self.slide.setGeometry(0, h - size.height() - u(6), min(size.width(), rail), size.height())
        self.slide.raise_()
        wide, tall = self.stop.size_wanted()
        foot = self.slide.y() if over else h
        self.stop.setGeometry((rail - min(wide, rail - 4)) // 2, foot - tall - u(10), min(wide, rail - 4), tall)
        self.stop.raise_()
        self.note.place(rail + u(16), h - strip - u(6), min(u(640), centre - u(32)))

    def _boarded(self) -> None:
        """A board may be driven from now on: Stop appears while one is joined, and Esc is its key first of all."""
        escape = QShortcut(QKeySequence("Esc"), self)
        escape.setContext(Qt.ShortcutContext.ApplicationShortcut)
        escape.setEnabled(False)
        board = self.desk.board
        self._stood: object = None
        escape.activated.connect(board.stop)

        def look() -> None:
            self.stop.setVisible(board.joined)
            escape.setEnabled(board.moving)
            stands = (board.state, board.trial)
            if self.desk.bench == "rehearse" or (self.desk.bench == "limits" and stands != self._stood):
                self._page()
            self._stood = stands

        board.changed.connect(look)

    def toggle_card(self) -> None:
        self.card_out = not self.card_out
        self.lay()

    def _turned(self) -> None:
        front = self.benches[self.desk.bench]
        if self.strip.isHidden() != self.desk.making_anew:
            self.lay()
        for bench in self.benches.values():
            bench.setVisible(bench is front)
        self._show_page()
        self._order()

    def _order(self) -> None:
        """Tab goes: rail, top line, bench, card, strip."""
        bench = self.benches[self.desk.bench]
        chain = [
            *self.rail.buttons,
            self.top.posture,
            self.top.pose,
            self.top.units,
            self.top.undo,
            self.top.redo,
            self.top.finder,
        ]
        chain += [c for c in bench.findChildren(QWidget) if c.focusPolicy() & Qt.FocusPolicy.TabFocus]
        chain += list(self.card.body.editors.values())
        for row, tags in zip(self.strip.rows, self.strip.tags, strict=True):
            chain += [row, *tags]
        for a, b in itertools.pairwise(chain):
            QWidget.setTabOrder(a, b)

    def _page(self) -> None:
        self._paging.start()

    def _show_page(self) -> None:
        ref = self.desk.subject
        page = symptom_page(self.desk, ref.id) if ref.kind == "symptom" else self.benches[self.desk.bench].page()
        self.card.show_page(page)

    # ---- what keys and cards ask for
    def keyPressEvent(self, event) -> None:
        if not pressed(self, event):
            super().keyPressEvent(event)

    def grow_text(self, by: float) -> None:
        self.desk.set_scale(round(self.desk.look.scale + by, 2))

    def fold_findings(self) -> None:
        """The strip to its head and the worst row, or back."""
        self.folded = not self.folded
        self.lay()

    def to_find(self) -> None:
        self.top.finder.setFocus()
        self.top.finder.selectAll()

    def _find(self) -> None:
        self.desk.said.emit(carry_out(self, self.top.finder.text()))
        self.top.finder.show_text("")
        self.top.finder.setText("")

    def to_bench(self, bench: str) -> None:
        """A bench by its key; the hand goes to its card."""
        self.filing.leave_field()
        self.desk.turn_to(bench)
        self.focus_card()

    def focus_card(self) -> None:
        for item in self.card.body.page.items:
            editor = self.card.body.editor_of(item)
            if editor is not None:
                editor.setFocus()
                return

    def focus_field(self, label: str) -> None:
        self._show_page()
        self.card_out = True
        self.lay()
        self.card.focus_item(label)

    # ---- actions
    @cached_property
    def exports(self):
        """Files out and in; what they need is imported when it is first wanted."""
        from karakuri.workbench.exports import Exports

        return Exports(self)

    def _say(self, text: str) -> None:
        if text:
            self.note.say(text)

    def changeEvent(self, event) -> None:
        """Back from another window: the file may have been changed there."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and hasattr(self, "desk"):
            self.filing.look_at_disk()

    def closeEvent(self, event) -> None:
        self.filing.leave_field()
        if not self.filing.may_leave():
            event.ignore()
            return
        if "exports" in self.__dict__:
            self.exports.close()
        self.desk.session.close()
        self.desk.close()
        event.accept()


class Benches(dict):
    """Benches by name, each made when it is first turned to."""

    def __init__(self, window: Window) -> None:
        super().__init__()
        self._window = weakref.ref(window)

    def __missing__(self, name: str):
        window = self._window()
        module = importlib.import_module(f"karakuri.workbench.benches.{name}")
        bench_class = getattr(module, f"{name.capitalize()}Bench")
        extra = (window,) if name in (NEW, "figure") else ()
        self[name] = bench = bench_class(window.desk, window.middle, *extra)
        bench.hide()
        bench.lower()
        bench.setGeometry(*window.centre)
        return bench


class Ground(QWidget):
    """The central widget: lays out its window when it is resized, and is paper where nothing else is."""

    def __init__(self, desk: Desk, window: Window) -> None:
        super().__init__(window)
        self.desk, self._window = desk, window

    def resizeEvent(self, event) -> None:
        if hasattr(self._window, "slide"):
            self._window.lay()

    def paintEvent(self, event) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.desk.look.colours["paper"]))
        painter.end()
