"""A head on a ball joint pushed by two rods from below: both alike nod it, both against each other lean it."""

from __future__ import annotations

from karakuri.model.base import Place
from karakuri.model.transmission import Ball
from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    at = maker.at(-0.06, 0, -0.36)
    carrier = maker.head
    bearing = {"kind": "bearing_pair"}
    nod = maker.joint(
        "Neck nod", "nods", at, (-14.0, 14.0), "neck", move={"by": 18.0, "time_s": maker.s(0.7)}, support=bearing
    )
    lean = maker.joint("Neck lean", "leans", at, (-12.0, 12.0), "neck", on=nod, move={"by": 12.0, "time_s": maker.s(0.6)}, support=bearing)  # fmt: skip
    maker.part("Frame on the ball", lean, maker.at(-0.06, 0, -0.3), {"kind": "box", "size_mm": (maker.mm(0.3), maker.mm(0.3), 6.0)}, "birch_ply")  # fmt: skip
    horn, back, aside, down = (
        16.0,
        min(maker.mm(0.14, 20.0), 26.0),
        min(maker.mm(0.12, 18.0), 24.0),
        maker.mm(0.2, 45.0),
    )
    for joint, side in ((nod, 1.0), (lean, -1.0)):
        ball: Place = (round(at[0] - back, 1), round(side * aside, 1), at[2])
        shaft: Place = (round(ball[0] + horn, 1), ball[1], round(at[2] - down, 1))
        form = Ball.from_fields(
            {"shaft_mm": shaft, "shaft_axis": (0.0, 1.0, 0.0), "horn_mm": horn, "horn_to": (-1.0, 0.0, 0.0), "ball_mm": ball, "ball_on": lean}
        )  # fmt: skip
        maker.servo(joint, "class_6_5", form, shaft, carrier)
    maker.head = lean


STARTER = Starter(
    "neck_rods", "Neck on two rods", "neck", "alone, one stick", "not far in both at once", put,
    ("neck_nods", "neck_leans"),
)  # fmt: skip
