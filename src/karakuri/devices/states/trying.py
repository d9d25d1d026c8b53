"""Trying: one output by itself, slowly, with nothing known of what hangs on it but what somebody sees. All others stay where they are."""

from __future__ import annotations

from karakuri.devices.governor import FRAME_S
from karakuri.devices.known import Known
from karakuri.devices.protocol import set_line

LEAST_US, MOST_US, PACE_US_PER_S, MOST_PACE, WAKES_S = 500.0, 2500.0, 100.0, 200.0, 2.0
"""No try leaves what servos usually take; a hundred µs a second are about 10 °/s."""


def step(known: Known) -> None:
    """One frame towards where the output is wanted; while it is woken it creeps by itself."""
    trial = known.trial
    if known.clock() < trial.woken_until:
        return
    by = min(max(trial.aim - trial.now, -trial.pace * FRAME_S), trial.pace * FRAME_S)
    trial.now = min(max(trial.now + by, LEAST_US), MOST_US)
    known.tell(set_line(20, [(trial.number, trial.now)]))
