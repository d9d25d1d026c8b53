"""A whole jaw on one hinge, moved by horn, rod and lever from within the head."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

OPENS = (0.0, 22.0)


def put(maker: Maker) -> None:
    at = maker.at(-0.08, 0, -0.2)
    axes = maker.mm(0.25, 30.0)
    joint = maker.joint(
        "Jaw", "opens", at, OPENS, "jaw", move={"by": 18.0, "time_s": maker.s(0.2)}, support={"kind": "bush"}
    )
    shape = {"kind": "box", "size_mm": (maker.mm(0.42), maker.mm(0.36), maker.mm(0.12)), "wall_mm": 2.0}
    maker.part("Jaw shell", joint, maker.at(0.16, 0, -0.36), shape, "petg")
    maker.part("Jaw lever", joint, maker.at(-0.08, 0, -0.16), {"kind": "point"}, grams=round(6 + 0.02 * maker.tall, 1))
    form = maker.lever(OPENS, axes, 0.06 * maker.tall, maker.mm(0.08, 14.0))
    maker.servo(joint, "class_2_2", form, (round(at[0] - axes, 1), at[1], at[2]))


STARTER = Starter(
    "jaw_whole", "Jaw, whole", "jaw", "alone, stick or chin", "a heavy jaw is slower than speech", put,
    ("jaw_split", "jaw_cord"),
)  # fmt: skip
