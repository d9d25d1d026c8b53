"""Body segments one behind the other, a servo in each: a tail, a long neck or a snake, swung from side to side."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

SEGMENTS = 3
CLASSES = ("class_10", "class_6_5", "class_2_2")


def put(maker: Maker) -> None:
    carrier, long = "base", 0.34
    for k in range(SEGMENTS):
        at = maker.at(-0.5 - k * long, 0, -1.0)
        joint = maker.joint(f"Segment {k + 1}", "shakes", at, (-25.0, 25.0), "body", on=carrier, move={"by": 30.0, "time_s": maker.s(0.8)}, support={"kind": "bearing_pair"})  # fmt: skip
        thick = round(0.1 - 0.02 * k, 3)
        shape = {"kind": "cylinder", "radius_mm": maker.mm(thick), "height_mm": maker.mm(0.9 * long), "wall_mm": 1.6}
        maker.part(f"Segment shell {k + 1}", joint, maker.at(-0.5 - (k + 0.5) * long, 0, -1.0), shape, "pla", turned_deg=(0.0, 90.0, 0.0))  # fmt: skip
        maker.servo(joint, CLASSES[k])
        carrier = joint


STARTER = Starter("tail", "Body segments", "tail", "alone, one knob", "swings, never lifts", put)
