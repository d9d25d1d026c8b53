"""A neck that leans, ear to shoulder: a servo along the head, a bearing before and behind."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.necks import framed
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    framed(maker, "lean", "leans", -0.34, (-18.0, 18.0), 15.0, 0.6, 0.25, 0.2)


STARTER = Starter(
    "neck_leans", "Neck leans", "neck", "alone, one knob", "makes the load of the others longer", put, ("neck_rods",)
)
