"""The window: rail, top line, bench, card and strip; long for its room because all actions of the whole window live here."""

from __future__ import annotations

import contextlib
import importlib
import itertools
import weakref
from functools import cached_property
from pathlib import Path

from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QColor, QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit, QMainWindow, QMessageBox, QWidget

from karakuri.errors import Trouble
from karakuri.files.disk import SUFFIX
from karakuri.model.edit import Edit
from karakuri.model.edits import add_joint, add_part, fresh_part, remove_item
from karakuri.model.joint_edits import fresh_joint
from karakuri.model.ref import Ref, item_of
from karakuri.model.sides import twin_joint, twin_part
from karakuri.session.session import Session
from karakuri.study.line import Line
from karakuri.workbench.benches.pose_page import keep
from karakuri.workbench.desk import Desk
from karakuri.workbench.routes import BENCHES
from karakuri.workbench.stage.elevation import Elevation
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
        actions = {
            "new": self.new,
            "open": self.open,
            "save": self.save,
            "save as": self.save_as,
            "joint": self.add_joint,
            "part": self.add_part,
            "edit": lambda: self.focus_field("Name"),
            "replace": self.replace,
            "open path": self.open_path,
        }
        self.top, self.rail = Top(desk, self.middle), Rail(desk, self.middle)
        self.benches = Benches(self, actions)
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
        desk.saved.connect(self._saved)
        desk.overwritten.connect(self._overwritten)
        for signal in (desk.changed, desk.studied, desk.selected, desk.looked):
            signal.connect(self._page)
        desk.remedied.connect(lambda: self._page() if desk.bench == "drive" else None)
        self._paging = QTimer(self, singleShot=True, interval=0)
        self._paging.timeout.connect(self._show_page)
        desk.boarded.connect(self._boarded)
        desk.wanted.connect(lambda words: self.exports.carry_out(words))
        self._keys()
        self.resize(1280, 800)
        desk.turn_to("start" if session is None else "figure")
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
        strip = u(HEAD) + (1 if self.folded else 2 if over else rows) * u(ROW) + u(3)
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
        self.note.setGeometry(rail + u(16), h - strip - u(92), min(u(640), centre - u(32)), u(86))

    def _boarded(self) -> None:
        """A board may be driven from now on: Stop appears while one is joined, and Esc is its key first of all."""
        escape = QShortcut(QKeySequence("Esc"), self)
        escape.setContext(Qt.ShortcutContext.ApplicationShortcut)
        escape.setEnabled(False)
        board = self.desk.board
        escape.activated.connect(board.stop)

        def look() -> None:
            self.stop.setVisible(board.joined)
            escape.setEnabled(board.moving)
            if self.desk.bench == "rehearse":
                self._page()

        board.changed.connect(look)

    def toggle_card(self) -> None:
        self.card_out = not self.card_out
        self.lay()

    def _turned(self) -> None:
        front = self.benches[self.desk.bench]
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
        self.card.show_page(self.benches[self.desk.bench].page())

    # ---- keys
    def _keys(self) -> None:
        for keys, action in (
            (QKeySequence.StandardKey.Undo, self.desk.undo),
            (QKeySequence.StandardKey.Redo, self.desk.redo),
            ("Ctrl+Y", self.desk.redo),
            (QKeySequence.StandardKey.Save, self.save),
            ("Ctrl+Shift+S", self.save_as),
            (QKeySequence.StandardKey.Open, self.open),
            (QKeySequence.StandardKey.New, self.new),
            ("Ctrl+J", self.add_joint),
            ("Ins", self.add_part),
            ("Ctrl+D", self.twin),
            ("Ctrl+Shift+V", self.paste_parts),
            ("Alt+W", self._to_find),
            ("Alt+F", self.fold_findings),
            ("Ctrl++", lambda: self._text(0.1)),
            ("Ctrl+=", lambda: self._text(0.1)),
            ("Ctrl+-", lambda: self._text(-0.1)),
            ("Alt+Shift+1", lambda: self.strip.focus_remedy(0)),
            ("Alt+Shift+2", lambda: self.strip.focus_remedy(1)),
            ("Alt+Shift+3", lambda: self.strip.focus_remedy(2)),
            *((f"Alt+{i + 1}", lambda bench=bench: self.to_bench(bench)) for i, bench in enumerate(BENCHES)),
            ("Alt+C", lambda: self.focus_card()),
        ):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setAutoRepeat(False)
            shortcut.activated.connect(action)

    def keyPressEvent(self, event) -> None:
        """Bare letters act only while no text field has the focus."""
        if isinstance(QApplication.focusWidget(), QLineEdit):
            super().keyPressEvent(event)
            return
        bench = self.benches[self.desk.bench]
        if hasattr(bench, "key") and bench.key(event):
            return
        if event.key() == Qt.Key.Key_F and not event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        ):
            self.strip.go(-1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
        elif event.key() == Qt.Key.Key_W and not event.modifiers():
            self.focus_field("Mass")
        elif (
            event.key() == Qt.Key.Key_K
            and not event.modifiers()
            and self.desk.bench != "start"
            and self.desk.figure.joints
        ):
            self.keep_pose()
        elif event.key() == Qt.Key.Key_Delete:
            self.remove()
        elif event.key() == Qt.Key.Key_Escape:
            self.note.hide()
            self.desk.set_preview(None)
        else:
            super().keyPressEvent(event)

    def _text(self, by: float) -> None:
        self.desk.set_scale(round(self.desk.look.scale + by, 2))

    def fold_findings(self) -> None:
        """The strip to its head and the worst row, or back."""
        self.folded = not self.folded
        self.lay()

    def _to_find(self) -> None:
        self.top.finder.setFocus()
        self.top.finder.selectAll()

    def _find(self) -> None:
        self.desk.said.emit(carry_out(self, self.top.finder.text()))
        self.top.finder.show_text("")
        self.top.finder.setText("")

    def to_bench(self, bench: str) -> None:
        """A bench by its key; the hand goes to its card."""
        self._leave_field()
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

    def add_joint(self) -> None:
        """A joint with a default for every field, on what is in hand."""
        if self.desk.bench != "start":
            joint = fresh_joint(self.desk.figure, self._in_hand())
            if self.desk.edit(lambda: add_joint(joint)):
                self._take(Ref("joint", joint.id))

    def add_part(self) -> None:
        """A part without a mass yet, on what is in hand; where the pointer is, if that is over a drawing."""
        if self.desk.bench != "start":
            rides_on = self._in_hand()
            drawings = self.benches[self.desk.bench].findChildren(Elevation)
            away = next(
                (at for at in (drawing.away_mm(rides_on) for drawing in drawings) if at is not None), (0.0, 0.0, 40.0)
            )
            part = fresh_part(self.desk.figure, rides_on, away)
            if self.desk.edit(lambda: add_part(part)):
                self._take(Ref("part", part.id))

    def _in_hand(self) -> str:
        """What a new thing rides on: the joint in hand, what the part in hand rides on, else the last joint, else the base."""
        ref, item = self.desk.subject, item_of(self.desk.figure, self.desk.subject)
        if ref.kind == "joint" and item is not None:
            return ref.id
        if ref.kind == "part" and item is not None:
            return item.rides_on
        return self.desk.figure.joints[-1].id if self.desk.figure.joints else "base"

    def _take(self, ref: Ref) -> None:
        self.desk.select(ref)
        self.desk.turn_to("figure")
        self.focus_field("Name")

    def paste_parts(self) -> None:
        """A parts list from the clipboard, onto what is in hand where it does not say."""
        from karakuri.exchange.parts_table import parts_of

        clipboard = QApplication.clipboard()
        text, rides_on, desk = clipboard.text() if clipboard is not None else "", self._in_hand(), self.desk
        if desk.bench != "start" and desk.edit(lambda: parts_of(desk.figure, text, rides_on)):
            desk.said.emit(f"{desk.session.history.undo_name.capitalize()}: masses are guesses until they are weighed.")

    def keep_pose(self) -> None:
        """Keep the pose the figure has now; away from the score what is in hand stays in hand."""
        held = self.desk.subject
        if keep(self.desk) and self.desk.bench != "score":
            name = self.desk.figure.poses[-1].name
            self.desk.select(held)
            self.desk.said.emit(f"Kept as “{name}”; it is on the shelf of the Score bench.")

    def twin(self) -> None:
        """The twin on the other side of what is in hand: a part, or a joint with all that rides on it."""
        desk, ref = self.desk, self.desk.subject
        if ref.kind == "part":
            desk.edit(lambda: twin_part(desk.figure, ref.id))
        elif ref.kind == "joint":
            made: list[str] = []

            def edit() -> Edit:
                twin, ident = twin_joint(desk.figure, ref.id)
                made.append(ident)
                return twin

            if desk.edit(edit):
                self._take(Ref("joint", made[0]))

    def remove(self) -> None:
        ref = self.desk.subject
        if ref.kind in ("move", "pin") and hasattr(self.benches[self.desk.bench], "remove"):
            self.benches[self.desk.bench].remove()
        elif ref.kind in ("part", "joint", "pose"):
            self.desk.edit(lambda: remove_item(self.desk.figure, f"{ref.kind}s", ref.id))

    def new(self) -> None:
        self.desk.turn_to("start")
        self.focus_field("Name")

    def replace(self, session: Session) -> bool:
        """Put another figure on the desk, once nothing of this one can be lost."""
        if not self.may_leave():
            return False
        self.desk.replace(session)
        session.shown()
        self.desk.turn_to("figure")
        if session.path is not None:
            self.offer_recovery()
        return True

    def open(self) -> None:
        start = str(self.desk.session.path.parent) if self.desk.session.path else str(Path.home())
        name, _ = QFileDialog.getOpenFileName(self, "Open a figure", start, f"Figures (*{SUFFIX});;All files (*)")
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        try:
            session = Session.open(path)
        except Trouble as trouble:
            self._say(str(trouble))
            return
        self.replace(session)

    def save(self) -> None:
        self._leave_field()
        if self.desk.session.path is None:
            self.save_as()
        else:
            self.desk.save()

    def save_as(self) -> None:
        self._leave_field()
        folder = self.desk.session.path.parent if self.desk.session.path else Path.home()
        stem = self.desk.figure.name.lower().replace(" ", "-").replace("/", "-")
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the figure as", str(folder / f"{stem}{SUFFIX}"), f"Figures (*{SUFFIX})"
        )
        if name:
            self.desk.save(Path(name))

    def _leave_field(self) -> None:
        """What is being typed counts before it is saved."""
        focus = QApplication.focusWidget()
        if isinstance(focus, QLineEdit) and focus.isModified():
            focus.editingFinished.emit()

    def _saved(self, well: bool, text: str) -> None:
        self.top.note = ""
        self.top.refresh()
        if not well:
            self._say(text)

    def may_leave(self) -> bool:
        """True when nothing the builder made can be lost by leaving this figure."""
        session = self.desk.session
        if not session.dirty or (session.path is None and session.history.undo_name is None):
            return True
        box = QMessageBox(self)
        box.setWindowTitle("Karakuri")
        box.setText(f"{session.figure.name} has changes that are not saved.")
        box.setInformativeText("A copy of it is offered again the next time Karakuri starts.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        aside = box.addButton("Keep a copy, unsaved", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        box.exec()
        return self.leave_by({save: "save", aside: "aside"}.get(box.clickedButton(), "stay"))

    def leave_by(self, way: str) -> bool:
        """Carry out the choice of may_leave."""
        session = self.desk.session
        if way == "aside":
            if not session.keep_aside():
                self._say("It cannot be kept on this disk: save it, or stay.")
                return False
            return True
        if way == "stay":
            return False
        path = session.path
        if path is None:
            name, _ = QFileDialog.getSaveFileName(
                self, "Save the figure as", str(Path.home() / f"{session.figure.name}{SUFFIX}"), f"Figures (*{SUFFIX})"
            )
            if not name:
                return False
            path = Path(name)
        try:
            session.save(path)
        except Trouble as trouble:
            self._say(str(trouble))
            return False
        return True

    def offer_recovery(self) -> None:
        """After a crash: what was not saved can be taken back, as one undo step."""
        copy = self.desk.session.recoverable()
        if copy is None:
            return
        self.recovery = copy
        self.note.other.set_label("Leave it")
        self.note.other.clicked.connect(self._decline)
        self.note.other.show()
        self.note.ok.set_label("Take it back")
        self.note.ok.clicked.disconnect()
        self.note.ok.clicked.connect(self.recover)
        self.note.resizeEvent(None)
        self._say(
            f"Karakuri stopped before “{copy.name}” was saved. What it held on {copy.when()} is kept and can be taken back; one undo puts it away again."
        )
        self.note.timer.stop()

    def _decline(self) -> None:
        self._recovery_over()
        self.recovery.drop()

    def _recovery_over(self) -> None:
        self.note.hide()
        self.note.other.hide()
        self.note.ok.set_label("Understood")
        for tag in (self.note.ok, self.note.other):
            with contextlib.suppress(TypeError):
                tag.clicked.disconnect()
        self.note.ok.clicked.connect(self.note.hide)

    def recover(self) -> None:
        self._recovery_over()
        try:
            session = self.desk.session.recover(self.recovery)
        except Trouble as trouble:
            self._say(str(trouble))
            return
        if session is not self.desk.session:
            self.desk.replace(session)
        self.desk.turn_to("figure")
        self.desk.after_edit()

    def _overwritten(self, text: str) -> None:
        """The file was changed by another program: both, theirs, or mine."""
        box = QMessageBox(self)
        box.setWindowTitle("Karakuri")
        box.setText(text)
        both = box.addButton("Keep both", QMessageBox.ButtonRole.AcceptRole)
        theirs = box.addButton("Take theirs", QMessageBox.ButtonRole.DestructiveRole)
        mine = box.addButton("Write mine over it", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(both)
        box.setEscapeButton(stay)
        box.exec()
        self.settle_change({both: "both", theirs: "theirs", mine: "mine"}.get(box.clickedButton(), "stay"))

    def settle_change(self, way: str) -> None:
        """Carry out the choice of what becomes of a file changed by another program."""
        session = self.desk.session
        if way == "mine":
            self.desk.save(over=True)
        elif way == "theirs":
            try:
                session.take_theirs()
            except Trouble as trouble:
                self._say(str(trouble))
                return
            self.desk.after_edit()
        elif way == "both" and session.path is not None:
            stem = session.path.name.removesuffix(SUFFIX)
            free = (session.path.with_name(f"{stem} (mine{'' if n == 1 else f' {n}'}){SUFFIX}") for n in range(1, 1000))
            self.desk.save(next(path for path in free if not path.exists()))

    def changeEvent(self, event) -> None:
        """Back from another window: the file may have been changed there."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and hasattr(self, "desk"):
            session = self.desk.session
            if session.changed_on_disk and session.stamp != getattr(self, "_told_of", None):
                self._told_of = session.stamp
                self._say(f"{session.path.name} was changed by another program. Saving asks what becomes of it.")

    def closeEvent(self, event) -> None:
        self._leave_field()
        if not self.may_leave():
            event.ignore()
            return
        self.desk.session.close()
        self.desk.close()
        event.accept()


class Benches(dict):
    """Benches by name, each made when it is first turned to."""

    def __init__(self, window: Window, actions: dict) -> None:
        super().__init__()
        self._window, self._actions = weakref.ref(window), actions

    def __missing__(self, name: str):
        window = self._window()
        module = importlib.import_module(f"karakuri.workbench.benches.{name}")
        made = getattr(module, f"{name.capitalize()}Bench")
        extra = (self._actions,) if name in ("start", "figure") else ()
        self[name] = bench = made(window.desk, window.middle, *extra)
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
