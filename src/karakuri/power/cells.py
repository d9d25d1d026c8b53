"""Cells: volts, how they sag, how long they last.

Voltages: Linden and Reddy, Handbook of Batteries (from memory). Peukert t = H (C ÷ (I H))^k, k 1.1 to 1.3 for sealed lead. Shares for cold and age, and
resistances inside: common practice, no source.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.power import Cells, Chemistry


class Kind(Frozen):
    """Volts of one cell: as named, full, and where it counts as empty under load; typical mΩ at 1 Ah; the share of its capacity that is used; Peukert's k at
    its rate, h."""

    called: str
    named: float
    full: float
    empty: float
    mohm_Ah: float
    used: float
    peukert: float = 1.0
    rate_h: float = 1.0


KINDS: dict[Chemistry, Kind] = {
    "nickel": Kind("nickel metal hydride", 1.2, 1.4, 1.0, 40.0, 0.9),
    "lithium polymer": Kind("lithium polymer", 3.7, 4.2, 3.4, 20.0, 0.8),
    "lithium ion": Kind("lithium ion", 3.7, 4.2, 3.2, 100.0, 0.85),
    "lithium iron": Kind("lithium iron phosphate", 3.2, 3.65, 2.8, 30.0, 0.9),
    "lead": Kind("sealed lead", 2.0, 2.12, 1.75, 60.0, 1.0, 1.2, 20.0),
}
COLD_C, COLD_SHARE, AGE_SHARE, LEAST = (-20.0, 0.0, 20.0), (0.4, 0.75, 1.0), 0.07, 0.3
"""So much of its capacity is there in the cold; so much less it has every year; no less than that counts."""


def volts(cells: Cells) -> float:
    """All of them as named, V."""
    return cells.count * KINDS[cells.chemistry].named


def empty_V(cells: Cells) -> float:
    """Where they count as empty, V."""
    return cells.count * KINDS[cells.chemistry].empty


def ohms(cells: Cells) -> float:
    """Resistance of all of them inside, Ω: as stated, else typical of their kind and size, an estimate."""
    each = cells.ohm_mohm if cells.ohm_mohm is not None else KINDS[cells.chemistry].mohm_Ah / (cells.capacity_mAh / 1e3)
    return cells.count * each / 1e3


def sag_V(cells: Cells, amps: float) -> float:
    """How much they give way under a current, V."""
    return amps * ohms(cells)


def capacity_Ah(cells: Cells) -> float:
    """What is there of what is printed on them, at their temperature and age, Ah."""
    cold = float(np.interp(cells.at_C, COLD_C, COLD_SHARE))
    age = max(LEAST, 1.0 - AGE_SHARE * cells.age_years)
    return cells.capacity_mAh / 1e3 * cold * age


class Inside(Frozen):
    """What of the printed capacity goes where, Ah: lost to `cold` and to `age`, `kept` back in the cells, and what may be `used`. Together they are what is printed."""

    cold: float
    age: float
    kept: float
    used: float


def inside(cells: Cells) -> Inside:
    """The printed capacity of cells, shared out; what is used of lead at once is less still (`lasts_h`)."""
    printed, there = cells.capacity_mAh / 1e3, capacity_Ah(cells)
    cold = printed * (1.0 - float(np.interp(cells.at_C, COLD_C, COLD_SHARE)))
    used = there * KINDS[cells.chemistry].used
    return Inside(cold, printed - cold - there, there - used, used)


def full_V(cells: Cells) -> float:
    """All of them just charged, V."""
    return cells.count * KINDS[cells.chemistry].full


def lasts_h(cells: Cells, amps: float | Array) -> float:
    """How long they last, h, at a current in A or at one that goes over and over, (n,) A; infinite at none. Lead gives less the more is asked at once, so there
    what comes in peaks takes more than its mean."""
    kind, capacity, amps = KINDS[cells.chemistry], capacity_Ah(cells), np.maximum(np.atleast_1d(amps), 0.0)
    if kind.peukert > 1.0:
        taken = float(np.mean((amps * kind.rate_h / capacity) ** kind.peukert)) / kind.rate_h
    else:
        taken = float(np.mean(amps)) / (capacity * kind.used)
    return 1.0 / taken if taken > 0.0 else float("inf")
