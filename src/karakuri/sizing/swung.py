"""What wanted moves ask of what carries each joint, across its axis: each move from everywhere in its range, with all others as they stand in poses that are known to be bad, at rest and at corners."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.starts import with_corners
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.tilted import Tilted, tilted_in
from karakuri.sizing.wanted import AskedMove, places_of

CORNERS, PLACES, INSIDE, FINELY, HAIR = 6, 3, 9, 401, 1e-9


class Swing(Frozen, eq=False):
    """Joint k, which follows none, makes a wanted move; `poses` (m,) rad or m, complete, are tried besides rest and corners."""

    k: int
    move: AskedMove
    poses: tuple[Array, ...]


def swung(
    tree: Tree, k: int, move: AskedMove, offs: tuple[tuple[int, float], ...], gravities: Array, poses: tuple[Array, ...]
) -> tuple[Tilted, ...]:
    """Of joints by row, each with how far its bearing lies from its pivot, m, while one joint makes a wanted move; gravities (p, 3) m/s², the rest as of Swing."""
    return swung_each(tree, [Swing(k, move, poses)], offs, gravities)[0]


def swung_each(
    tree: Tree, swings: Sequence[Swing], offs: tuple[tuple[int, float], ...], gravities: Array
) -> list[tuple[Tilted, ...]]:
    """The same of several wanted moves, each by itself: all in one go. N·m and N; gravities (p, 3) m/s²."""
    states = [_state(tree, swing) for swing in swings]
    q, qd, qdd = (np.concatenate([state[i] for state in states], axis=1) for i in range(3))
    ends = tuple(np.cumsum([state[0].shape[1] for state in states]).tolist())
    return tilted_in(tree, offs, gravities, np.zeros(ends[-1]), q, qd, qdd, ends)


def _state(tree: Tree, swing: Swing) -> tuple[Array, Array, Array]:
    """Places, speeds and accelerations (m, n) rad, rad/s, rad/s² (m … of slides) of all that is tried of one move."""
    k = swing.k
    others = [i for i in range(len(tree.ids)) if i != k and tree.coupling.leader[i] == i and tree.low[i] < tree.high[i]]
    begun = np.concatenate([with_corners(tree, others, CORNERS), *(pose[:, None] for pose in swing.poses)], axis=1)
    starts, ways = places_of(tree, k, swing.move.by, PLACES)
    x, v, a = _course(swing.move)
    here, row, at = (each.ravel() for each in np.meshgrid(range(begun.shape[1]), range(len(starts)), range(len(x)), indexing="ij"))  # fmt: skip
    q = put(tree.coupling, begun[:, here], k, starts[row] + ways[row] * x[at])
    gain = np.where(np.array(tree.coupling.leader) == k, tree.coupling.gain, 0.0)
    gain[k] = 1.0
    return q, np.outer(gain, ways[row] * v[at]), np.outer(gain, ways[row] * a[at])


def _course(move: AskedMove) -> tuple[Array, Array, Array]:
    """Way rad, speed rad/s and acceleration rad/s² (m … of a slide) at times of a move from rest, on either side of where it is pushed otherwise and where it is pushed, and goes, most."""
    kind, shape = move.on
    finely = np.linspace(0.0, 1.0 - HAIR, FINELY)
    _, speed, push = move.at(finely * move.time)
    most = finely[[push.argmax(), push.argmin(), np.abs(speed).argmax()]]
    edges = np.array([edge + way * HAIR for edge in PROFILES[kind].edges(shape) for way in (-1.0, 1.0)])
    share = np.concatenate([np.linspace(0.0, 1.0 - HAIR, INSIDE), edges[(edges > 0) & (edges < 1)], most])
    return move.at(share * move.time)
