"""Gathering: to where the score has it, before it plays."""

from __future__ import annotations

import numpy as np

from karakuri.devices.governor import APPROACH_DEG_PER_S
from karakuri.devices.known import Known


def step(known: Known) -> None:
    """From wherever it stands to where the score has it at this frame, at 20 °/s; the score waits meanwhile."""
    p, governor = known.program, known.governor
    if p is None or governor is None:
        return
    known.frame = min(known.frame, len(p.values) - 1)
    wanted = np.where(p.runs, p.park, p.values[known.frame].astype(float))  # what runs waits for the score
    known.now = governor.towards(known.now, wanted, APPROACH_DEG_PER_S)
    known.send(list(range(len(p.numbers))), 20)
    if governor.there(known.now, wanted):
        known.state = "playing"
