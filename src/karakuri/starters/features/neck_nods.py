"""A neck that nods: a servo at the pivot, a bearing on either side."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.necks import framed
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    framed(maker, "nod", "nods", -0.36, (-20.0, 25.0), 30.0, 0.7, 0.2, 0.28)


STARTER = Starter(
    "neck_nods", "Neck nods", "neck", "alone, one knob", "outgrown first when the head grows", put, ("neck_rods",)
)
