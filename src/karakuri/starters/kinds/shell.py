"""The head's shell, egg-shaped: as high as the head, nine tenths as long, three quarters as wide (common practice, no source)."""

from __future__ import annotations

from karakuri.starters.maker import Maker

LONG, WIDE = 0.45, 0.38


def shell(maker: Maker, stuff: str, wall_mm: float) -> None:
    """Of a stuff of the catalogue with a wall in mm, on what carries the head."""
    form = {"kind": "ellipsoid", "semi_axes_mm": (maker.mm(LONG), maker.mm(WIDE), maker.mm(0.5)), "wall_mm": wall_mm}
    maker.part("Head shell", maker.head, maker.at(0, 0, 0), form, stuff)


def rectangle(deep_mm: float, wide_mm: float) -> tuple[tuple[float, float], ...]:
    """A foot about the datum, corners in mm."""
    x, y = round(deep_mm / 2, 1), round(wide_mm / 2, 1)
    return ((-x, -y), (x, -y), (x, y), (-x, y))
