"""Live: after the sliders. What runs stands still when nobody has said for a while how fast: whoever steers may have come to grief."""

from __future__ import annotations

import numpy as np

from karakuri.devices.known import Known

UNTOLD_S = 0.3


def step(known: Known) -> None:
    """One frame towards the sliders, at their pace."""
    if known.governor is not None and known.program is not None:
        if known.clock() - known.told_at > UNTOLD_S:
            known.aim = np.where(known.program.runs, known.program.park, known.aim)
        known.now = known.governor.towards(known.now, known.aim, known.live_pace)
        known.send(list(range(len(known.now))), 20)
