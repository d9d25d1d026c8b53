"""The story: states as scenes between two rolls, what turns the page on slips in the seams, the one that plays now lit; a brass thread below leads back."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from karakuri.model.behaviour import Start, State
from karakuri.model.behaviour_edits import deed_words, trigger_words
from karakuri.model.ref import Ref
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.sheet import Sheet

SCENE, SLIP, ROLL = 138, 26, 9


class Story(Sheet):
    """Scrolls to the scene that plays, or to the one in hand; arrows go from scene to scene, a press takes one in hand."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "story: no behaviour yet", parent)
        self.first = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def fresh(self) -> None:
        """Something changed: the scene that plays, or else the one in hand, comes into view."""
        states = self._states()
        ids = [state.id for state in states]
        here = self.desk.living.state or (self.desk.subject.id if self.desk.subject.kind == "state" else "")
        if here in ids:
            at, fits = ids.index(here), self._fits()
            self.first = min(max(self.first, at - fits + 1), at)
        self.first = max(0, min(self.first, len(states) - self._fits()))
        name = next((state.name for state in states if state.id == here), "nothing plays")
        self.setAccessibleName(f"story: {name}" if states else "story: no behaviour yet")
        self.update()

    def _states(self) -> tuple[State, ...]:
        behaviour = self.desk.figure.behaviour
        return behaviour.states if behaviour is not None else ()

    def _wide(self) -> tuple[float, float]:
        """How wide a scene and a slip are."""
        return self.u(SCENE), self.u(SLIP)

    def _fits(self) -> int:
        scene, slip = self._wide()
        return max(1, int((self.width() - 2 * self.u(ROLL) - self.u(8) + slip) / (scene + slip)))

    def draw(self, kit: Kit) -> None:
        u, states = kit.u, self._states()
        if not states:
            kit.rect(1, 1, self.width() - 2, u(70), None, "rule", 1, "dot")
            kit.lines(u(16), u(20), "No behaviour yet: set one down on the card, or add a state. It says what the figure does by itself, and what starts that.", self.width() - u(30), 13)  # fmt: skip
            return
        scene, slip = self._wide()
        fits, top, tall = self._fits(), u(6), u(92)
        shown = states[self.first : self.first + fits]
        x = u(ROLL) + u(2)
        right = x + len(shown) * scene + (len(shown) - 1) * slip
        kit.rect(x, top, right - x, tall, "card", "rule", 1)
        for k, state in enumerate(shown):
            left = x + k * (scene + slip)
            self._scene(kit, state, left, top, scene, tall)
            if k + 1 < len(shown):
                self._slip(kit, state, shown[k + 1], left + scene, top, slip, tall)
            self._threads(kit, state, states, left, top + tall, scene)
        for edge in (u(1), right + u(1)):
            kit.rect(edge, top - u(5), u(ROLL), tall + u(10), "wood", "ink", 1)
        if len(states) > fits:
            words = f"{self.first + 1} to {self.first + len(shown)} of {len(states)}"
            kit.text(self.width() - u(4), self.height() - u(7), words, 11, 400, "ink3", "r")
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)

    def _scene(self, kit: Kit, state: State, x: float, y: float, w: float, h: float) -> None:
        u, living = kit.u, self.desk.living
        lit, held = living.state == state.id, self.desk.subject == Ref("state", state.id)
        if lit:
            kit.rect(x + 1, y + 1, w - 2, h - 2, "lit")
        if lit or held:
            kit.rect(x + 1, y + 1, w - 2, h - 2, None, "indigo", 2)
        kit.text(x + u(8), y + u(14), kit.short(state.name, w - u(14), 13, 600), 13, 600, "indigo" if held else "ink")
        under = "nothing"
        if lit and living.engine is not None:
            under = f"{living.engine.now - living.engine.entered[-1].at:.1f} s so far"
        elif state.stays_s is not None:
            under = f"{state.stays_s[0]:g} to {state.stays_s[1]:g} s"
        if lit or state.stays_s is not None:
            kit.text(x + u(8), y + u(31), under, 12, 400, "ink2")
        for n, deed in enumerate(state.plays[:3]):
            words = kit.short(deed_words(self.desk.figure, deed), w - u(14), 12)
            kit.text(x + u(8), y + u(48 + 15 * n), words, 12, 400, "ink2")

    def _slip(self, kit: Kit, state: State, after: State, x: float, y: float, w: float, h: float) -> None:
        """What turns the page, hanging in the seam; written up along it."""
        start = next((s for s in self._starts(state) if s.to == after.id), None)
        if start is None:
            return
        u, a, b = kit.u, x + kit.u(4), x + w - kit.u(4)
        nxt = self.desk.living.state == state.id
        shape = [(a, y - u(3)), (b, y - u(3)), (b, y + h + u(5)), ((a + b) / 2, y + h), (a, y + h + u(5))]
        kit.draw(Kit.path(shape, True), "indigo_t" if nxt else "brass_t", "indigo" if nxt else "rule", 1.2)
        behaviour = self.desk.figure.behaviour
        assert behaviour is not None
        words = kit.short(trigger_words(behaviour, start.on), h - u(6), 11, 500)
        kit.p.save()
        kit.p.translate((a + b) / 2, y + h / 2)
        kit.p.rotate(-90)
        kit.text(0, 0, words, 11, 500, "indigo" if nxt else "ink", "c")
        kit.p.restore()

    def _threads(self, kit: Kit, state: State, states: tuple[State, ...], x: float, y: float, w: float) -> None:
        """Below: where else it leads, and by what."""
        behaviour = self.desk.figure.behaviour
        assert behaviour is not None
        u, at = kit.u, states.index(state)
        onward = states[at + 1].id if at + 1 < len(states) else ""
        others = [s for s in self._starts(state) if s.to not in (onward, state.id)]
        if others:
            kit.line(x + u(8), y + u(10), x + w - u(8), y + u(10), "brass", 1, "dash")
            kit.circle(x + u(8), y + u(10), u(2.4), "brass_f", "ink", 1)
        for n, start in enumerate(others[: 2 if self.height() >= u(140) else 1]):
            to = behaviour.state(start.to).name
            words = kit.short(f"{to}: {trigger_words(behaviour, start.on)}", w - u(8), 11)
            kit.text(x + u(6), y + u(22 + 14 * n), words, 11, 400, "brass")

    def _starts(self, state: State) -> list[Start]:
        behaviour = self.desk.figure.behaviour
        return [s for s in behaviour.starts if not s.while_in or state.id in s.while_in] if behaviour is not None else []  # fmt: skip

    # ---- the hand
    def _at(self, x: float) -> int:
        scene, slip = self._wide()
        return self.first + math.floor((x - self.u(ROLL)) / (scene + slip))

    def mousePressEvent(self, event) -> None:
        states, k = self._states(), self._at(event.position().x())
        if 0 <= k < len(states):
            self.desk.select(Ref("state", states[k].id))

    def wheelEvent(self, event) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        self.first = max(0, min(self.first + (-1 if turn > 0 else 1), len(self._states()) - self._fits()))
        self.update()

    def keyPressEvent(self, event) -> None:
        states = self._states()
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and states:
            ids = [state.id for state in states]
            here = ids.index(self.desk.subject.id) if self.desk.subject.id in ids else -1
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self.desk.select(Ref("state", ids[max(0, min(len(ids) - 1, here + step))]))
            self.fresh()
        else:
            super().keyPressEvent(event)
