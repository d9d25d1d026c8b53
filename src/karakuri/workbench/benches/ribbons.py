"""The ribbons: ruler, pose lane, a row for every channel and the plumb line; long for its room because all of it shares one layout."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QWidget

from karakuri.checks.of_move import findings_of_move
from karakuri.model.channel import Channel, MovedChannel, SoundChannel
from karakuri.model.finding import show_reserve
from karakuri.model.ref import Ref
from karakuri.workbench.benches.ribbon_hand import RibbonHand
from karakuri.workbench.benches.ribbon_row import Span, drawn_key, paint_label, paint_row, ribbon_edges
from karakuri.workbench.benches.ribbon_values import RibbonValues, target_words
from karakuri.workbench.benches.voice_row import drawn_of, paint_voice, paint_voice_label
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, Painted
from karakuri.workbench.marks import bob, tag_path, tumbler
from karakuri.workbench.theme import VERDICT
from karakuri.workbench.widgets.sheet import Sheet

LABEL, RULER, LANE, ROW, TALLEST = 128, 28, 24, 41, 150
CLOSEST_S = 0.05
STEPS = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800, 3600)


class Ribbons(Sheet):
    """Zoom and scroll are view state. Emits `asked` when a bead's card is wanted."""

    asked = pyqtSignal()

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "ribbons", parent)
        self.values = RibbonValues(desk)
        self.t0, self.t1 = 0.0, desk.figure.score.length_s
        self.whole_shown = True
        self.top = 0.0
        self.hand = RibbonHand(self)
        self.drop: tuple[float, str] | None = None
        self._kept: dict[str, tuple] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        desk.transport.moved.connect(self._time)
        self.speak()

    # ---- layout
    def fresh(self) -> None:
        """The score, the study or the look changed."""
        length = self.desk.figure.score.length_s
        if self.whole_shown:
            self.t0, self.t1 = 0.0, length
        elif self.t1 > length:
            wide = min(self.t1 - self.t0, length)
            self.t0, self.t1 = length - wide, length
        self.scroll_by(0)
        self.speak()
        self.update()

    def speak(self) -> None:
        held, channel = self.desk.move_in_hand(), self.desk.channel_in_hand()
        text = "ribbons: nothing in hand"
        if held is not None:
            row = held[0].moves.row(held[1])
            to = target_words(self.desk, held[0], row.target)
            text = f"ribbons: {held[0].name}, move {held[1] + 1} to {to}, arrives {row.departs + row.takes:.2f} s"
        elif channel is not None:
            text = f"ribbons: {channel.name}, {len(channel.moves)} moves"
        elif (voice := self.desk.voice_in_hand()) is not None:
            text = f"ribbons: {voice.name}, {len(voice.plays)} sounds"
        self.setAccessibleName(text)

    def ruler(self) -> int:
        return self.u(RULER)

    def head(self) -> int:
        return self.u(RULER + LANE)

    def span(self) -> Span:
        return Span(self.t0, self.t1, self.u(LABEL), self.width() - self.u(14))

    def row_tall(self) -> float:
        n = max(1, len(self.desk.figure.score.channels))
        room = self.height() - self.head() - self.u(16)
        return min(self.u(TALLEST), max(self.u(ROW), room // n))

    def rows(self) -> list[tuple[Channel, float]]:
        """Channels with the top of their rows, those that are wholly in view."""
        tall, y, out = self.row_tall(), self.head() - self.top, []
        for channel in self.desk.figure.score.channels:
            if y >= self.head() - 0.5 and y + tall <= self.height() - self.u(4):
                out.append((channel, y))
            y += tall
        return out

    def scroll_by(self, by: float) -> None:
        """Up and down, by whole rows."""
        tall = self.row_tall()
        content = tall * len(self.desk.figure.score.channels)
        most = max(0.0, content - (self.height() - self.head() - self.u(4)))
        self.top = min(max(0.0, round((self.top + by) / tall) * tall), math.ceil(most / tall) * tall)

    def reveal(self, channel_id: str) -> None:
        """Scroll until a channel's row is in view."""
        ids = [channel.id for channel in self.desk.figure.score.channels]
        if channel_id in ids:
            tall, at = self.row_tall(), ids.index(channel_id) * self.row_tall()
            fits = max(1, int((self.height() - self.head() - self.u(4)) / tall)) * tall
            if at < self.top:
                self.top = at
            elif at + tall > self.top + fits:
                self.top = at + tall - fits

    def show_span(self, t0: float, t1: float) -> None:
        """Show a stretch of time, s; at least 50 ms, at most the whole score."""
        length = self.desk.figure.score.length_s
        wide = min(max(t1 - t0, CLOSEST_S), length)
        t0 = min(max(0.0, t0), length - wide)
        self.t0, self.t1 = t0, t0 + wide
        self.whole_shown = wide >= length - 1e-9
        self.update()

    def zoom(self, factor: float, about: float | None = None) -> None:
        """Closer (above 1) or wider about a time, else about the plumb line."""
        about = self.desk.transport.now if about is None else about
        if not self.t0 <= about <= self.t1:
            about = (self.t0 + self.t1) / 2
        share = (about - self.t0) / (self.t1 - self.t0)
        wide = min(max((self.t1 - self.t0) / factor, CLOSEST_S), self.desk.figure.score.length_s)
        self.show_span(about - share * wide, about + (1 - share) * wide)

    def _time(self) -> None:
        now, wide = self.desk.transport.now, self.t1 - self.t0
        if self.isVisible():
            if not self.t0 <= now <= self.t1:
                self.show_span(now - 0.1 * wide, now + 0.9 * wide)
            self.update()

    def resizeEvent(self, event) -> None:
        self.scroll_by(0)
        self.update()

    # ---- drawing
    def draw(self, kit: Kit) -> None:
        u, span = self.u, self.span()
        kit.rect(0, 0, self.width(), self.height(), "paper")
        self._ruler(kit, span)
        self._lane(kit, span)
        tall = self.row_tall()
        if not self.desk.figure.score.channels:
            self._teach(kit, span)
        for channel, y in self.rows():
            if isinstance(channel, SoundChannel):
                self._voice(kit, channel, y, tall, span)
            else:
                self._row(kit, channel, y, tall, span)
        self._more(kit)
        self._line(kit, span)
        if self.drop is not None:
            x = span.x(self.drop[0])
            kit.line(x, u(RULER), x, self.height() - u(6), "indigo", 1.2, "dash")
        self._hand(kit)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _teach(self, kit: Kit, span: Span) -> None:
        """Nothing is here yet: dotted ribbons, and three slips that say what fills them, each with the place it means."""
        u, y = self.u, self.head() + self.u(14)
        steps = (
            "Lay out the ribbons, one for every driven joint. They hold what each of them does over time.",
            "Pose the figure on the Figure bench, keep the pose with K, and drag it from the shelf to a time, or press its number.",
            "Where a ribbon holds, pull it up or down: that is a new move. Space runs the score from the plumb line.",
        )
        for n, words in enumerate(steps):
            top, tall = y + n * u(84), u(74)
            if top + tall > self.height() - u(8):
                break
            kit.rect(span.x0 - u(104), top, span.x1 - span.x0 + u(104), tall, None, "rule", 1, "dot")
            kit.circle(span.x0 - u(84), top + u(20), u(10), "brass_f", "ink", 1)
            kit.text(span.x0 - u(84), top + u(20), str(n + 1), 12, 700, "eye", "c")
            kit.lines(span.x0 - u(64), top + u(20), words, span.x1 - span.x0, 13)

    def _row(self, kit: Kit, channel: MovedChannel, y: float, tall: float, span: Span) -> None:
        """A row is painted once and kept while nothing it shows has changed."""
        ribbon = self.values.of(channel, span)
        look = self.desk.look
        key = (
            id(ribbon.track), channel.name, ribbon.low, ribbon.high, ribbon.ends, ribbon.chosen, ribbon.selected, ribbon.ink,
            span, tall, look.scale, id(look.colours), self.devicePixelRatioF(), *drawn_key(ribbon, span),
        )  # fmt: skip

        def paint(inner: Kit) -> None:
            inner.line(0, 0.5, self.width() - self.u(14), 0.5, "rule" if ribbon.selected else "hair")
            paint_label(inner, ribbon, self.u(10), self.u(LABEL), 0, tall)
            paint_row(inner, ribbon, span, 0, tall)

        self._kept_picture(kit, channel.id, key, y, tall, paint)

    def _voice(self, kit: Kit, channel: SoundChannel, y: float, tall: float, span: Span) -> None:
        """A voice, kept in the same way."""
        row, look = self.values.of_voice(channel), self.desk.look
        key = (drawn_of(row), span, tall, look.scale, id(look.colours), self.devicePixelRatioF())

        def paint(inner: Kit) -> None:
            inner.line(0, 0.5, self.width() - self.u(14), 0.5, "rule" if row.selected else "hair")
            paint_voice_label(inner, row, self.u(10), self.u(LABEL), 0, tall)
            paint_voice(inner, row, span, 0, tall)

        self._kept_picture(kit, channel.id, key, y, tall, paint)

    def _kept_picture(
        self, kit: Kit, ident: str, key: tuple, y: float, tall: float, paint: Callable[[Kit], None]
    ) -> None:
        kept = self._kept.get(ident)
        if kept is None or kept[0] != key:
            ratio = self.devicePixelRatioF()
            picture = QPixmap(round(self.width() * ratio), round((tall + 2) * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(picture)
            inner = Kit(painter, self.desk.look)
            paint(inner)
            painter.end()
            kept = self._kept[ident] = (key, picture, inner.rec)
        kit.p.drawPixmap(QPointF(0, y), kept[1])
        kit.rec += [Painted(t.rect.translated(0, y), t.text, t.colour, t.px) for t in kept[2]]

    def _ruler(self, kit: Kit, span: Span) -> None:
        u, y = self.u, self.u(RULER)
        kit.line(span.x0, y - 1.5, span.x1, y - 1.5, "rule")
        step = next((s for s in STEPS if s * span.per_s >= u(46)), STEPS[-1])
        fine = next((s for s in STEPS if s * span.per_s >= 7), step)
        for i in range(math.ceil(span.t0 / fine - 1e-9), math.floor(span.t1 / fine + 1e-9) + 1):
            kit.line(span.x(i * fine), y - u(4), span.x(i * fine), y - 2, "ink3")
        now = span.x(self.desk.transport.now)
        flag, end = kit.width(f"{self.desk.transport.now:.2f}", 12, 600) + u(30), -math.inf
        for i in range(math.ceil(span.t0 / step - 1e-9), math.floor(span.t1 / step + 1e-9) + 1):
            t = i * step
            x, words = span.x(t), time_words(t, step) + (" s" if t == 0 else "")
            kit.line(x, y - u(8), x, y - 2, "ink2", 1.2)
            right = x + 3 + kit.width(words, 12, 500) > span.x1
            a = x - 3 - kit.width(words, 12, 500) if right else x + 3
            if a > end and (a + kit.width(words, 12, 500) < now - u(14) or a > now + flag):
                end = kit.text(a, y - u(15), words, 12, 500, "ink2") + u(4)

    def _lane(self, kit: Kit, span: Span) -> None:
        u, top = self.u, self.u(RULER)
        y = top + u(LANE) / 2
        kit.text(u(10), y, "Poses", 13, 600)
        self.slips: list[tuple[str, float, float]] = []
        taken: list[tuple[float, float]] = []
        for pin in self.desk.figure.score.pins:
            x = span.x(pin.arrives_s)
            if not span.x0 <= x <= span.x1:
                continue
            name = self.desk.figure.pose(pin.pose).name
            wide = kit.width(name, 12, 500) + u(14)
            on = self.desk.subject == Ref("pin", pin.id)
            a, b = (x - wide, x) if x - wide > span.x0 else (x, x + wide)
            if any(a < d and b > c for c, d in taken):
                a, b = x, x + wide
            if b <= span.x1 and not any(a < d and b > c for c, d in taken):
                tall = u(18)
                cut = u(6)
                left = a < x - 1
                shape = (
                    [(a + cut, y - tall / 2), (x, y - tall / 2), (x, y + tall / 2), (a + cut, y + tall / 2), (a, y)]
                    if left
                    else [
                        (x, y - tall / 2),
                        (b - cut, y - tall / 2),
                        (b, y),
                        (b - cut, y + tall / 2),
                        (x, y + tall / 2),
                    ]
                )
                kit.draw(Kit.path(shape, True), "indigo" if on else "card", "indigo" if on else "rule")
                kit.text((a + b) / 2 + (2 if left else -1), y, name, 12, 500, "card" if on else "ink", "c")
                taken.append((a, b))
            kit.circle(x, y, u(2.6), "brass_f", "ink", 1)
            self.slips.append((pin.id, a, b))

    def _more(self, kit: Kit) -> None:
        """Rows out of view are told at the edge."""
        tall = self.row_tall()
        count = len(self.desk.figure.score.channels)
        shown, first = len(self.rows()), round(self.top / tall) if tall else 0
        if shown < count:
            x, y0 = self.width() - 5, self.head()
            y1 = self.height() - self.u(6)
            kit.line(x, y0, x, y1, "hair", 2)
            kit.line(x, y0 + (y1 - y0) * first / count, x, y0 + (y1 - y0) * (first + shown) / count, "rule", 4)

    def _line(self, kit: Kit, span: Span) -> None:
        """Now: a plumb line with a bob at its foot."""
        u, now = self.u, self.desk.transport.now
        x = span.x(now)
        if not span.x0 - 0.5 <= x <= span.x1 + 0.5:
            return
        foot = self.height() - u(20) if self.desk.figure.score.channels else self.head()
        kit.line(x, u(12), x, foot, "indigo", 1.4)
        words = f"{now:.2f}"
        wide = kit.width(words, 12, 600) + u(22)
        right = x + wide > self.width()
        a = x - wide + u(8) if right else x - u(8)
        kit.draw(tag_path(a, u(2), wide, u(21), u(6)), "indigo", "indigo")
        kit.circle(x, u(12), u(2.6), "paper", "brass_f", 1.4)
        kit.text(a + (u(6) if right else u(16)), u(12.5), words, 12, 600, "card")
        bob(kit, x, foot - 1, u(16))

    def _hand(self, kit: Kit) -> None:
        """What the drag does, and the reserve it leaves, beside the thing in hand."""
        held = self.hand.held
        if held is None or not held.moved or not held.words:
            return
        words, verdict, number = held.words, *self.reserve_of_move()
        wide = kit.width(words, 12, 600) + self.u(16) + (kit.width(number, 13, 700) + self.u(24) if number else 0)
        x = min(self.hand.pointer.x() + 14, self.width() - wide - 4)
        y = max(self.u(RULER) + self.u(14), self.hand.pointer.y() - self.u(24))
        ink, ground = VERDICT[verdict] if number else ("indigo", "card")
        kit.rect(x, y - self.u(12), wide, self.u(24), ground if number else "card", ink, 1.3)
        end = kit.text(x + self.u(8), y, words, 12, 600, "ink")
        if number:
            tumbler(kit, end + self.u(12), y - 1, self.u(14), verdict)
            kit.text(end + self.u(22), y, number, 13, 700, ink)

    def reserve_of_move(self) -> tuple[str, str]:
        """Verdict and reserve of what is in hand, the worst rule that speaks of it; empty where none does."""
        study, held = self.desk.study, self.desk.move_in_hand()
        findings = (
            findings_of_move(study.results, held[0].id, held[1]) if study is not None and held is not None else []
        )
        if not findings:
            return "holds", ""
        worst = findings[0]
        return worst.verdict, show_reserve(worst.reserve) if worst.reserve is not None else "out"

    # ---- the hand
    def channel_at(self, y: float) -> tuple[Channel, float] | None:
        tall = self.row_tall()
        return next(((c, top) for c, top in self.rows() if top <= y < top + tall), None)

    def place_of(self, channel_id: str, k: int, foot: bool = False) -> QPointF:
        """Where a bead, or the foot of a move, is drawn; for tests and the keyboard."""
        channel, top = next((c, y) for c, y in self.rows() if c.id == channel_id)
        ribbon, span = self.values.of(channel, self.span()), self.span()
        a, b = ribbon_edges(self, top, self.row_tall())
        t = ribbon.track.departs[k] + (0 if foot else ribbon.track.takes[k])
        value = ribbon.track.start[k] if foot else ribbon.track.target[k]
        return QPointF(float(span.x(t)), float(ribbon.y(value, a, b)))

    def mousePressEvent(self, event) -> None:
        self.hand.press(event.position())

    def mouseMoveEvent(self, event) -> None:
        if self.hand.held is None or not event.buttons() & Qt.MouseButton.LeftButton:
            self.setCursor(self.hand.shape(event.position()))
            return
        self.hand.move(event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        self.hand.release()
        self.update()

    def mouseDoubleClickEvent(self, event) -> None:
        self.asked.emit()

    # ---- wheel and keys
    def wheelEvent(self, event) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.position().y() < self.head():
            self.zoom(1.25 if turn > 0 else 0.8)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or not event.angleDelta().y():
            by = -(self.t1 - self.t0) * 0.1 * (1 if turn > 0 else -1)
            self.show_span(self.t0 + by, self.t1 + by)
        else:
            self.scroll_by(-self.row_tall() if turn > 0 else self.row_tall())
            self.update()

    def keyPressEvent(self, event) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._next_row(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._next_bead(-1 if key == Qt.Key.Key_PageUp else 1)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal) and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.5)
        elif key == Qt.Key.Key_Minus and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1 / 1.5)
        elif key == Qt.Key.Key_0:
            self.show_span(0.0, self.desk.figure.score.length_s)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.asked.emit()
        else:
            super().keyPressEvent(event)

    def _next_row(self, step: int) -> None:
        channels = self.desk.figure.score.channels
        now = self.desk.channel_in_hand() or self.desk.voice_in_hand()
        if channels:
            at = channels.index(now) + step if now in channels else 0
            channel = channels[max(0, min(len(channels) - 1, at))]
            self.reveal(channel.id)
            self.desk.select(Ref("channel", channel.id))

    def _next_bead(self, step: int) -> None:
        voice = self.desk.voice_in_hand()
        if voice is not None and voice.plays:
            now = self.desk.subject.number + step if self.desk.subject.kind == "play" else 0
            self.desk.select(Ref("play", voice.id, max(0, min(len(voice.plays) - 1, now))))
            return
        channel, held = self.desk.channel_in_hand(), self.desk.move_in_hand()
        if channel is None or not len(channel.moves):
            return
        if held is not None:
            k = held[1] + step
        else:
            later = [i for i, t in enumerate(channel.moves.departs_s) if t >= self.desk.transport.now]
            k = later[0] if later else len(channel.moves) - 1
        k = max(0, min(len(channel.moves) - 1, k))
        self.desk.select(Ref("move", channel.id, k))
        row = channel.moves.row(k)
        if not self.t0 <= row.departs + row.takes <= self.t1:
            wide = self.t1 - self.t0
            self.show_span(row.departs - wide / 2, row.departs + wide / 2)


def time_words(t: float, step: float) -> str:
    """A time on the ruler: seconds, minutes and seconds from two minutes on."""
    if t >= 120 and step >= 1:
        return f"{int(t // 60)}:{round(t % 60):02d}"
    decimals = max(0, -math.floor(math.log10(step) + 1e-9)) if step < 1 else 0
    return f"{t:.{decimals}f}"
