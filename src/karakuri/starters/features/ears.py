"""Ears, a small servo each: they prick and droop."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    for side, sign in SIDES:
        at = maker.at(-0.05, sign * 0.26, 0.36)
        joint = maker.joint(f"Ear {side}", "leans", at, (-20.0, 20.0), "body", move=maker.eased(30.0, 0.35))  # fmt: skip
        shape = {"kind": "ellipsoid", "semi_axes_mm": (maker.mm(0.04), maker.mm(0.09), maker.mm(0.2)), "wall_mm": 1.6}
        maker.part(f"Ear shell {side}", joint, maker.at(-0.05, sign * 0.3, 0.56), shape, "pla")
        maker.servo(joint, "class_1_6")


STARTER = Starter("ears", "Ears", "ears", "alone, one knob", "catch on doors: leave them slack", put)
