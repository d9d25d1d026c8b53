"""A rolling robot: a drum on wheels, its battery low."""

from __future__ import annotations

from karakuri.starters.contract import Kind
from karakuri.starters.kinds.shell import rectangle, shell
from karakuri.starters.maker import Maker


def _put(maker: Maker) -> None:
    tall = maker.mm(1.4)
    drum = {"kind": "cylinder", "radius_mm": maker.mm(0.6), "height_mm": tall, "wall_mm": 3.0}
    maker.part("Drum", "base", (0.0, 0.0, round(tall / 2, 1) + 40.0), drum, "poplar_ply")
    maker.part("Battery", "base", (0.0, 0.0, 70.0), {"kind": "point"}, grams=900.0)
    maker.part("Wheels and motors", "base", (0.0, 0.0, 40.0), {"kind": "point"}, grams=1200.0)
    shell(maker, "petg", 2.4)


KIND = Kind(
    id="rolling", name="Rolling robot", words="on wheels", tall_mm=200.0,
    base=lambda tall: {"outline_mm": rectangle(1.1 * tall, 1.2 * tall)}, stand=lambda tall: round(1.4 * tall + 40.0, 1), put=_put,
    postures=({"id": "level", "name": "level"}, {"id": "ramp", "name": "on a ramp", "lean_deg": -8.0}),
    stands_on="its wheels",
)  # fmt: skip
