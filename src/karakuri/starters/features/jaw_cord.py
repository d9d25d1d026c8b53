"""A jaw on a cord: a chin or a hand draws it open, a spring shuts it. No servo, no battery."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.maker import Maker

OPENS = (0.0, 18.0)


def put(maker: Maker) -> None:
    at = maker.at(-0.08, 0, -0.2)
    joint = maker.joint("Jaw", "opens", at, OPENS, "jaw", role="free", stops_deg=(-1.0, 22.0), drag={"kind": "bearing", "bearing": "greased print"})  # fmt: skip
    shape = {"kind": "box", "size_mm": (maker.mm(0.42), maker.mm(0.36), maker.mm(0.12)), "wall_mm": 2.0}
    stuff = "eva_foam" if maker.tall > 300 else "petg"
    maker.part("Jaw shell", joint, maker.at(0.16, 0, -0.36), shape | {"wall_mm": 8.0 if stuff == "eva_foam" else 2.0}, stuff)  # fmt: skip
    long = maker.mm(0.25)
    up, low = maker.at(0.06, 0.1, -0.09), maker.at(0.06, 0.1, -0.34)
    maker.element(
        "Jaw spring", kind="spring", ends=({"rides_on": maker.head, "at_mm": up}, {"rides_on": joint, "at_mm": low}),
        free_mm=round(0.7 * long, 1), longest_mm=round(2.2 * long, 1), rate_N_per_mm=_rate(maker.tall),
    )  # fmt: skip
    maker.element(
        "Jaw cord", kind="cord", ends=({"rides_on": maker.head, "at_mm": maker.at(-0.1, 0, -0.6)}, {"rides_on": joint, "at_mm": maker.at(0.2, 0, -0.36)}),
        over=({"rides_on": maker.head, "at_mm": maker.at(0.14, 0, -0.62)},), guided="pulley",
    )  # fmt: skip


def _rate(tall: float) -> float:
    """N/mm of a spring that shuts a jaw of that size, mm: its weight grows as the square, its arms as the size."""
    return round(0.24 * (tall / 200.0), 3)


STARTER = Starter(
    "jaw_cord", "Jaw on a cord", "jaw", "a chin, a hand", "somebody pulls; never round a neck", put,
    ("jaw_whole", "jaw_split"),
)  # fmt: skip
