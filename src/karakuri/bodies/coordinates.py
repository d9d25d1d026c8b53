"""From the free coordinates of a figure to all of them: a joint that follows stands where its leader puts it, everywhere.

A follower of a follower follows the first of them. Its ratio is in the file's own units, degrees or millimetres of it for each of its
leader's; here all is SI.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.element import Motor
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint

TURN = math.pi


class Coupling(Frozen, eq=False):
    """leader (m,): the joint each one's coordinate comes from, itself where it is free; gain, offset (m,): q = gain × q of the leader +
    offset, rad or m. hangs: those that nothing drives and nothing leads, and that come to rest where weight and springs leave them; free: these, and those that rub
    besides. loads: for each joint, (joint, gain) of all whose load its drive, or the link that moves it, carries: itself, and what follows it, down
    to the first with a drive of its own, by virtual work."""

    leader: tuple[int, ...]
    gain: Array
    offset: Array
    loads: tuple[tuple[tuple[int, float], ...], ...]
    hangs: tuple[int, ...] = ()
    free: tuple[int, ...] = ()

    def of_leader(self, j: int, place: Any) -> Any:
        """Where joint j stands, rad or m, for a place of what leads it, itself where nothing does; a number or an array."""
        return place if self.leader[j] == j else self.gain[j] * place + self.offset[j]

    def to_leader(self, j: int, place: Any) -> Any:
        """Where what leads joint j stands for a place of j, rad or m; its ratio is not 0."""
        return place if self.leader[j] == j else (place - self.offset[j]) / self.gain[j]


def reach(joint: Joint) -> tuple[float, float]:
    """Where a joint may be, rad or m: its wanted range; one that hangs free, wherever it can swing to: to its stops, else right round."""
    low, high = joint.range
    if joint.role == "free":
        if joint.stops is not None:
            low, high = joint.stops
        elif joint.kind == "turn":
            return -TURN, TURN
    return low * joint.measure.si, high * joint.measure.si


def coupling(figure: Figure, ids: tuple[str, ...]) -> Coupling:
    """How the joints `ids` of a figure hang together; gains in rad or m for each rad or m."""
    place = {ident: k for k, ident in enumerate(ids)}
    m = len(ids)
    leader, gain, offset = list(range(m)), np.ones(m), np.zeros(m)
    driven = {drive.joint for drive in figure.drives}
    loads: list[list[tuple[int, float]]] = [[(k, 1.0)] for k in range(m)]
    for k, ident in enumerate(ids):
        here, joint = k, figure.joint(ident)
        carried = ident in driven
        while joint.role == "follows" and joint.follows is not None:
            ahead = figure.joint(joint.follows.joint)
            offset[k] += gain[k] * joint.offset * joint.measure.si
            gain[k] *= joint.follows.ratio * joint.measure.si / ahead.measure.si
            here, joint = place[ahead.id], ahead
            if not carried:
                loads[here].append((k, float(gain[k])))
            carried = carried or ahead.id in driven
        leader[k] = here
    turned = driven | {element.joint for element in figure.elements if isinstance(element, Motor)}
    free = tuple(k for k, ident in enumerate(ids) if figure.joint(ident).role == "free" and ident not in turned)
    hangs = tuple(k for k in free if not figure.joint(ids[k]).stays_anywhere)
    return Coupling(tuple(leader), gain, offset, tuple(map(tuple, loads)), hangs, free)


def complete(tied: Coupling, q: Array) -> Array:
    """q (m, n), rad or m, with every follower where its leader puts it; changed in place and returned."""
    for k, j in enumerate(tied.leader):
        if j != k:
            q[k] = tied.of_leader(k, q[j])
    return q


def led(tied: Coupling, low: Array, high: Array) -> tuple[Array, Array]:
    """The ends (m,), rad or m, of where every joint comes: a follower as far as its leader takes it."""
    low, high = low.copy(), high.copy()
    for k, j in enumerate(tied.leader):
        if j != k:
            low[k], high[k] = sorted(tied.of_leader(k, end) for end in (low[j], high[j]))
    return low, high


def put(tied: Coupling, q: Array, j: int, places: Array) -> Array:
    """Poses q (m, n), rad or m, with joint j at places (n,), its leader where that takes it and all that follows with it; changed in place and
    returned. A follower that its leader does not move stays."""
    if tied.gain[j] != 0.0:
        q[tied.leader[j]] = tied.to_leader(j, places)
    return complete(tied, q)
