"""A finger of three: a servo in the palm curls the first, cords over pulleys draw the other two along."""

from __future__ import annotations

from karakuri.model.transmission import Belt
from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

CURLS = (0.0, 70.0)
NAMES = ("Finger", "Finger middle", "Finger tip")


def put(maker: Maker) -> None:
    long, thick = 0.16, maker.mm(0.05, 8.0)
    carrier, first = "base", ""
    for k, name in enumerate(NAMES):
        at = maker.at(0.2 + k * long, -0.6, -0.9)
        more: dict[str, object] = {"move": {"by": 60.0, "time_s": maker.s(0.5)}} if k == 0 else {"role": "follows", "follows": {"joint": first, "ratio": 0.9}}  # fmt: skip
        joint = maker.joint(name, "opens", at, CURLS if k == 0 else (0.0, 63.0), "body", on=carrier, ends=("straight", "curled"), support={"kind": "bush"}, **more)  # fmt: skip
        bone = {"kind": "box", "size_mm": (maker.mm(0.9 * long), thick, thick), "wall_mm": 1.6}
        maker.part(f"{name} bone", joint, maker.at(0.2 + (k + 0.5) * long, -0.6, -0.9), bone, "pla")
        first, carrier = first or joint, joint
    axes = maker.mm(0.25, 40.0)
    form = Belt.from_fields({"driver": 16.0, "driven": 12.0, "axes_mm": axes, "pitch_mm": 0.0})
    knuckle = maker.at(0.2, -0.6, -0.9)
    maker.servo(first, "class_2_2", form, (round(knuckle[0] - axes, 1), knuckle[1], knuckle[2]), "base")


STARTER = Starter("finger", "Finger", "hand", "alone, a glove", "curls, never grips: the cord gives", put)
