"""Rehearse: the figure on a board, or on the stand-in for one."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from karakuri.model.ref import Ref
from karakuri.workbench.benches.behaviour_page import behaviour_page
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.hand_page import hand_page
from karakuri.workbench.benches.hand_view import HandView
from karakuri.workbench.benches.lives_view import LivesView
from karakuri.workbench.benches.rehearse_page import rehearse_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.marks import tumbler
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.ledger import Ledger, Row
from karakuri.workbench.widgets.poserule import PoseRule
from karakuri.workbench.widgets.tag import Choice, Tag

FAULTS = (
    ("dies", "dies"),
    ("mute", "falls silent"),
    ("babbles", "babbles"),
    ("late", "answers late"),
    ("none", "is well"),
)
SHOWS = {"board": "the board", "behaviour": "its behaviour", "hand": "by hand"}
PAGES = {"board": rehearse_page, "behaviour": behaviour_page, "hand": hand_page}
VIEWS: dict[str, type[LivesView] | type[HandView]] = {"behaviour": LivesView, "hand": HandView}
PLAYABLE = ("ready", "live")
NEXT = {
    "off": "Each step opens the next: first a board has to answer.",
    "lost": "The board went away; it parks by itself. Join it again: places are asked anew, and power is confirmed again.",
    "joined": "Nothing moves before the power is confirmed.",
    "confirmed": "Nobody knows yet where the servos stand: bring them to park, one after the other.",
    "approaching": "One joint after the other, at 20 °/s. Playing waits until all are at park.",
    "ready": "The sliders drive it, the score plays on it.",
    "live": "The sliders drive it, the score plays on it.",
}


class RehearseBench(Bench):
    title, question = "Rehearse", ""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        board = desk.board
        self.front = Elevation(desk, "front", self, posing=True)
        self.stand_in = Tag(desk, "Join the stand-in", self, board.start_stand_in)
        self.power = Tag(desk, "It is powered, everybody is clear", self, board.confirm)
        self.home = Tag(desk, "Bring every joint to park", self, self._home)
        self.play = Tag(desk, "Play", self, self._play)
        self.leave = Tag(desk, "Let the board go", self, board.leave)
        self.faults = [Tag(desk, words, self, lambda name=name: board.try_fault(name)) for name, words in FAULTS]
        self.table = Ledger(desk, "Outputs", self)
        self.table.picked.connect(self._take)
        self.told = Ledger(desk, "What happened", self)
        self.rules: list[PoseRule] = []
        self.shows = Choice(desk, "Shows", lambda: list(SHOWS.items()), self._show, self)
        self.over: dict[str, LivesView | HandView] = {}
        board.changed.connect(self._board)
        board.happened.connect(self._events)
        self.listen(desk.selected, desk.looked, desk.changed)
        self.refresh()

    def page(self) -> Page:
        return PAGES[self.desk.rehearsing](self.desk)

    @property
    def covered(self) -> bool:
        """Whether something else than the board is shown."""
        return self.desk.rehearsing in VIEWS

    def _show(self, what: str) -> None:
        self.desk.rehearse(what)
        self.refresh()

    # ---- actions
    def _home(self) -> None:
        board = self.desk.board
        (board.park if board.state in ("ready", "live", "playing", "gathering") else board.approach)()

    def _play(self) -> None:
        board = self.desk.board
        (board.play if board.state in PLAYABLE else board.stop)()

    def _take(self, ref: Ref) -> None:
        if ref.kind == "joint":
            self.desk.select(ref)

    def key(self, event) -> bool:
        """Space plays and stops."""
        if self.covered and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_G) and not event.modifiers():
            (self.desk.living if self.desk.rehearsing == "behaviour" else self.desk.steered).toggle()
            return True
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_G) and not event.modifiers():
            if self.play.isEnabled():
                self._play()
            return True
        return False

    # ---- showing
    def refresh(self) -> None:
        self.shows.show_value(SHOWS[self.desk.rehearsing])
        shown = self.desk.rehearsing
        if self.covered and shown not in self.over:
            self.over[shown] = VIEWS[shown](self.desk, self)
        for name, view in self.over.items():
            view.setVisible(name == shown)
            if name == shown:
                view.raise_()
                view.refresh()
        joints = [o.joint for o in self.desk.board.outputs() if o.joint is not None and o.joint == o.leads]
        if [rule.ident for rule in self.rules] != joints:
            for rule in self.rules:
                rule.hide()
                rule.deleteLater()
            self.rules = [PoseRule(self.desk, ident, self) for ident in joints]
            for rule in self.rules:
                rule.show()
        self._board()
        self._events()
        self._place()
        self.update()

    def _board(self) -> None:
        if not self.isVisible():
            self.missed = True
            return
        board = self.desk.board
        joined, state = board.joined, board.state
        self.stand_in.set_label("Join the stand-in" if state != "lost" else "Join the stand-in again")
        self.stand_in.setEnabled(not joined)
        self.power.setEnabled(state == "joined")
        self.power.setChecked(joined and state != "joined")
        self.home.setEnabled(state in ("confirmed", "ready", "live", "trying"))
        self.home.set_label("Go to park" if state in ("ready", "live") else "Bring every joint to park")
        self.play.setEnabled(state in PLAYABLE or board.moving)
        self.play.set_label("Stop" if board.moving and state not in PLAYABLE else "Play the score")
        self.leave.setEnabled(joined)
        for tag, (name, _) in zip(self.faults, FAULTS, strict=True):
            tag.setEnabled(joined and board.stand_in)
            tag.setCheckable(True)
            tag.setChecked(board.fault == name and name != "none" and joined)
        self.table.show_rows([self._row(o) for o in board.outputs()], self.desk.subject)
        self._place()
        self.update()

    def _events(self) -> None:
        rows = [self._event(i, *event) for i, event in reversed(list(enumerate(self.desk.board.events)))]
        self.told.show_rows(rows[:60], None)

    def _event(self, i: int, at: float, verdict: str, text: str) -> Row:
        lines = wrapped(self.desk.look, text, max(80, self.told.width() - self.u(76)), 12)

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            top = y - (len(lines) - 1) * kit.u(15) / 2
            kit.text(kit.u(44), top, f"{at:.1f} s", 12, 600, "ink2", "r")
            tumbler(kit, kit.u(58), top - 1, kit.u(13), verdict)
            for n, line in enumerate(lines):
                kit.text(kit.u(70), top + n * kit.u(15), line, 12)

        return Row(("event", str(i)), text, paint, 5 + 15 * len(lines))

    def _columns(self, width: float) -> dict[str, float]:
        u = self.u
        return {
            "name": u(30),
            "angle": width - u(246),
            "sent": width - u(166),
            "says": width - u(84),
            "off": width - u(8),
        }

    def _row(self, output) -> Row:
        news, board = self.desk.board.news if self.desk.board.joined else {}, self.desk.board
        sent = news.get("places", {}).get(str(output.number))
        says = news.get("reported", {}).get(str(output.number))

        def paint(kit: Kit, y: float, width: float, on: bool) -> None:
            c, u = self._columns(width), kit.u
            kit.line(0, y - u(11), width, y - u(11), "hair")
            kit.text(u(18), y, str(output.number), 12, 600, "brass", "r")
            words = kit.short(output.name, c["angle"] - u(100), 13, 600)
            kit.text(c["name"], y, words, 13, 600 if on else 400, "indigo" if on else "ink")
            light = output.pulses is None
            if sent is None:
                kit.text(c["sent"], y, "released", 12, 400, "ink2", "r")
                return
            unit = "°" if output.joint is not None else "%"
            kit.text(
                c["angle"],
                y,
                f"{round(board.degrees(output, sent)) + 0:d}{unit}".replace("-", "−"),
                13,
                500,
                "ink",
                "r",
            )
            kit.text(c["sent"], y, f"{sent:.0f}" if not light else "", 13, 400, "ink", "r")
            if says is not None and not light:
                kit.text(c["says"], y, f"{says:.0f}", 13, 400, "ink", "r")
                off = abs(board.degrees(output, says) - board.degrees(output, sent))
                kit.text(c["off"], y, f"{off:.1f}{unit}", 13, 600, "ink", "r")

        spoken = f"output {output.number}, {output.name}" + (
            f", sent {sent:.0f} µs" if sent is not None else ", released"
        )
        return Row(
            Ref("joint", output.joint) if output.joint else Ref("channel", str(output.number)), spoken, paint, 22
        )

    # ---- layout
    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        shows = self.shows.sizeHint()
        self.shows.setGeometry(u(104), u(6), shows.width(), shows.height())
        for view in self.over.values():
            view.setGeometry(0, u(40), w, h - u(40))
        left, top = u(14), u(46)
        stage = round(w * 0.3)
        upper = max(u(196), round(h * 0.36))
        self.front.setGeometry(left, top, stage, upper - top)
        x, y = left + stage + u(34), top + u(14)
        steps = (self.stand_in, self.power, self.home, self.play)
        gap = min(u(38), (upper - y) / 4)
        self.step_at = []
        for n, tag in enumerate(steps):
            size = tag.sizeHint()
            at = round(y + n * gap)
            tag.setGeometry(x, at, size.width(), size.height())
            self.step_at.append((x - u(12), at + size.height() / 2))
        self.faults_x = x + max(tag.sizeHint().width() for tag in steps) + u(16)
        at_x, at_y = self.faults_x, top + u(40)
        for tag in self.faults:
            size = tag.sizeHint()
            if at_x + size.width() > w - u(8):
                at_x, at_y = self.faults_x, at_y + size.height() - u(2)
            tag.setGeometry(round(at_x), round(at_y), size.width(), size.height())
            tag.setVisible(at_x + size.width() <= w and at_y + size.height() <= upper)
            at_x += size.width() - u(2)
        leave = self.leave.sizeHint()
        self.leave.setGeometry(w - leave.width() - u(8), u(6), leave.width(), leave.height())
        self.low = upper + u(30)
        tall = u(23)
        fits = max(0, int((h - self.low - u(8)) / tall))
        for n, rule in enumerate(self.rules):
            rule.setGeometry(left, self.low + n * tall, stage, tall)
            rule.setVisible(n < fits)
        right = w - stage - left - u(22)
        count = max(1, len(self.table.rows))
        table = min(count * u(22) + u(4), round((h - self.low) * 0.62))
        self.table.setGeometry(left + stage + u(14), self.low, right, table)
        self.told_y = self.low + table + u(14)
        self.told.setGeometry(left + stage + u(14), self.told_y + u(12), right, max(u(20), h - self.told_y - u(16)))
        self._side()

    def _side(self) -> None:
        """What belongs to the board is away while something else is shown, and cannot be reached."""
        steps = (self.stand_in, self.power, self.home, self.play, self.leave)
        for widget in (self.front, self.table, self.told, *steps):
            widget.setVisible(not self.covered)
        if self.covered:
            for widget in (*self.faults, *self.rules):
                widget.hide()

    def resizeEvent(self, event) -> None:
        self._place()
        self._events()

    def draw(self, kit: Kit) -> None:
        u, board, w = kit.u, self.desk.board, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        kit.text(u(16), u(20), "Rehearse", 18, 600)
        x = self.shows.x() + self.shows.width() + u(12)
        if self.covered:
            kit.text(
                x, u(21), kit.short(self.over[self.desk.rehearsing].told_in_short(), w - x - u(10), 13), 13, 400, "ink2"
            )
            return
        name = "stand-in" if board.stand_in else "board"
        words = (
            f"{name}: {board.words()}" if board.state != "off" else "no board is joined; the stand-in needs no wires"
        )
        if x + kit.width(words, 13) < self.leave.x() - u(8):
            kit.text(x, u(21), words, 13, 400, "ink2")
        for n, (cx, cy) in enumerate(self.step_at):
            kit.circle(cx, cy, u(9), "brass_f", "ink", 1)
            kit.text(cx, cy, str(n + 1), 12, 700, "eye", "c")
        fx, fy = self.faults_x, u(46)
        if fx + u(150) < w:
            kit.text(fx + u(4), fy + u(8), "Faults to try", 13, 600, "brass")
            note = "the stand-in …" if board.joined and board.stand_in else "once the stand-in is joined"
            kit.text(fx + u(4), fy + u(26), note, 12, 400, "ink2")
            kit.lines(fx + u(4), fy + u(122), NEXT.get(board.state, ""), w - fx - u(16), 12, 400, "ink2", 16)
        kit.line(u(14), self.low - u(24.5), w - u(10), self.low - u(24.5), "rule")
        kit.text(u(16), self.low - u(12), "Sliders", 13, 600, "brass")
        left, c = self.table.x(), self._columns(self.table.width())
        kit.text(left + u(4), self.low - u(12), "Outputs", 13, 600, "brass")
        for key, text in (("angle", "asks"), ("sent", "sent µs"), ("says", "says µs"), ("off", "off by")):
            kit.text(left + c[key], self.low - u(12), text, 12, 400, "ink3", "r")
        kit.text(left + u(4), self.told_y, "What happened", 13, 600, "brass")
        if not board.events:
            kit.text(left + u(110), self.told_y, "nothing yet", 12, 400, "ink2")
