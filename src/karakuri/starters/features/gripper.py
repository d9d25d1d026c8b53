"""Two jaws geared together: one servo opens and shuts both."""

from __future__ import annotations

from karakuri.model.transmission import Gear
from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

OPENS = (0.0, 40.0)


def put(maker: Maker) -> None:
    long = 0.3
    ids: list[str] = []
    for side, sign in (("left", 1.0), ("right", -1.0)):
        at = maker.at(0.2, 0.6 + sign * 0.05, -0.9)
        more: dict[str, object] = {"move": {"by": 35.0, "time_s": maker.s(0.5)}} if not ids else {"role": "follows", "follows": {"joint": ids[0], "ratio": -1.0}}  # fmt: skip
        ends = ("shut", "open") if not ids else ("open", "shut")
        joint = maker.joint(f"Gripper {side}", "shakes", at, OPENS if not ids else (-40.0, 0.0), "body", on="base", ends=ends, support={"kind": "bush"}, **more)  # fmt: skip
        shape = {"kind": "box", "size_mm": (maker.mm(long), maker.mm(0.04, 6.0), maker.mm(0.1, 10.0))}
        maker.part(f"Gripper jaw {side}", joint, maker.at(0.2 + long / 2, 0.6 + sign * 0.05, -0.9), shape, "pla")
        ids.append(joint)
    form = Gear.from_fields({"driver": 20, "driven": 30})
    knuckle = maker.at(0.2, 0.65, -0.9)
    maker.servo(ids[0], "class_2_2", form, (round(knuckle[0] - 25.0, 1), knuckle[1], knuckle[2]), "base")


STARTER = Starter("gripper", "Gripper", "hand", "alone, one knob", "feels nothing: holds what is light", put)
