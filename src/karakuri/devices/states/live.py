"""Live: after the sliders."""

from __future__ import annotations

from karakuri.devices.known import Known


def step(known: Known) -> None:
    """One frame towards the sliders, at their pace."""
    if known.governor is not None:
        known.now = known.governor.towards(known.now, known.aim, known.live_pace)
        known.send(list(range(len(known.now))), 20)
