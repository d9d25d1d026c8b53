"""A split jaw: the whole jaw opens slowly, a light tip in front of it moves as quick as speech."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.jaws import hinged
from karakuri.starters.maker import Maker

TIP = (0.0, 20.0)


def put(maker: Maker) -> None:
    jaw = hinged(maker, (0.0, 15.0), 14.0, 0.5, 0.34, 0.08)
    hinge, move = maker.at(0.22, 0, -0.34), {"by": 16.0, "time_s": maker.s(0.1)}
    tip = maker.joint("Jaw tip", "opens", hinge, TIP, "jaw", on=jaw, move=move, support={"kind": "bush"})
    light = {"kind": "box", "size_mm": (maker.mm(0.14), maker.mm(0.22), maker.mm(0.06)), "wall_mm": 1.2}
    maker.part("Jaw tip shell", tip, maker.at(0.3, 0, -0.36), light, "petg")
    maker.servo(tip, "class_0_8")


STARTER = Starter(
    "jaw_split", "Jaw, split", "jaw", "alone, two sticks", "two to keep in step, a seam to hide", put, ("jaw_whole", "jaw_cord")
)  # fmt: skip
