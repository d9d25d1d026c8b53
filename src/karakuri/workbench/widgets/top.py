"""The top line and the rail."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QWidget

from karakuri.units import ALL_UNITS
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit, text_width
from karakuri.workbench.marks import glyph, moving_head, slip
from karakuri.workbench.routes import BENCHES, bench_of
from karakuri.workbench.widgets.field import Field
from karakuri.workbench.widgets.sheet import Press, Sheet
from karakuri.workbench.widgets.tag import SECTION, Choice

FOOT = 112
"""What stays free at the rail's foot, for Stop and for the card's tag."""


class RailButton(Press):
    """A bench: glyph, name, and a slip with what is worst there."""

    def __init__(self, desk: Desk, bench: str, number: int, parent: QWidget) -> None:
        super().__init__(desk, f"{bench.capitalize()} bench, Alt+{number}", parent)
        self.bench = bench
        self.clicked.connect(lambda: desk.turn_to(bench))

    def worst(self) -> tuple[int, str] | None:
        study = self.desk.study
        if study is None or self.desk.making_anew:
            return None
        for verdict in ("fails", "tight"):
            n = sum(1 for f in study.findings if bench_of(f) == self.bench and f.verdict == verdict)
            if n:
                return n, verdict
        return None

    def draw(self, kit: Kit) -> None:
        on, u, w = self.desk.bench == self.bench, self.u, self.width()
        if on:
            cut = u(8)
            shape = Kit.path(
                [
                    (cut, 0.5),
                    (w, 0.5),
                    (w, self.height() - 0.5),
                    (cut, self.height() - 0.5),
                    (0.5, self.height() - cut),
                    (0.5, cut),
                ],
                True,
            )
            kit.draw(shape, "paper", "rule")
            kit.rect(u(5), u(10), 3, self.height() - u(20), "indigo")
        elif self.hot():
            kit.rect(u(4), 2, w - u(8), self.height() - 4, "paper")
        named = self.height() >= u(56) and self.width() >= u(70)
        glyph(
            kit,
            self.bench,
            w / 2,
            u(23) if named else self.height() / 2,
            "indigo" if on else "ink2",
            "brass_f" if on else "brass_t",
            self.desk.look.scale if named else 1.0,
        )
        if named:
            kit.text(
                w / 2,
                self.height() - u(13),
                self.bench.capitalize(),
                12,
                600 if on else 400,
                "indigo" if on else "ink2",
                "c",
            )
        worst = self.worst()
        if worst:
            slip(kit, w / 2 + u(22), u(12), *worst)
        if self.hasFocus():
            kit.rect(2, 2, w - 4, self.height() - 4, None, "indigo", 2)


class Rail(Sheet):
    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Benches", parent)
        self.buttons = [RailButton(desk, bench, i + 1, self) for i, bench in enumerate(BENCHES)]
        for signal in (desk.studied, desk.turned, desk.looked):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        self.update()
        for button in self.buttons:
            button.update()

    def resizeEvent(self, event) -> None:
        u, top = self.u, self.u(44)
        room = self.height() - top - u(8) - u(FOOT)
        tall = max(28, min(u(68), room // len(self.buttons) - u(5)))
        for i, button in enumerate(self.buttons):
            button.setGeometry(0, top + u(8) + i * (tall + u(5)), self.width(), tall)

    def draw(self, kit: Kit) -> None:
        w, u = self.width(), self.u
        kit.rect(0, 0, w, self.height(), "desk")
        kit.line(w - 0.5, 0, w - 0.5, self.height(), "rule")
        kit.line(w / 2, u(58), w / 2, u(44) + len(self.buttons) * u(70), "rule", 1, "dot")
        kit.rect(0, 0, w, u(44), "indigo")
        moving_head(kit, w / 2, u(22), u(34))


class TurnButton(Press):
    """Undo or redo, named."""

    def __init__(self, desk: Desk, back: bool, parent: QWidget) -> None:
        super().__init__(desk, "Undo" if back else "Redo", parent)
        self.back = back
        self.clicked.connect(desk.undo if back else desk.redo)
        desk.changed.connect(self.refresh)
        self.short = False
        self.refresh()

    def words(self) -> str:
        history = self.desk.session.history
        name = history.undo_name if self.back else history.redo_name
        word = "Undo" if self.back else "Redo"
        if self.short or name is None:
            return word
        return f"{word} {name}" if len(name) <= 26 else f"{word} {name[:26].rsplit(' ', 1)[0].rstrip(':,;')}"

    def refresh(self) -> None:
        history = self.desk.session.history
        name = history.undo_name if self.back else history.redo_name
        self.setAccessibleName(
            f"{'Undo' if self.back else 'Redo'} {name}" if name else f"Nothing to {'undo' if self.back else 'redo'}"
        )
        self.setToolTip(self.accessibleName())
        self.setEnabled(name is not None)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(text_width(self.desk.look, self.words(), 13)) + self.u(30), self.u(28))

    def draw(self, kit: Kit) -> None:
        colour = "ink" if self.isEnabled() else "ink3"
        if self.hot():
            kit.rect(0, 2, self.width(), self.height() - 4, "sel")
        glyph(kit, "undo" if self.back else "redo", self.u(11), self.height() / 2, colour, k=self.desk.look.scale)
        kit.text(self.u(24), self.height() / 2, self.words(), 13, 400, colour)
        if self.hasFocus():
            kit.rect(1, 1, self.width() - 2, self.height() - 2, None, "indigo", 2)


class Top(Sheet):
    """Figure's name, posture, pose, units, undo and redo, find or do, and whether it is saved."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "Top line", parent)
        self.note = ""
        self.posture = Choice(
            desk, "Posture", lambda: [(p.id, p.name) for p in desk.figure.postures], desk.set_posture, self
        )
        self.pose = Choice(desk, "Pose", self._poses, self._take_pose, self)
        self.units = Choice(desk, "Units", self._unit_options, self._take_units, self, bold=False)
        self.undo, self.redo = TurnButton(desk, True, self), TurnButton(desk, False, self)
        self.finder = Field(desk, "Find or do, Alt+W", self, right=False)
        self.finder.setPlaceholderText("Find or do: “tilt 20”, “yoke”")
        for signal in (desk.changed, desk.posed, desk.looked, desk.studied):
            signal.connect(self.refresh)
        self.refresh()

    def _poses(self) -> list[tuple[str, str]]:
        worst = [
            (f"worst {j.id}", f"worst of {j.name}")
            for j in self.desk.figure.joints
            if j.kind == "turn" and j.role == "driven"
        ]
        kept = [(f"kept {pose.id}", pose.name) for pose in self.desk.figure.poses]
        return [("rest", "rest"), *([(SECTION, "kept"), *kept, (SECTION, "worst")] if kept else []), *worst]

    def _take_pose(self, key: str) -> None:
        if key == "rest":
            self.desk.set_whole_pose({})
            return
        if key.startswith("kept "):
            self.desk.recall(key.removeprefix("kept "))
            return
        study = self.desk.study
        if study is not None:
            worst = study.results.of(key.removeprefix("worst ")).hold.worst
            self.desk.set_whole_pose(dict(zip(study.results.tree.ids, (float(v) for v in worst.pose), strict=True)))
            self.desk.set_posture(self.desk.figure.postures[worst.posture].id)

    def _unit_options(self) -> list[tuple[str, str]]:
        sizes = [(f"text {p}", f"Text {p} %") for p in (100, 110, 125, 150)]
        return [(SECTION, "Units"), *((units.name, units.title) for units in ALL_UNITS), (SECTION, "Text size"), *sizes]

    def _take_units(self, key: str) -> None:
        if key.startswith("text "):
            self.desk.set_scale(int(key.removeprefix("text ")) / 100)
        else:
            self.desk.set_units(key)

    def pose_words(self) -> str:
        moved = [v for v in self.desk.pose.values() if abs(v) > 1e-9]
        if not moved:
            return "rest"
        if self.desk.transport.running:
            return "as played"
        for pose in self.desk.figure.poses:
            kept = self.desk.kept_places(pose)
            if all(abs(self.desk.pose.get(k, 0.0) - v) < 1e-6 for k, v in kept.items()):
                return pose.name
        study = self.desk.study
        if study is not None:
            for r in study.results.joints:
                worst = dict(zip(study.results.tree.ids, r.hold.worst.pose, strict=True))
                if all(abs(self.desk.pose.get(k, 0.0) - v) < 1e-6 for k, v in worst.items()):
                    return f"worst of {r.joint.name}"
        return "posed by hand"

    def saved_words(self) -> str:
        if self.note:
            return self.note
        session = self.desk.session
        if session.path is None:
            return "not saved yet"
        return "not saved" if session.dirty else "saved"

    def refresh(self) -> None:
        desk = self.desk
        self.posture.show_value(desk.posture_value().name)
        self.pose.show_value(self.pose_words())
        self.units.show_value(desk.units.title if self.width() >= self.u(1150) else desk.units.name)
        self.finder.dress()
        self._place()
        self.update()

    def _place(self) -> None:
        u, y, tall = self.u, (self.height() - self.u(28)) // 2, self.u(28)
        x = u(16) + round(text_width(self.desk.look, self.desk.figure.name, 16, 600)) + u(22)
        right = self.width() - u(34) - round(text_width(self.desk.look, self.saved_words(), 13)) - u(26)
        for short, redo in ((False, True), (True, True), (True, False)):
            self.undo.short = self.redo.short = short
            shown = [self.posture, self.pose, self.units, self.undo, *([self.redo] if redo else [])]
            need = sum(w.sizeHint().width() + u(8) for w in shown)
            if x + need + u(130) <= right:
                break
        self.redo.setVisible(self.redo in shown)
        self.caption_x = x
        for widget in shown:
            wide = widget.sizeHint().width()
            widget.setGeometry(x, y, wide, tall)
            x += wide + u(8)
        self.find_x = (x, right)
        wide = right - x
        self.finder.setVisible(wide > u(60))
        self.finder.setPlaceholderText("Find or do: “tilt 20”, “yoke”" if wide > u(250) else "Find or do")
        self.finder.setGeometry(x + u(4), y, max(10, wide - u(8)), tall)

    def resizeEvent(self, event) -> None:
        self.refresh()

    def draw(self, kit: Kit) -> None:
        u, w, h = self.u, self.width(), self.height()
        kit.rect(0, 0, w, h, "card")
        kit.line(0, h - 0.5, w, h - 0.5, "rule")
        kit.text(u(16), h / 2, self.desk.figure.name, 16, 600)
        glyph(
            kit,
            "book",
            w - u(20) - kit.width(self.saved_words(), 13) - u(14),
            h / 2,
            "moss",
            "moss_t",
            0.56 * self.desk.look.scale,
        )
        kit.text(w - u(14), h / 2, self.saved_words(), 13, 400, "ink2", "r")
