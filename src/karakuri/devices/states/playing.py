"""Playing: the score, frame by frame."""

from __future__ import annotations

from karakuri.devices.known import Known
from karakuri.devices.states import homing


def step(known: Known) -> None:
    """One frame of the score; round again where it loops, else home."""
    p, governor = known.program, known.governor
    if p is None or governor is None:
        return
    if known.frame >= len(p.values):
        if not p.loops:
            known.aim = p.park.astype(float)
            known.state = "homing"
            homing.step(known)
            return
        known.frame = 0
    before = p.values[known.frame - 1].astype(float)  # of frame 0: the last, where a loop comes from
    known.now = governor.along(known.now, before, p.values[known.frame].astype(float))
    known.send(list(range(len(p.numbers))), 20)
    known.frame += 1
