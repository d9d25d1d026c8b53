"""What the schools of eyes share: where they sit, and an eyeball."""

from __future__ import annotations

from karakuri.model.base import Place
from karakuri.starters.maker import Maker

AHEAD, ASIDE, UP = 0.3, 0.17, 0.06
SIDES = (("left", 1.0), ("right", -1.0))


def place(maker: Maker, side: float) -> Place:
    """The middle of an eye, mm: to the left (+1), to the right (−1), or between both (0)."""
    return maker.at(AHEAD, side * max(ASIDE, 0.55 * maker.eye / maker.tall), UP)


def off(at: Place, ahead: float = 0.0, left: float = 0.0, up: float = 0.0) -> Place:
    """So many mm off a place in mm."""
    return (round(at[0] + ahead, 1), round(at[1] + left, 1), round(at[2] + up, 1))


def ball(maker: Maker, name: str, on: str, at: Place) -> None:
    """A printed eyeball, hollow, at a place in mm."""
    maker.part(name, on, at, {"kind": "sphere", "radius_mm": round(maker.eye / 2, 2), "wall_mm": min(2.0, maker.eye / 4)}, "pla")  # fmt: skip
