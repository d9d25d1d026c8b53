"""Moves of a score that go as fast as the drive does: how long each needs, from where everything else stands when it departs."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.at_drive import driven
from karakuri.mechanics.equilibrium import complete
from karakuri.motion.score_motion import ScoreMotion
from karakuri.motion.track import LEAP_S, Track
from karakuri.sizing.least_time import all_it_has, at_once
from karakuri.sizing.pulls import pull_of

HAIR_S = 1e-7


@dataclass(frozen=True, eq=False)
class Leaps:
    """Of some moves (r,): which go at once; what those need, s, weigh and rub with on their way, N·m at the drive, until when they load the drive, s, and
    how far it goes, rad at the drive; else nan."""

    sudden: NDArray[np.bool_]
    least: Array
    weight: Array
    until: Array
    way: Array


def leaps(
    tree: Tree, motion: ScoreMotion, j: int, track: Track, which: NDArray[np.int64], can: Capability | None, reflected: float,
    friction: float, gravities: Array,
) -> Leaps:  # fmt: skip
    """Those of joint j's moves `which` (r,) on its track. reflected kg·m², friction N·m, gravities (p, 3) m/s²."""
    sudden = track.at_once[which]
    least, weight, until, way = (np.full(len(which), np.nan) for _ in range(4))
    if can is not None and sudden.any():
        rows = which[sudden]
        q, _, _ = motion.state(track.departs[rows] - HAIR_S)
        start = motion.gain[j] * track.start[rows] + motion.offset[j]
        distance = motion.gain[j] * track.distance[rows]
        needs, weighs = np.zeros(len(rows)), np.zeros(len(rows))
        end = start + distance
        ends = (float(np.minimum(start, end).min()), float(np.maximum(start, end).max()) + 1e-9)
        share = np.linspace(0.0, 1.0, 17)[:, None]
        for g in gravities:
            here = complete(tree, q.copy(), g)
            pull = pull_of(tree, j, here, g, friction, ends)
            pull = replace(pull, reflected=reflected)
            needs = np.maximum(needs, at_once(pull, start, distance, all_it_has(can)))
            places = start + distance * share
            through = driven(pull.linkage, places)
            gain = through.gain if through is not None else 1.0
            weighs = np.maximum(weighs, ((np.abs(pull.weight(places)) + friction) / gain).max(axis=0))
        following = np.append(track.departs[1:], np.inf)[rows]
        least[sudden], weight[sudden] = needs, weighs
        way[sudden] = _gone(tree, j, start, end)
        until[sudden] = np.minimum(track.departs[rows] + np.minimum(needs, LEAP_S), following)
    return Leaps(sudden, least, weight, until, way)


def _gone(tree: Tree, j: int, start: Array, end: Array) -> Array:
    """How far joint j's drive goes, rad, with the joint from start to end, (n,) rad each."""
    linkage = tree.linkage(j)
    if linkage is None:
        return np.abs(end - start)
    return np.abs(linkage.inverse(end).drive - linkage.inverse(start).drive)
