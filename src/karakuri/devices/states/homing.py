"""Homing: all to park, or to where it was aimed."""

from __future__ import annotations

from karakuri.devices.governor import APPROACH_DEG_PER_S
from karakuri.devices.known import Known


def step(known: Known) -> None:
    """One frame towards where it is aimed, at 20 °/s."""
    if known.governor is None:
        return
    known.now = known.governor.towards(known.now, known.aim, APPROACH_DEG_PER_S)
    known.send(list(range(len(known.now))), 20)
    if known.governor.there(known.now, known.aim):
        known.state = "ready"
        known.say("It is at park.")
