"""What makes things and takes them away: joints, parts, twins, pasted lists, kept poses."""

from __future__ import annotations

import weakref

from PyQt6.QtWidgets import QApplication

from karakuri.model.edit import Edit
from karakuri.model.edits import add_joint, add_part, fresh_part, remove_item
from karakuri.model.joint_edits import fresh_joint
from karakuri.model.ref import Ref, item_of
from karakuri.model.sides import twin_joint, twin_part
from karakuri.workbench.benches.pose_page import keep
from karakuri.workbench.stage.elevation import Elevation


class Making:
    """Acts on what is in hand; a new thing is taken in hand, its name ready to be typed over."""

    def __init__(self, window) -> None:
        self._window = weakref.proxy(window)
        self.desk = window.desk

    def joint(self) -> None:
        """A joint with a default for every field, on what is in hand."""
        if not self.desk.making_anew:
            joint = fresh_joint(self.desk.figure, self._carrier())
            if self.desk.edit(lambda: add_joint(joint)):
                self._take(Ref("joint", joint.id))

    def part(self) -> None:
        """A part without a mass yet, on what is in hand; where the pointer is, if that is over a drawing."""
        if not self.desk.making_anew:
            rides_on = self._carrier()
            drawings = self._window.benches[self.desk.bench].findChildren(Elevation)
            places = (drawing.away_mm(rides_on) for drawing in drawings)
            away = next((at for at in places if at is not None), (0.0, 0.0, 40.0))
            part = fresh_part(self.desk.figure, rides_on, away)
            if self.desk.edit(lambda: add_part(part)):
                self._take(Ref("part", part.id))

    def _carrier(self) -> str:
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
        self._window.focus_field("Name")

    def paste(self) -> None:
        """A parts list from the clipboard, onto what is in hand where it does not say."""
        from karakuri.exchange.parts_table import parts_of

        clipboard = QApplication.clipboard()
        text, rides_on, desk = clipboard.text() if clipboard is not None else "", self._carrier(), self.desk
        if not desk.making_anew and desk.edit(lambda: parts_of(desk.figure, text, rides_on)):
            desk.said.emit(f"{desk.session.history.undo_name.capitalize()}: masses are guesses until they are weighed.")

    def pose(self) -> None:
        """Keep the pose the figure has now; away from the score what is in hand stays in hand."""
        if self.desk.making_anew or not self.desk.figure.joints:
            return
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
            idents: list[str] = []

            def edit() -> Edit:
                twin, ident = twin_joint(desk.figure, ref.id)
                idents.append(ident)
                return twin

            if desk.edit(edit):
                self._take(Ref("joint", idents[0]))

    def remove(self) -> None:
        """What is in hand."""
        ref, bench = self.desk.subject, self._window.benches[self.desk.bench]
        if ref.kind in ("move", "pin") and hasattr(bench, "remove"):
            bench.remove()
        elif ref.kind in ("part", "joint", "pose", "element"):
            self.desk.edit(lambda: remove_item(self.desk.figure, f"{ref.kind}s", ref.id))
