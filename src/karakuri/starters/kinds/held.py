"""A creature on a hand: light, its battery inside, tipped every way."""

from __future__ import annotations

from karakuri.starters.contract import Kind
from karakuri.starters.kinds.shell import rectangle, shell
from karakuri.starters.maker import Maker


def _put(maker: Maker) -> None:
    maker.part("Battery", "base", maker.at(-0.2, 0, -0.9), {"kind": "point"}, grams=95.0)
    maker.part("Grip", "base", maker.at(-0.06, 0, -0.85), {"kind": "cylinder", "radius_mm": maker.mm(0.14), "height_mm": maker.mm(0.5), "wall_mm": 2.0}, "pla")  # fmt: skip
    shell(maker, "pla", 1.6)


KIND = Kind(
    id="held", name="Hand-held creature", words="on a hand", tall_mm=110.0,
    base=lambda tall: {"outline_mm": rectangle(60.0, 60.0), "held": "fixed"}, stand=lambda tall: round(0.5 * tall, 1), put=_put,
    postures=({"id": "level", "name": "level"}, {"id": "tipped", "name": "nose down in the hand", "lean_deg": 45.0}),
    stands_on="a hand",
)  # fmt: skip
