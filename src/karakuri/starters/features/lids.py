"""Upper lids, one servo each, by horn, rod and lever: they blink, and wink."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES, off, place
from karakuri.starters.maker import Maker

SHUTS = (0.0, 65.0)


def put(maker: Maker) -> None:
    back = max(round(1.3 * maker.eye, 1), 30.0)
    for side, sign in SIDES:
        at = place(maker, sign)
        joint = maker.joint(f"Lid {side}", "opens", at, SHUTS, "lids", move=maker.eased(60.0, 0.25), support={"kind": "bush"}, ends=("open", "shut"))  # fmt: skip
        shape = {"kind": "box", "size_mm": (round(0.6 * maker.eye, 1), maker.eye, 1.2)}
        maker.part(f"Lid shell {side}", joint, off(at, 0.2 * maker.eye, 0.0, 0.5 * maker.eye), shape, "pla")
        behind = off(at, ahead=-back, left=sign * 0.6 * maker.eye)
        maker.servo(joint, "class_0_8", maker.lever(SHUTS, back, 12.0, 12.0), behind)


STARTER = Starter(
    "lids", "Lids, a pair", "lids", "alone, one stick", "stand still as the eyes look down", put,
    ("eyes_two",),
)  # fmt: skip
