"""Score: what moves when, and where the figure can't follow."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QWidget

from karakuri.model.ref import Ref
from karakuri.model.score_edits import lay_out, missing_channels, remove_move
from karakuri.model.sound_edits import remove_play
from karakuri.motion.makers.pin import unpin
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.pose_page import keep
from karakuri.workbench.benches.ribbons import LABEL, RULER, Ribbons
from karakuri.workbench.benches.score_page import score_page
from karakuri.workbench.benches.shelf import Shelf
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.transport import PACES
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.tag import Choice, Tag


class ScoreBench(Bench):
    title, question = "Score", ""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.large = False
        self.shelf = Shelf(desk, self)
        self.front = Elevation(desk, "front", self, posing=True)
        self.ribbons = Ribbons(desk, self)
        self.run = Tag(desk, "Run from here", self.ribbons, desk.transport.toggle)
        self.pace = Choice(desk, "Speed", self._paces, lambda key: desk.transport.set_pace(float(key)), self)
        self.keep = Tag(desk, "Keep as pose", self, lambda: keep(desk))
        self.lay = Tag(desk, "Lay out the ribbons", self, lambda: desk.edit(lambda: lay_out(desk.figure)))
        self.shelf.recalled.connect(desk.recall)
        self.shelf.dragged.connect(self._dragged)
        self.shelf.dropped.connect(self._dropped)
        self.ribbons.asked.connect(self._asked)
        desk.transport.ran.connect(self._ran)
        self.listen(desk.studied, desk.selected, desk.looked, desk.changed)
        for working in (desk.voices, desk.abilities):
            working.went.connect(desk.selected.emit)
        self.refresh()

    def page(self) -> Page:
        return score_page(self.desk)

    def _paces(self) -> list[tuple[str, str]]:
        return [(str(p), "as written" if p == 1 else f"{p:.0%}".replace("%", "\u00a0%")) for p in PACES]

    def refresh(self) -> None:
        self.shelf.fresh()
        self.ribbons.fresh()
        self._ran()

    def _ran(self) -> None:
        transport = self.desk.transport
        self.run.set_label("Stop" if transport.running else "Run from here")
        self.pace.show_value(dict(self._paces())[str(transport.pace)])
        self._place()
        self.update(
            0, 0, self.front.x() - 1, self.shelf_top - 2
        )  # the head only: what lies over the rest would be drawn again

    def _asked(self) -> None:
        self.window().focus_field("Begins at" if self.desk.subject.kind == "play" else "Leaves at")

    def _dragged(self, ident: str, at: QPointF) -> None:
        self.ribbons.drop = self._time_under(at, ident)
        self.ribbons.update()

    def _dropped(self, ident: str, at: QPointF) -> None:
        self.ribbons.drop = None
        found = self._time_under(at, ident)
        if found is not None:
            self.ribbons.hand.pin_at(ident, found[0])
        self.ribbons.update()

    def _time_under(self, at: QPointF, ident: str) -> tuple[float, str] | None:
        here = self.ribbons.mapFromGlobal(at)
        span = self.ribbons.span()
        inside = self.ribbons.rect().contains(here.toPoint()) and span.x0 <= here.x() <= span.x1
        return (span.t(here.x()), ident) if inside else None

    def key(self, event) -> bool:
        """Keys of the whole bench while no text is being written; True where one was meant."""
        transport, key = self.desk.transport, event.key()
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
            return False
        if key in (Qt.Key.Key_Space, Qt.Key.Key_G):
            transport.toggle()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = (1.0 if shift else 0.1) * (1 if key == Qt.Key.Key_Right else -1)
            transport.stop()
            transport.go(round(transport.now + by, 3))
        elif Qt.Key.Key_1 <= key <= Qt.Key.Key_9:
            n = key - Qt.Key.Key_1
            if n < len(self.desk.figure.poses):
                self.ribbons.hand.pin_at(self.desk.figure.poses[n].id, transport.now)
        elif key == Qt.Key.Key_B:
            self.ribbons.hand.bead_here()
        elif key == Qt.Key.Key_M:
            self.large = not self.large
            self._place()
            self.ribbons.fresh()
        elif key == Qt.Key.Key_Delete and self.desk.subject.kind in ("move", "pin", "play"):
            self.remove()
        else:
            return False
        return True

    def remove(self) -> None:
        """Take out the move, the pinned pose or the sound in hand."""
        held, ref = self.desk.move_in_hand(), self.desk.subject
        if held is not None:
            channel, k = held
            self.desk.select(Ref("channel", channel.id))
            self.desk.edit(lambda: remove_move(channel, k))
        elif ref.kind == "play" and (voice := self.desk.voice_in_hand()) is not None:
            play = voice.plays[ref.number]
            self.desk.select(Ref("channel", voice.id))
            self.desk.voices.edit(lambda: remove_play(self.desk.figure, voice, play.id))
        elif ref.kind == "pin":
            self.desk.edit(lambda: unpin(self.desk.figure, ref.id))

    def _place(self) -> None:
        u, w, h = self.u, self.width(), self.height()
        self.shelf_top = u(40)
        tall = min(u(112), round(h * 0.24))
        stage = round(w * 0.36) if self.large else min(u(290), round(w * 0.3))
        self.shelf.setGeometry(u(14), self.shelf_top, w - stage - u(42), tall)
        self.front.setGeometry(w - stage - u(12), u(8), stage, (h if self.large else self.shelf_top + tall) - u(8))
        top = self.shelf_top + tall + u(6)
        self.ribbons.setGeometry(u(6), top, w - u(10) - (stage + u(12) if self.large else 0), h - top - u(2))
        size = self.run.sizeHint()
        self.run.setGeometry(
            u(2), round(u(RULER) / 2 - size.height() / 2), min(size.width(), u(LABEL - 4)), size.height()
        )
        right = self.front.x() - u(14)
        keep_size, pace_size = self.keep.sizeHint(), self.pace.sizeHint()
        self.keep.setGeometry(right - keep_size.width(), u(6), keep_size.width(), keep_size.height())
        self.pace.setGeometry(self.keep.x() - pace_size.width() - u(6), u(7), pace_size.width(), pace_size.height())
        self.lay.setVisible(bool(missing_channels(self.desk.figure)))
        lay = self.lay.sizeHint()
        self.lay.setGeometry(self.pace.x() - lay.width() - u(6), u(6), lay.width(), lay.height())

    def resizeEvent(self, event) -> None:
        self._place()
        self.ribbons.fresh()
        self.update()

    def draw(self, kit: Kit) -> None:
        u, score = kit.u, self.desk.figure.score
        kit.rect(0, 0, self.width(), self.height(), "paper")
        x = kit.text(u(16), u(20), "Score", 18, 600) + u(12)
        words = f"“{score.name}”, {score.length_s:g} s, {'loops' if score.loops else 'once'}"
        edge = (self.lay if self.lay.isVisible() else self.pace).x() - u(8)
        if x + kit.width(words, 13) < edge:
            kit.text(x, u(21), words, 13, 400, "ink2")
