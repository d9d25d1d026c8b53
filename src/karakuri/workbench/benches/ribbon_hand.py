"""The hand on the ribbons: what a press takes hold of, what a drag does to it, and the same actions by key."""

from __future__ import annotations

import math
import weakref
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, Qt

from karakuri.model.channel import SoundChannel
from karakuri.model.moves import Row
from karakuri.model.ref import FIGURE, Ref
from karakuri.model.score_edits import add_move, change_move
from karakuri.model.sound_edits import move_play
from karakuri.motion.makers.pin import change_pin
from karakuri.workbench.benches.pose_page import pin_here
from karakuri.workbench.benches.ribbon_row import in_view, ribbon_edges
from karakuri.workbench.benches.ribbon_values import target_limits, target_words

NEW_S = 0.4
SHAPES = {
    "bead": Qt.CursorShape.SizeAllCursor,
    "foot": Qt.CursorShape.SizeHorCursor,
    "pin": Qt.CursorShape.SizeHorCursor,
    "time": Qt.CursorShape.SizeHorCursor,
    "play": Qt.CursorShape.SizeHorCursor,
}


@dataclass
class Held:
    """What the hand holds: kind bead, foot, hold, time, pin or play; where it began; the move as it was."""

    kind: str
    channel: str
    k: int
    x: float
    y: float
    row: Row | None = None
    moved: bool = False
    along: bool = False
    across: bool = False
    words: str = ""


