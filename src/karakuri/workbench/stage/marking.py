"""Places being marked in an elevation, press by press: corners of an outline to trace, or the two ends of a known length."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from karakuri.model.drawn import View
from karakuri.workbench.kit import Kit

CLOSE_PX = 9


@dataclass
class Marking:
    """What is being marked in one view: its words, the places so far (mm to the right and up), how many it takes (0: until it is closed),
    whether they are a part's own, and what is done with them."""

    view: View
    words: str
    done: Callable[[list[tuple[float, float]]], object]
    most: int = 0
    part: str = ""
    points: list[tuple[float, float]] = field(default_factory=list)

    def add(self, right: float, up: float) -> bool:
        """One more place; True where that was the last."""
        self.points.append((round(right, 1), round(up, 1)))
        return bool(self.most) and len(self.points) >= self.most

    def back(self) -> None:
        """Without the last one."""
        if self.points:
            self.points.pop()


def draw_marking(
    kit: Kit, marking: Marking, way: list[tuple[float, float]], pointer: tuple[float, float] | None
) -> None:
    """The places so far on the screen, the line to the pointer, and what to do."""
    line = [*way, pointer] if pointer is not None and way else way
    if len(line) > 1:
        kit.polyline(line, "indigo", 1.8, "dash")
    for i, (x, y) in enumerate(way):
        kit.circle(x, y, kit.u(4 if i == 0 else 3), "card", "indigo", 1.8)
    words = marking.words + (
        " Press the first corner again or Enter to close, Backspace takes one back, Esc leaves it."
        if not marking.most
        else ""
    )
    kit.lines(kit.u(8), kit.u(30), words, kit.u(320), 12, 600, "indigo", 15)
