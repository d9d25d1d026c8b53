"""Pupils drawn along behind fixed whites: both on one arm that swings about a pin far behind the face."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES, off, place
from karakuri.starters.maker import Maker

SWINGS = (-8.0, 8.0)


def put(maker: Maker) -> None:
    front = place(maker, 0.0)
    pin = off(front, ahead=-0.35 * maker.tall)
    joint = maker.joint("Pupils", "shakes", pin, SWINGS, "eyes", move=maker.eased(14.0, 0.12), support={"kind": "bush"})  # fmt: skip
    long = maker.mm(0.35)
    maker.part("Pupil arm", joint, off(pin, ahead=long / 2), {"kind": "box", "size_mm": (long, 6.0, 2.0)}, "birch_ply")
    for side, sign in SIDES:
        maker.part(f"Pupil {side}", joint, place(maker, sign), {"kind": "cylinder", "radius_mm": round(maker.eye / 4, 1), "height_mm": 2.0}, "pla", turned_deg=(0.0, 90.0, 0.0))  # fmt: skip
    maker.part("Pupil bar", joint, front, {"kind": "box", "size_mm": (3.0, round(2 * abs(place(maker, 1.0)[1] - front[1]), 1), 4.0)}, "birch_ply")  # fmt: skip
    maker.servo(joint, "class_0_8")


STARTER = Starter(
    "eyes_drawn", "Pupils drawn along", "eyes", "anybody, one knob", "flat: from the side there is no eye", put,
    ("eyes_horn", "eyes_two", "eyes_four"),
)  # fmt: skip
