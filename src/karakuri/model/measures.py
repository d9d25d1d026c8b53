"""How the value of a joint or a ribbon is written: one table for what turns, what slides, what shines, what runs and what sounds."""

from __future__ import annotations

import math

from karakuri.frozen import Frozen
from karakuri.units import Kind, Quantity


class Measure(Frozen):
    """`kind` of quantity; `unit`, how files and tables write it; `sign`, how a bare number is marked on the screen; `si`, how much one of
    the unit is in SI (rad, m, share); `step`, what one press of an arrow key turns or moves, SI."""

    kind: Kind
    unit: str
    sign: str
    si: float
    step: float

    def quantity(self, written: float) -> Quantity:
        """A value as a file writes it, as a quantity."""
        return Quantity(written * self.si, self.kind)

    def written(self, si: float, digits: int = 4) -> float:
        """A value in SI as a file writes it."""
        return round(si / self.si, digits)


TURN = Measure("angle", "deg", "°", math.pi / 180, math.pi / 180)
SLIDE = Measure("length", "mm", "mm", 1e-3, 1e-3)
LIGHT = Measure("percent", "%", "%", 0.01, 0.01)
RUN = Measure("percent", "%", "%", 0.01, 0.01)
LOUD = Measure("percent", "%", "%", 0.01, 0.01)
MEASURES: dict[str, Measure] = {"turn": TURN, "slide": SLIDE, "light": LIGHT, "run": RUN, "sound": LOUD}
