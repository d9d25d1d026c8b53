"""Both eyes on one bar on one servo's horn: they look from side to side together."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES, ball, place
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    at = place(maker, 0.0)
    joint = maker.joint("Eyes turn", "shakes", at, (-15.0, 15.0), "eyes", move=maker.eased(20.0, 0.12))
    for side, sign in SIDES:
        ball(maker, f"Eyeball {side}", joint, place(maker, sign))
    wide = round(2 * abs(place(maker, 1.0)[1] - at[1]), 1)
    maker.part("Eye bar", joint, at, {"kind": "box", "size_mm": (4.0, wide, 8.0)}, "pla")
    maker.servo(joint, "class_0_8")


STARTER = Starter(
    "eyes_horn", "Eyes on the horn", "eyes", "anybody, one knob", "no up or down, little turn", put,
    ("eyes_two", "eyes_four", "eyes_drawn"),
)  # fmt: skip
