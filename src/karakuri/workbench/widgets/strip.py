"""The findings strip: never hidden, worst first. A press on a sentence opens its bench with the part in hand."""

from __future__ import annotations

from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtWidgets import QWidget

from karakuri.model.finding import Action, Finding, show_reserve
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, fit
from karakuri.workbench.marks import tumbler
from karakuri.workbench.routes import lead_to, open_finding
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Press, Sheet
from karakuri.workbench.widgets.tag import RemedyTag, Tag

ROW, HEAD, HELD_MS, TWO_FROM = 40, 24, 500, 1600


class FindingRow(Press):
    """Mark, word, reserve or the rule's own measure, and the sentence."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "finding", parent)
        self.finding: Finding | None = None
        self.clicked.connect(self._open)

    def show_finding(self, finding: Finding) -> None:
        self.finding = finding
        sentence = finding.sentence.show(self.desk.units)
        number = show_reserve(finding.reserve) if finding.reserve is not None else ""
        self.setAccessibleName(f"{finding.verdict} {number} {sentence}")
        extra = finding.decides.show(self.desk.units) if finding.decides else ""
        self.setToolTip(extra or sentence)
        self.update()

    def _open(self) -> None:
        if self.finding is not None:
            open_finding(self.desk, self.finding)

    def sizeHint(self) -> QSize:
        return QSize(self.u(520), self.u(ROW))

    def draw(self, kit: Kit) -> None:
        f = self.finding
        if f is None:
            return
        if self.hot():
            kit.rect(0, 1, self.width(), self.height() - 2, "sel")
        y = self.height() / 2
        kit.line(0, 0.5, self.width(), 0.5, "hair")
        tumbler(kit, self.u(14), y - 1, self.u(20), f.verdict)
        colour = VERDICT[f.verdict][0]
        if f.verdict == "not yet judged":
            kit.text(self.u(32), y - self.u(8), "not yet", 12, 500, "ink2")
            kit.text(self.u(32), y + self.u(7), "judged", 12, 500, "ink2")
        else:
            kit.text(self.u(32), y, f.verdict, 13, 600, colour)
            if f.reserve is not None:
                kit.text(self.u(72), y, show_reserve(f.reserve), 15, 700, colour)
        sentence = f.sentence.show(self.desk.units)
        left = self.u(120)
        size, lines = fit(self.desk.look, sentence, self.width() - left - self.u(6), ((13, 2), (11.5, 3)))
        step = self.u(16 if size == 13 else 12.2)
        for i, line in enumerate(lines):
            kit.text(left, y + (i - (len(lines) - 1) / 2) * step, line, size)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)


class ActionTag(Tag):
    """What only a person can do: leads to the field that waits for it."""

    def __init__(self, desk: Desk, action: Action, parent: QWidget) -> None:
        super().__init__(desk, action.label, parent, lambda: self.go(action))

    def go(self, action: Action) -> None:
        label = lead_to(self.desk, action)
        window = self.window()
        if label and hasattr(window, "focus_field"):
            window.focus_field(label)


class Strip(Sheet):
    """Head with counts, then rows; the wheel and F go through those that do not fit."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Findings, worst first", parent)
        self.first = 0
        self.rows: list[FindingRow] = []
        self.tags: list[list[Tag]] = []
        self._shown: list[tuple] = []
        self._held = QTimer(self, singleShot=True, interval=HELD_MS)
        self._held.timeout.connect(self.refresh)
        desk.studied.connect(self.refresh)
        desk.remedied.connect(self.refresh)
        desk.hurried.connect(self.hurry)
        self.halt = Tag(desk, "Stop judging", self, desk.give_up)
        self.halt.hide()
        for signal in (desk.progressed, desk.studied, desk.changed):
            signal.connect(self._progress)
        desk.looked.connect(self.relook)

    def hold_remedies(self) -> bool:
        """Keep all rows and remedies where they are for half a second; False while that lasts already."""
        if self._held.isActive():
            return False
        self._held.start()
        return True

    def relook(self) -> None:
        self._shown = []
        self.refresh()

    def hurry(self) -> None:
        """While a hand is dragging the findings come before the drawings: painted at once, before anything else wants to be."""
        self.refresh()
        self.repaint()

    def _progress(self) -> None:
        """A study that takes long: how far it is, and a way to end it."""
        self.halt.setVisible(self.desk.progress is not None)
        size = self.halt.sizeHint()
        self.halt.setGeometry(
            self.width() - self.u(8) - size.width(), 0, size.width(), min(size.height(), self.u(HEAD))
        )
        if self.desk.study is None:
            self.update()
        else:  # its rows and their remedies change with what is found alone
            self.update(0, 0, self.width(), self.u(HEAD))

    def _going(self, kit: Kit, y: float) -> None:
        """What is being judged, and how far it is."""
        what, share = self.desk.progress
        right = self.halt.x() - self.u(10)
        wide = self.u(90)
        kit.line(right - wide, y, right, y, "hair", 5)
        kit.line(right - wide, y, right - wide * (1 - share), y, "indigo", 5)
        kit.text(right - wide - self.u(8), y, f"judging {what}", 12, 400, "ink2", "r")

    def columns(self) -> int:
        """Two where there is room for two sentences with their remedies."""
        return 2 if self.width() >= self.u(TWO_FROM) else 1

    def visible_rows(self) -> int:
        return max(1, (self.height() - self.u(HEAD)) // self.u(ROW)) * self.columns()

    def listed(self) -> list[Finding]:
        if self.desk.study is None:
            return []
        return [f for f in self.desk.study.findings if f.verdict != "holds"]

    def refresh(self) -> None:
        if self._held.isActive():
            return
        listed, count = self.listed(), self.visible_rows()
        self.first = max(0, min(self.first, len(listed) - count))
        shown = listed[self.first : self.first + count]
        while len(self.rows) < count:
            self.rows.append(FindingRow(self.desk, self))
            self.tags.append([])
        state = [(f, self.desk.remedies.get(f.id)) for f in shown]
        for i, row in enumerate(self.rows):
            if i >= len(shown):
                row.hide()
                self._clear(i)
                continue
            if i >= len(self._shown) or self._shown[i] != state[i]:
                row.show_finding(shown[i])
                self._make_tags(i, shown[i])
            row.show()
        self._shown = state
        self._place()
        self.update()

    def _clear(self, i: int) -> None:
        for tag in self.tags[i]:
            tag.hide()
            tag.deleteLater()
        self.tags[i] = []

    def _make_tags(self, i: int, finding: Finding) -> None:
        focused = any(tag.hasFocus() for tag in self.tags[i])
        self._clear(i)
        for remedy in self.desk.remedies.get(finding.id, ()):
            self.tags[i].append(RemedyTag(self.desk, remedy, self))
        for action in finding.actions:
            self.tags[i].append(ActionTag(self.desk, action, self))
        if focused and self.tags[i]:
            self.tags[i][0].setFocus()
        for tag in self.tags[i]:
            self.setTabOrder(self.rows[i], tag)

    def sentence_width(self) -> int:
        return self.u(516)

    def _place(self) -> None:
        top, columns = self.u(HEAD), self.columns()
        column = (self.width() - self.u(28)) // columns
        rows = max(1, self.visible_rows() // columns)
        for i, row in enumerate(self.rows):
            left = self.u(14) + (i // rows) * column
            right = left + column - (self.u(14) if columns > 1 else 0)
            y = top + (i % rows) * self.u(ROW)
            wide = min(self.sentence_width(), round((right - left) * 0.62))
            if self.tags[i]:  # the first remedy is told whole, the sentence gives way down to half
                wide = max(min(wide, right - left - self.tags[i][0].sizeHint().width() - 8), (right - left) // 2)
            else:
                wide = right - left
            row.setGeometry(left, y, wide, self.u(ROW))
            x = left + wide + 4
            for n, tag in enumerate(self.tags[i]):
                size = tag.sizeHint()
                if x + size.width() > right and n > 0:
                    tag.hide()
                    continue
                tag.setGeometry(
                    x, y + (self.u(ROW) - size.height()) // 2, min(size.width(), max(right - x, 60)), size.height()
                )
                tag.show()
                x += size.width()

    def resizeEvent(self, event) -> None:
        self.refresh()

    def wheelEvent(self, event) -> None:
        self.scroll_to(self.first - (1 if event.angleDelta().y() > 0 else -1))

    def scroll_to(self, first: int) -> None:
        self.first = first
        self.refresh()

    def go(self, step: int) -> None:
        """F and Shift+F: the next finding, the one before."""
        listed = self.listed()
        if not listed:
            return
        now = next(
            (self.first + i for i, row in enumerate(self.rows) if row.hasFocus()), -1 if step > 0 else len(listed)
        )
        now = (now + step) % len(listed)
        if not self.first <= now < self.first + self.visible_rows():
            self.scroll_to(now if step < 0 else now - self.visible_rows() + 1)
        self.rows[now - self.first].setFocus()
        open_finding(self.desk, listed[now])
        self.rows[now - self.first].setFocus()

    def focus_remedy(self, n: int) -> None:
        """Alt+Shift+1 to 3: a remedy of the row in focus, else of the first row."""
        row = next((i for i, r in enumerate(self.rows) if r.hasFocus() or any(t.hasFocus() for t in self.tags[i])), 0)
        if row < len(self.tags) and n < len(self.tags[row]):
            self.tags[row][n].setFocus()

    def draw(self, kit: Kit) -> None:
        kit.rect(0, 0, self.width(), self.height(), "card")
        kit.line(0, 0.5, self.width(), 0.5, "rule", 1.4)
        y, x = self.u(13), self.u(16)
        x = kit.text(x, y, "Findings", 13, 600) + self.u(14)
        study = self.desk.study
        if study is None:
            kit.text(x, y, "being worked out" if self.desk.busy else "not judged", 12, 400, "ink3")
            if self.desk.progress is not None:
                self._going(kit, y)
            return
        words = {
            "fails": ("fails", "fail"),
            "tight": ("tight", "tight"),
            "holds": ("holds", "hold"),
            "not yet judged": ("not yet judged", "not yet judged"),
        }
        for verdict, (one, many) in words.items():
            n = study.count(verdict)
            if n:
                tumbler(kit, x + self.u(6), y - 1, self.u(12), verdict)
                x = kit.text(
                    x + self.u(17), y, f"{n} {one if n == 1 else many}", 12, 600, VERDICT[verdict][0]
                ) + self.u(14)
        hidden = len(self.listed()) - self.first - self.visible_rows()
        note = "Worst first" + (f" · {hidden} more below" if hidden > 0 else "")
        if self.desk.given_up:
            note = "stopped: not all of it is judged; the next change begins anew"
        elif not study.settled:
            note = "settling · " + note
        if self.desk.progress is not None:
            self._going(kit, y)
        else:
            kit.text(self.width() - self.u(14), y, note, 12, 400, "ink3", "r")
        if not self.listed():
            self._all_well(kit)
        elif hidden > 0 or self.first > 0:
            self._thread(kit)

    def _thread(self, kit: Kit) -> None:
        x, top, tall = self.width() - self.u(6), self.u(HEAD) + 4, self.height() - self.u(HEAD) - 12
        count = len(self.listed())
        kit.line(x, top, x, top + tall, "hair", 2)
        start = top + tall * self.first / count
        kit.line(x, start, x, start + tall * min(1.0, self.visible_rows() / count), "rule", 4)

    def _all_well(self, kit: Kit) -> None:
        study = self.desk.study
        y = self.u(HEAD) + self.u(18)
        if not study.findings:
            kit.text(self.u(16), y, "Nothing to judge yet: add a joint, what rides on it, and a servo.", 13)
            return
        tumbler(kit, self.u(28), y - 1, self.u(20), "holds")
        x = kit.text(self.u(46), y, "Everything that is judged holds.", 13) + self.u(6)
        guessed = [b for b in study.results.tree.bodies if b.origin != "weighed" and b.kind == "part"]
        if guessed:
            heaviest = max(guessed, key=lambda b: b.bound)
            kit.text(x, y, f"Next weigh {heaviest.name}.", 13)
