"""From the free coordinates of a figure to all of them: a joint that follows stands where its leader puts it, everywhere.

A follower of a follower follows the first of them. Its ratio is in the file's own units, degrees or millimetres of it for each of its
leader's; here all is SI.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint

TURN = math.pi


@dataclass(frozen=True, eq=False)
class Coupling:
    """leader (m,): the joint each one's coordinate comes from, itself where it is free; gain, offset (m,): q = gain × q of the leader +
    offset, rad or m. hangs: those that nothing drives and nothing leads, and that come to rest where weight and springs leave them; free: these, and those that rub
    besides. loads: for each joint, (joint, gain) of all whose load its drive carries: itself, and followers without a
    drive of their own, by virtual work."""

    leader: tuple[int, ...]
    gain: Array
    offset: Array
    loads: tuple[tuple[tuple[int, float], ...], ...]
    hangs: tuple[int, ...] = ()
    free: tuple[int, ...] = ()


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
    for k, ident in enumerate(ids):
        here, joint = k, figure.joint(ident)
        while joint.role == "follows" and joint.follows is not None:
            ahead = figure.joint(joint.follows.joint)
            offset[k] += gain[k] * joint.offset * joint.measure.si
            gain[k] *= joint.follows.ratio * joint.measure.si / ahead.measure.si
            here, joint = place[ahead.id], ahead
        leader[k] = here
    loads: list[list[tuple[int, float]]] = [[(k, 1.0)] for k in range(m)]
    for k, ident in enumerate(ids):
        if leader[k] != k and ident not in driven:
            loads[leader[k]].append((k, float(gain[k])))
    free = tuple(k for k, ident in enumerate(ids) if figure.joint(ident).role == "free" and ident not in driven)
    hangs = tuple(k for k in free if not figure.joint(ids[k]).stays_anywhere)
    return Coupling(tuple(leader), gain, offset, tuple(map(tuple, loads)), hangs, free)


def complete(tied: Coupling, q: Array) -> Array:
    """q (m, n), rad or m, with every follower where its leader puts it; changed in place and returned."""
    for k, j in enumerate(tied.leader):
        if j != k:
            q[k] = tied.gain[k] * q[j] + tied.offset[k]
    return q
