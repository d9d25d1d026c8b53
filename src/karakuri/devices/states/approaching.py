"""Approaching: to park, one joint after the other."""

from __future__ import annotations

from karakuri.devices.governor import APPROACH_DEG_PER_S
from karakuri.devices.known import Known
from karakuri.devices.protocol import wake_line


def step(known: Known) -> None:
    """One joint at a time, at 20 °/s, lights and what runs at once; one whose place is not known is woken with sparse pulses for as long as its range takes."""
    p, governor = known.program, known.governor
    if p is None or governor is None:
        return
    while known.turn < len(p.numbers) and (p.lights[known.turn] or p.runs[known.turn]):
        known.now[known.turn] = p.park[known.turn]
        known.known[known.turn] = True
        known.send([known.turn], 0)
        known.turn += 1
    if known.turn >= len(p.numbers):
        known.state = "ready"
        known.say("Every joint is at park.")
        return
    o = known.turn
    if not known.known[o]:
        if known.wait_until == 0.0:
            takes = p.whole(o) / APPROACH_DEG_PER_S
            known.wait_until = known.clock() + takes
            known.tell(wake_line(round(takes * 1e3), int(p.numbers[o]), p.park[o]))
        elif known.clock() >= known.wait_until:
            known.now[o], known.known[o], known.wait_until = p.park[o], True, 0.0
        else:
            known.send([i for i in range(o) if known.known[i]], 20)
        return
    goal = known.now.copy()
    goal[o] = p.park[o]
    known.now = governor.towards(known.now, goal, APPROACH_DEG_PER_S)
    if abs(known.now[o] - p.park[o]) < 1e-6:
        known.turn, known.wait_until = known.turn + 1, 0.0
    known.send([i for i in range(o + 1) if known.known[i]], 20)
