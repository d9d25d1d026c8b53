"""Two servos for a pair: side to side, the right eye drawn along by a rod, and a blink, both lids on one bar."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES, ball, off, place
from karakuri.starters.maker import Maker

TURNS, SHUTS = (-25.0, 25.0), (0.0, 65.0)


def put(maker: Maker) -> None:
    left, right = place(maker, 1.0), place(maker, -1.0)
    axes = max(round(1.1 * maker.eye, 1), 28.0)
    first = maker.joint("Eyes turn", "shakes", left, TURNS, "eyes", move=maker.eased(25.0, 0.12), support={"kind": "bush"})  # fmt: skip
    second = maker.joint("Eye right", "shakes", right, TURNS, "eyes", role="follows", follows={"joint": first}, support={"kind": "bush"})  # fmt: skip
    for name, on, at in (("Eyeball left", first, left), ("Eyeball right", second, right)):
        ball(maker, name, on, at)
    maker.servo(first, "class_0_8", maker.lever(TURNS, axes, 10.0, 12.0), off(left, ahead=-axes))
    between = place(maker, 0.0)
    lids = maker.joint("Lids", "opens", between, SHUTS, "lids", move=maker.eased(60.0, 0.25), support={"kind": "bush"}, ends=("open", "shut"))  # fmt: skip
    for side, sign in SIDES:
        lid = {"kind": "box", "size_mm": (round(0.6 * maker.eye, 1), maker.eye, 1.2)}
        maker.part(f"Lid {side}", lids, off(place(maker, sign), 0.2 * maker.eye, 0.0, 0.5 * maker.eye), lid, "pla")
    back = max(round(1.3 * maker.eye, 1), 30.0)
    maker.servo(lids, "class_0_8", maker.lever(SHUTS, back, 12.0, 12.0), off(between, ahead=-back))


STARTER = Starter(
    "eyes_two", "Eyes and a blink", "eyes", "alone, one stick", "no up or down, no wink", put,
    ("eyes_horn", "eyes_four", "eyes_drawn", "lids"),
)  # fmt: skip
