"""Each eye in two axes: a ring that nods on a lever, in it the eyeball that turns, by a rod whose ball lies on the ring's axis, so that nodding leaves it alone."""

from __future__ import annotations

from karakuri.model.transmission import Ball
from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES, ball, off, place
from karakuri.starters.maker import Maker

NODS, TURNS = (-18.0, 18.0), (-25.0, 25.0)


def put(maker: Maker) -> None:
    arm, horn = round(min(max(0.42 * maker.eye, 9.0), 12.0), 1), 10.0
    back = max(round(1.4 * maker.eye, 1), 34.0)
    for side, sign in SIDES:
        at = place(maker, sign)
        nod = maker.joint(f"Eye {side} nod", "nods", at, NODS, "eyes", move=maker.eased(15.0, 0.12), support={"kind": "bush"}, ends=("up", "down"))  # fmt: skip
        turn = maker.joint(f"Eye {side} turn", "shakes", at, TURNS, "eyes", on=nod, move=maker.eased(20.0, 0.12), support={"kind": "bush"})  # fmt: skip
        maker.part(f"Eye ring {side}", nod, at, {"kind": "point"}, grams=round(2.0 + 0.1 * maker.eye, 1))
        ball(maker, f"Eyeball {side}", turn, at)
        below = off(at, ahead=-back, up=-0.6 * maker.eye)
        lever = maker.lever(NODS, round(((at[0] - below[0]) ** 2 + (at[2] - below[2]) ** 2) ** 0.5, 1), 10.0, 12.0)
        maker.servo(nod, "class_0_8", lever, below, maker.head)
        shaft = off(at, ahead=-back, left=sign * (arm - horn))
        form = Ball.from_fields({
            "shaft_mm": shaft, "shaft_axis": (0.0, 0.0, 1.0), "horn_mm": horn, "horn_to": (0.0, sign, 0.0), "ball_mm": off(at, left=sign * arm),
        })  # fmt: skip
        maker.servo(turn, "class_0_8", form, shaft, maker.head)


STARTER = Starter(
    "eyes_four", "Eyes, two axes each", "eyes", "alone, a puppeteer", "heavy, dear; lids must follow them", put,
    ("eyes_horn", "eyes_two", "eyes_drawn"),
)  # fmt: skip
