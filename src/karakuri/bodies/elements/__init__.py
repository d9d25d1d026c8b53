"""Elements as mechanics computes with them: the laws by kind, and the loads of a figure."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from karakuri.bodies.elements import actuator, cable, cord, elastic, magnets, motor, pad, skin, spring, strut, torsion
from karakuri.bodies.elements.contract import FORCE_BOUNDS, Law, Load
from karakuri.model.element import About, Cable, Elastic, Element, Hand, Motor, Skin, Spring, anchors
from karakuri.model.part import Origin

LAWS: dict[str, Callable[[Any], Law]] = {
    "spring": spring.law_of,
    "elastic": elastic.law_of,
    "strut": strut.law_of,
    "pad": pad.law_of,
    "skin": skin.law_of,
    "magnets": magnets.law_of,
    "cord": cord.law_of,
    "cable": cable.law_of,
    "actuator": actuator.law_of,
    "torsion": torsion.law_of,
    "motor": motor.law_of,
    "hand": motor.law_of,
}


def load_of(element: Element, place: dict[str, int]) -> Load:
    """An element as a load on the links that `place` numbers; points in m. How sure its force is comes from where its numbers came from:
    see `origin_of`."""
    law = LAWS[element.kind](element)
    bound = FORCE_BOUNDS[origin_of(element)]
    if isinstance(element, About):
        return Load(law, (), np.zeros((0, 3)), place[element.joint], 1.0, bound, isinstance(element, Motor | Hand))
    way = anchors(element)
    links = tuple(place[anchor.rides_on] for anchor in way)
    at = np.array([anchor.at_mm for anchor in way]) / 1e3
    return Load(law, links, at, -1, 1.0, bound, isinstance(element, Cable))


def origin_of(element: Element) -> Origin:
    """Where its force came from: pulls that decide it count as weighed."""
    if isinstance(element, Spring) and element.rate_N_per_mm is None:
        return "weighed" if spring.by_pulls(element) is not None else element.origin
    if isinstance(element, Skin) and element.rate_N_per_mm is None and element.pulls:
        return "weighed"
    if isinstance(element, Elastic) and elastic.by_pulls(element) is not None:
        return "weighed"
    return element.origin


def not_known(element: Element) -> bool:
    """Whether nobody knows how hard it pulls or pushes: then nothing that it turns is judged."""
    return isinstance(element, Skin) and skin.rate_N_per_m(element) is None
