"""A neck that nods: a servo at the pivot, a bearing on either side."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    at = maker.at(-0.06, 0, -0.36)
    joint = maker.joint("Neck nod", "nods", at, (-20.0, 25.0), "neck", move={"by": 30.0, "time_s": maker.s(0.7)}, support={"kind": "bearing_pair"})  # fmt: skip
    maker.part("Nodding frame", joint, maker.at(-0.06, 0, -0.3), {"kind": "box", "size_mm": (maker.mm(0.2), maker.mm(0.28), 6.0)}, "birch_ply")  # fmt: skip
    maker.servo(joint, "class_6_5")
    maker.head = joint


STARTER = Starter(
    "neck_nods", "Neck nods", "neck", "alone, one knob", "outgrown first when the head grows", put,
    ("neck_rods",),
)  # fmt: skip
