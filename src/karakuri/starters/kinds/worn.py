"""A head that is worn: foam over a helmet, borne by its wearer's head."""

from __future__ import annotations

from karakuri.starters.contract import Kind
from karakuri.starters.kinds.shell import rectangle, shell
from karakuri.starters.maker import Maker


def _put(maker: Maker) -> None:
    maker.part("Helmet", "base", maker.at(-0.06, 0, 0.1), {"kind": "point"}, grams=320.0)
    shell(maker, "eva_foam", 10.0)


KIND = Kind(
    id="worn", name="Worn head", words="on its wearer", tall_mm=420.0,
    base=lambda tall: {
        "outline_mm": rectangle(0.5 * tall, 0.5 * tall), "held": "worn", "worn": {"ears_mm": (0.0, 0.0, round(0.62 * tall, 1))},
    },
    stand=lambda tall: 0.0, put=_put,
    postures=(
        {"id": "level", "name": "upright", "head_deg": 0.0},
        {"id": "bowing", "name": "bowing", "lean_deg": 30.0, "head_deg": 45.0, "lasts_s": 60.0, "faces": False},
    ),
    stands_on="its wearer",
)  # fmt: skip