class RibbonHand:
    """Belongs to one view of ribbons; reads its layout, sends edits to its desk."""

    def __init__(self, view) -> None:
        self.view = weakref.proxy(view)
        self.held: Held | None = None
        self.pointer = QPointF()

    def shape(self, at: QPointF) -> Qt.CursorShape:
        """What the pointer looks like over a place."""
        found = self.hit(at.x(), at.y())
        return SHAPES.get(found.kind if found else "", Qt.CursorShape.ArrowCursor)

    def hit(self, x: float, y: float) -> Held | None:
        span = self.view.span()
        if y < self.view.ruler():
            return Held("time", "", -1, x, y)
        if y < self.view.head():
            slip = next((p for p, a, b in getattr(self.view, "slips", []) if a - 4 <= x <= b + 4), None)
            return Held("pin", slip, -1, x, y) if slip else Held("time", "", -1, x, y)
        found = self.view.channel_at(y)
        if found is None:
            return None
        channel, top = found
        if x < span.x0 - self.view.u(4):
            return Held("label", channel.id, -1, x, y)
        if isinstance(channel, SoundChannel):
            return self._sound_at(channel, span.t(x), x, y)
        ribbon = self.view.values.of(channel, span)
        a, b = ribbon_edges(self.view, top, self.view.row_tall())
        track, best = ribbon.track, (self.view.u(9), "", -1)
        rows = in_view(track, span)
        for k in rows.tolist():
            bx, by = float(span.x(track.departs[k] + track.takes[k])), float(ribbon.y(track.target[k], a, b))
            fx, fy = float(span.x(track.departs[k])), float(ribbon.y(track.start[k], a, b))
            away = math.hypot(bx - x, (by - y) * 0.7) - (1.5 if k == ribbon.chosen else 0)
            if away < best[0]:
                best = (away, "bead", k)
            away = math.hypot(fx - x, (fy - y) * 0.7) + 2
            if away < min(best[0], self.view.u(8)):
                best = (away, "foot", k)
        if best[2] >= 0:
            return Held(best[1], channel.id, best[2], x, y, channel.moves.row(best[2]))
        under = [k for k in rows.tolist() if span.x(track.departs[k]) <= x <= span.x(track.departs[k] + track.takes[k])]
        if under:
            return Held("slope", channel.id, under[-1], x, y, channel.moves.row(under[-1]))
        return Held("hold", channel.id, -1, x, y)

    def _sound_at(self, voice: SoundChannel, t: float, x: float, y: float) -> Held:
        """The last sound that has begun by a time and is still heard, or about to begin under the pointer."""
        sounds, near = self.view.desk.figure.sound, self.view.u(7) / self.view.span().per_s
        here = [
            k for k, play in enumerate(voice.plays) if play.at_s - near <= t <= play.at_s + sounds(play.sound).length_s
        ]
        return Held("play", voice.id, here[-1], x, y) if here else Held("label", voice.id, -1, x, y)

    def press(self, at: QPointF) -> None:
        """Take hold of what is there; it is in hand from then on."""
        x, y = at.x(), at.y()
        self.held = held = self.hit(x, y)
        self.pointer = at
        desk = self.view.desk
        if held is None:
            desk.select(FIGURE)
        elif held.kind == "time":
            desk.transport.stop()
            desk.transport.go(self.view.span().t(x))
        elif held.kind == "pin":
            desk.select(Ref("pin", held.channel))
        elif held.kind == "play":
            desk.select(Ref("play", held.channel, held.k))
        elif held.k >= 0:
            desk.select(Ref("move", held.channel, held.k))
        else:
            desk.select(Ref("channel", held.channel))

    def move(self, at: QPointF, shift: bool) -> None:
        """Drag what is held, once the pointer went far enough for it to be meant."""
        held = self.held
        if held is None:
            return
        self.pointer = at
        held.along = held.along or abs(at.x() - held.x) > 3
        held.across = held.across or abs(at.y() - held.y) > 5
        if held.along or held.across:
            held.moved = True
            self._drag(held, at, shift)

    def release(self) -> None:
        """Let go; a drag of a move or a pin is one step from then on."""
        if self.held is not None and self.held.moved and self.held.kind in ("bead", "foot", "pin", "play"):
            self.view.desk.end_drag()
        self.held = None

    def _drag(self, held: Held, at: QPointF, shift: bool) -> None:
        span = self.view.span()
        if held.kind == "time":
            self.view.desk.transport.go(span.t(at.x()))
        elif held.kind == "pin":
            self._drag_pin(held, span.t(at.x()) - span.t(held.x))
        elif held.kind == "play":
            self._drag_play(held, span.t(at.x()) - span.t(held.x))
        elif held.kind == "bead":
            self._drag_bead(held, at, shift)
        elif held.kind == "foot" and held.row is not None:
            arrives = held.row.departs + held.row.takes
            departs = min(self._snap(held.row.departs + (at.x() - held.x) / span.per_s), arrives - 0.02)
            self._change(held, "departure", departs=max(0.0, departs), takes=arrives - max(0.0, departs))
            held.words = "leaves later, quicker" if departs > held.row.departs else "leaves sooner, slower"
        elif held.kind == "hold" and held.across:
            self._new(held, at)

    def _snap(self, t: float) -> float:
        """To hundredths, to milliseconds when close."""
        return round(t, 3) if self.view.t1 - self.view.t0 < 2 else round(t, 2)

    def _drag_bead(self, held: Held, at: QPointF, shift: bool) -> None:
        row, span = held.row, self.view.span()
        if row is None:
            return
        by = (at.x() - held.x) / span.per_s if held.along else 0.0
        fields: dict[str, float] = {}
        words = []
        if held.along and shift:
            fields["departs"] = max(0.0, self._snap(row.departs + by))
            words.append("all later" if by > 0 else "all sooner")
        elif held.along:
            arrives = max(row.departs + 0.02, self._snap(row.departs + row.takes + by))
            fields["takes"] = arrives - row.departs
            words += ["later", "slower"] if by > 0 else ["sooner", "quicker"]
        if held.across:
            target, stuck = self._target(held, at)
            fields["target"] = target
            channel = self.view.desk.figure.score.moving(held.channel)
            words.append(stuck or f"to {target_words(self.view.desk, channel, target)}")
        if fields:
            self._change(held, "arrival", **fields)
            held.words = ", ".join(words)

    def _target(self, held: Held, at: QPointF) -> tuple[float, str]:
        """The target under the pointer; it sticks at the soft limit and says so."""
        channel = self.view.desk.figure.score.moving(held.channel)
        low, high = target_limits(self.view.desk, channel)
        tall = self.view.row_tall() - self.view.u(14)
        value = held.row.target - (at.y() - held.y) / tall * (high - low)
        step = 1.0 if high - low > 8 else 0.1
        value = round(value / step) * step
        name = self.view.desk.figure.joint(channel.joints[0]).name if channel.joints else channel.name
        if value > high:
            return high, f"{name} is wanted up to {target_words(self.view.desk, channel, high)}"
        if value < low:
            return low, f"{name} is wanted down to {target_words(self.view.desk, channel, low)}"
        return value, ""

    def _change(self, held: Held, words: str, **fields: float) -> None:
        channel = self.view.desk.figure.score.moving(held.channel)
        edit, k = change_move(channel, held.k, words, **fields)
        if self.view.desk.edit(edit, dragging=True):
            held.k = k
            self.view.desk.hold_move(held.channel, k)

    def _new(self, held: Held, at: QPointF) -> None:
        """A hold pulled up or down is a new move, arriving where the pointer is."""
        channel = self.view.desk.figure.score.moving(held.channel)
        arrives = self._snap(self.view.span().t(held.x))
        departs = max(0.0, arrives - NEW_S)
        stands = self.view.desk.stands(channel, departs)
        row = Row(departs, arrives - departs or 0.02, round(stands, 1))
        edit, k = add_move(channel, row)
        if self.view.desk.edit(edit, dragging=True):
            held.kind, held.k, held.row, held.along = "bead", k, row, False
            held.words = "new move here"
            self.view.desk.hold_move(held.channel, k)
            self._drag_bead(held, at, False)

    def _drag_pin(self, held: Held, by: float) -> None:
        pin = next(p for p in self.view.desk.figure.score.pins if p.id == held.channel)
        if held.row is None:
            held.row = Row(pin.arrives_s, pin.takes_s, 0.0)
        arrives = max(0.02, self._snap(held.row.departs + by))
        if arrives != pin.arrives_s:
            self.view.desk.edit(lambda: change_pin(self.view.desk.figure, pin.id, arrives_s=arrives), dragging=True)
            held.words = f"arrives {arrives:.2f} s"

    def _drag_play(self, held: Held, by: float) -> None:
        """A sound begins later or sooner, and its jaw with it."""
        desk = self.view.desk
        voice = next(v for v in desk.figure.score.voices if v.id == held.channel)
        play = voice.plays[held.k]
        if held.row is None:
            held.row = Row(play.at_s, 0.0, 0.0)
        at = max(0.0, self._snap(held.row.departs + by))
        if at != play.at_s and desk.voices.edit(lambda: move_play(voice, play.id, at), dragging=True):
            moved = next(v for v in desk.figure.score.voices if v.id == held.channel)
            held.k = next(k for k, other in enumerate(moved.plays) if other.id == play.id)
            desk.hold(Ref("play", voice.id, held.k))
            held.words = f"begins {at:.2f} s"

    def pin_at(self, pose_id: str, at: float) -> None:
        """Pin a pose to a time, with its moves."""
        pin_here(self.view.desk, pose_id, self._snap(at))

    def bead_here(self) -> None:
        """B: a bead in the ribbon in hand at the plumb line: a new move that arrives there, where the joint stands."""
        channel = self.view.desk.channel_in_hand()
        if channel is None:
            self.view.desk.said.emit("Take a ribbon in hand first: press it, or go through them with Up and Down.")
            return
        now = self.view.desk.transport.now
        departs = max(0.0, now - NEW_S)
        edit, k = add_move(
            channel, Row(departs, max(0.02, now - departs), round(self.view.desk.stands(channel, now), 1))
        )
        if self.view.desk.edit(edit):
            self.view.desk.hold_move(channel.id, k)
