"""A split jaw: the whole jaw opens slowly, a light tip in front of it moves as quick as speech."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

OPENS, TIP = (0.0, 15.0), (0.0, 20.0)


def put(maker: Maker) -> None:
    at = maker.at(-0.08, 0, -0.2)
    axes = maker.mm(0.25, 30.0)
    jaw = maker.joint(
        "Jaw", "opens", at, OPENS, "jaw", move={"by": 14.0, "time_s": maker.s(0.5)}, support={"kind": "bush"}
    )
    shape = {"kind": "box", "size_mm": (maker.mm(0.34), maker.mm(0.36), maker.mm(0.12)), "wall_mm": 2.0}
    maker.part("Jaw shell", jaw, maker.at(0.08, 0, -0.36), shape, "petg")
    form = maker.lever(OPENS, axes, 0.06 * maker.tall, maker.mm(0.08, 14.0))
    maker.servo(jaw, "class_2_2", form, (round(at[0] - axes, 1), at[1], at[2]))
    hinge = maker.at(0.22, 0, -0.34)
    tip = maker.joint("Jaw tip", "opens", hinge, TIP, "jaw", on=jaw, move={"by": 16.0, "time_s": maker.s(0.1)}, support={"kind": "bush"})  # fmt: skip
    light = {"kind": "box", "size_mm": (maker.mm(0.14), maker.mm(0.22), maker.mm(0.06)), "wall_mm": 1.2}
    maker.part("Jaw tip shell", tip, maker.at(0.3, 0, -0.36), light, "petg")
    maker.servo(tip, "class_0_8")


STARTER = Starter(
    "jaw_split", "Jaw, split", "jaw", "alone, two sticks", "two to keep in step, a seam to hide", put, ("jaw_whole", "jaw_cord")
)  # fmt: skip
