"""Elements as mechanics computes with them: the laws by kind, and the loads of a figure."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from karakuri.bodies.elements import elastic, magnets, pad, spring, strut, torsion
from karakuri.bodies.elements.contract import FORCE_BOUNDS, Law, Load
from karakuri.model.element import Element, Torsion

LAWS: dict[str, Callable[[Any], Law]] = {
    "spring": spring.law_of,
    "elastic": elastic.law_of,
    "strut": strut.law_of,
    "pad": pad.law_of,
    "magnets": magnets.law_of,
    "torsion": torsion.law_of,
}


def load_of(element: Element, place: dict[str, int]) -> Load:
    """An element as a load on the links that `place` numbers; points in m. How sure its force is comes from where its numbers came from:
    pulls that decide it count as weighed."""
    law = LAWS[element.kind](element)
    bound = FORCE_BOUNDS["weighed" if _pulled(element) else element.origin]
    if isinstance(element, Torsion):
        return Load(law, (), np.zeros((0, 3)), place[element.joint], 1.0, bound)
    way = (element.ends[0], *element.over, element.ends[1])
    links = tuple(place[anchor.rides_on] for anchor in way)
    return Load(law, links, np.array([anchor.at_mm for anchor in way]) / 1e3, -1, 1.0, bound)


def _pulled(element: Element) -> bool:
    return bool(getattr(element, "pulls", ())) and getattr(element, "rate_N_per_mm", None) is None
