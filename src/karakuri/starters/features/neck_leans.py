"""A neck that leans, ear to shoulder: a servo along the head, a bearing before and behind."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    at = maker.at(-0.06, 0, -0.34)
    joint = maker.joint("Neck lean", "leans", at, (-18.0, 18.0), "neck", move={"by": 15.0, "time_s": maker.s(0.6)}, support={"kind": "bearing_pair"})  # fmt: skip
    maker.part("Leaning frame", joint, maker.at(-0.06, 0, -0.28), {"kind": "box", "size_mm": (maker.mm(0.25), maker.mm(0.2), 6.0)}, "birch_ply")  # fmt: skip
    maker.servo(joint, "class_6_5")
    maker.head = joint


STARTER = Starter(
    "neck_leans", "Neck leans", "neck", "alone, one knob", "makes the load of the others longer", put,
    ("neck_rods",),
)  # fmt: skip
