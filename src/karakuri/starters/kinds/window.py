"""A figure in a window: a body of papier mache screwed to the sill."""

from __future__ import annotations

from karakuri.starters.contract import Kind
from karakuri.starters.kinds.shell import rectangle, shell
from karakuri.starters.maker import Maker


def _put(maker: Maker) -> None:
    tall = maker.mm(1.6)
    body = {"kind": "box", "size_mm": (maker.mm(0.7), maker.mm(1.1), tall), "wall_mm": 4.0}
    maker.part("Body", "base", (0.0, 0.0, round(tall / 2, 1)), body, "papier_mache")
    shell(maker, "papier_mache", 4.0)


KIND = Kind(
    id="window", name="Window or yard", words="screwed down", tall_mm=180.0,
    base=lambda tall: {"outline_mm": rectangle(0.7 * tall, 1.1 * tall), "held": "fixed"}, stand=lambda tall: round(1.6 * tall, 1), put=_put,
    stands_on="a window sill",
)  # fmt: skip
