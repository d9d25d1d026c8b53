"""Transmissions as mechanics computes with them: the linkages by kind."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from karakuri.bodies.linkages import belt, gear, lever
from karakuri.bodies.linkages.contract import Linkage
from karakuri.model.drive import Drive

LINKAGES: dict[str, Callable[[Any], Linkage]] = {
    "gear": gear.linkage_of,
    "belt": belt.linkage_of,
    "lever": lever.linkage_of,
}


def linkage_of(drive: Drive | None) -> Linkage | None:
    """What lies between a drive and its joint; None where its own shaft turns it, or there is no drive."""
    if drive is None or drive.transmission.kind == "direct":
        return None
    return LINKAGES[drive.transmission.kind](drive.transmission)
