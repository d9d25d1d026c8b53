"""Moves of a score that go as fast as the drive does: how long each needs, from where everything else stands when it departs."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.at_drive import bears_N
from karakuri.mechanics.equilibrium import complete
from karakuri.motion.score_motion import ScoreMotion
from karakuri.motion.track import LEAP_S, Track
from karakuri.sizing.least_time import TRIANGLE, Pull, all_it_has, at_once, on_profile
from karakuri.sizing.pulls import pull_of

HAIR_S = 1e-7


class Leaps(Frozen, eq=False):
    """Of some moves (r,): which go at once; what those need, s, weigh and rub with on their way, N·m at the drive, until when they load the drive, s, and
    how far it goes, rad at the drive; what rod, teeth or belt bear on their way, N; else nan."""

    sudden: NDArray[np.bool_]
    least: Array
    weight: Array
    until: Array
    way: Array
    bears: Array


class Leaper(Frozen):
    """A drive that makes a leap: its joint's row, what it can do, what it weighs itself, kg·m²."""

    row: int
    can: Capability
    reflected: float


def leaps(
    tree: Tree, motion: ScoreMotion, j: int, track: Track, which: NDArray[np.int64], by: tuple[Leaper, ...], friction: float, gravities: Array,
) -> Leaps:  # fmt: skip
    """Those of joint j's moves `which` (r,) on its track, by its drive, the first, and those that share joints with it: together, as long as the slowest
    takes. friction N·m, gravities (p, 3) m/s²."""
    sudden = track.at_once[which]
    least, weight, until, way, bears = (np.full(len(which), np.nan) for _ in range(5))
    if by and sudden.any():
        rows = which[sudden]
        q, _, _ = motion.state(track.departs[rows] - HAIR_S)
        start = motion.gain[j] * track.start[rows] + motion.offset[j]
        distance = motion.gain[j] * track.distance[rows]
        needs, weighs, borne = (np.zeros(len(rows)) for _ in range(3))
        alone = []
        end = start + distance
        ends = (float(np.minimum(start, end).min()), float(np.maximum(start, end).max()) + 1e-9)
        share = np.linspace(0.0, 1.0, 17)[:, None]
        for g in gravities:
            here = complete(tree, q.copy(), g)
            for number, drive in enumerate(by):
                pull = replace(pull_of(tree, j, here, g, friction, ends, drive=drive.row), reflected=drive.reflected)
                needs = np.maximum(needs, at_once(pull, start, distance, all_it_has(drive.can)))
                if number == 0:
                    met = pull.met(start + distance * share)
                    weighs = np.maximum(weighs, (np.abs(met.weight) + met.friction).max(axis=0))
                    alone.append((here, replace(pull, reflected=0.0)))
        for here, pull in alone:
            borne = np.maximum(borne, _borne(tree, j, here, pull, start, distance, needs))
        following = np.append(track.departs[1:], np.inf)[rows]
        least[sudden], weight[sudden], bears[sudden] = needs, weighs, borne
        way[sudden] = _gone(tree, j, q, start, end)
        until[sudden] = np.minimum(track.departs[rows] + np.minimum(needs, LEAP_S), following)
    return Leaps(sudden, least, weight, until, way, bears)


def _borne(tree: Tree, j: int, q: Array, pull: Pull, start: Array, distance: Array, needs: Array) -> Array:
    """What is borne between joint j and its drive, N, of leaps (n,) that take `needs` s, sped up half the way and braked the other."""
    asked = on_profile(pull, start, distance, *TRIANGLE)
    torque = np.abs(asked.moving / np.maximum(needs, 1e-6) ** 2 + asked.standing) + asked.friction
    poses = put(
        tree.coupling, np.repeat(q[:, None], len(asked.places), axis=1).reshape(len(q), -1), j, asked.places.ravel()
    )
    found: Array = bears_N(tree, j, poses, torque.ravel()).reshape(torque.shape)
    return np.asarray(found.max(axis=0))


def _gone(tree: Tree, j: int, q: Array, start: Array, end: Array) -> Array:
    """How far joint j's drive goes, rad, with the joint from start to end, (n,) rad each, all else as in q (m, n)."""
    linkage, group = tree.linkage(j), tree.group(j)
    if group is not None:
        one, other = (group.of(j).row(put(tree.coupling, q.copy(), j, place)).drive for place in (start, end))
        return np.asarray(np.abs(other - one))
    if linkage is None:
        return np.abs(end - start)
    return np.abs(linkage.inverse(end).drive - linkage.inverse(start).drive)
