"""Room from a few poses, for a first answer."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.coordinates import complete
from karakuri.bodies.solids import Solid
from karakuri.bodies.tree import Tree
from karakuri.mechanics.apart import Frames
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.pairs import Both, Nearest, RoomFound, between, compared, frames_of, gaps_of

GLANCES = 10
"""Poses looked at."""


def glance(tree: Tree, solids: Sequence[Solid], skipped: frozenset[tuple[int, int]], enough: float) -> RoomFound:
    """All pairs of solids but those skipped, as room() compares them, from GLANCES poses alone: what is nearer than `enough` m in one of them is; of all else nothing is said."""
    told = compared(tree, solids, skipped)
    if told is None:
        return RoomFound((), (), (), 0, too_many=True)
    pairs, mixed, unseen = told
    wide = tree.high > tree.low
    low, high = np.where(wide, tree.low, tree.rest), np.where(wide, tree.high, tree.rest)
    rng = np.random.default_rng(0)
    many = [tree.rest, low, high, (low + high) / 2, *(np.where(s > 0, low, high) for s in rng.choice([-1, 1], (GLANCES - 4, len(low))))]  # fmt: skip
    q = complete(tree.coupling, np.stack(many, axis=1))
    placed = place(tree, q)
    frames = [frames_of(tree, placed, solid) for solid in solids]

    def asked(k: int, poses: NDArray[np.int64]) -> tuple[int, Both, tuple[Frames, Frames]]:
        both, a, b = pairs[k]
        return k, both, (frames[a].some(poses), frames[b].some(poses))

    close = {k: _balls_near(pair, frames, enough) for k, pair in enumerate(pairs) if k not in mixed}
    worst = {}
    for k, gaps in gaps_of([asked(k, poses) for k, poses in close.items() if len(poses)], enough):
        c = int(gaps.apart.argmin())
        if gaps.apart[c] < enough:
            worst[k] = close[k][c : c + 1]
    near = []
    for k, gaps in gaps_of([asked(k, pose) for k, pose in worst.items()], None):  # depths were found roughly
        both, a, b = pairs[k]
        moving, pose = between(tree, both.one.link, both.other.link), q[:, worst[k][0]].copy()
        near.append(Nearest(a, b, both.inside, -np.inf, float(gaps.apart[0]), pose, gaps.way[0], moving, False))
    near.sort(key=lambda each: (each.most, each.a, each.b))
    within = tuple(pairs[k][1:] for k in sorted(mixed))
    return RoomFound(tuple(near), within, tuple(unseen), len(pairs) + len(unseen), glanced=True)


def _balls_near(pair: tuple[Both, int, int], frames: Sequence[Frames], enough: float) -> NDArray[np.int64]:
    """In which of the poses the balls round both come nearer than `enough` m; all, where one lies in the other."""
    both, a, b = pair
    if both.inside:
        return np.arange(len(frames[a].at))
    off = np.linalg.norm(frames[a].at - frames[b].at, axis=1)
    return np.flatnonzero(off - both.one.far - both.other.far < enough)
