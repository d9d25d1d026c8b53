"""A bust or a head on a table: a plinth of wood, a printed shell."""

from __future__ import annotations

from karakuri.starters.contract import Kind
from karakuri.starters.kinds.shell import rectangle, shell
from karakuri.starters.maker import Maker

PLINTH_MM = 40.0


def _put(maker: Maker) -> None:
    side = maker.mm(0.9)
    maker.part("Plinth", "base", (0.0, 0.0, PLINTH_MM / 2), {"kind": "box", "size_mm": (side, side, PLINTH_MM)}, "pine")
    shell(maker, "petg", 2.4)


KIND = Kind(
    id="bust", name="Bust or tabletop", words="on a plinth", tall_mm=200.0,
    base=lambda tall: {"outline_mm": rectangle(0.9 * tall, 0.9 * tall)}, stand=lambda tall: PLINTH_MM, put=_put,
)  # fmt: skip
