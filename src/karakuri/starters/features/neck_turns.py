"""A neck that turns: a servo under a turntable, which takes the head's tilting off its shaft."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    at = maker.at(-0.06, 0, -0.58)
    name = "Neck turn"
    joint = maker.joint(name, "shakes", at, (-60.0, 60.0), "neck", move={"by": 60.0, "time_s": maker.s(0.9)}, support={"kind": "turntable"})  # fmt: skip
    maker.part(
        "Turning plate", joint, at, {"kind": "cylinder", "radius_mm": maker.mm(0.18), "height_mm": 6.0}, "birch_ply"
    )
    maker.servo(joint, "class_4")
    maker.head = joint


STARTER = Starter("neck_turns", "Neck turns", "neck", "alone, one knob", "never looks up or down by itself", put)
