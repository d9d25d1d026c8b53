"""Brows or tufts: a small servo each, turning them in the plane of the face."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.eyes import SIDES
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    for side, sign in SIDES:
        at = maker.at(0.34, sign * 0.1, 0.2)
        ends = ("frowning", "raised") if sign > 0 else ("raised", "frowning")
        joint = maker.joint(f"Brow {side}", "leans", at, (-18.0, 18.0), "lids", move=maker.eased(25.0, 0.3), ends=ends)  # fmt: skip
        bar = {"kind": "box", "size_mm": (maker.mm(0.03), maker.mm(0.2), maker.mm(0.04))}
        maker.part(f"Brow bar {side}", joint, maker.at(0.36, sign * 0.18, 0.2), bar, "pla")
        maker.servo(joint, "class_0_8")


STARTER = Starter("brows", "Brows or tufts", "brows", "alone, one stick", "not through thick skin", put)
