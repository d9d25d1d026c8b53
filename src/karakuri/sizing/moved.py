"""Wanted moves as they are tried: each from everywhere in its range, with all others as they stand in poses that are known to be bad, at rest and at corners."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.tied import free_of
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.wanted import AskedMove, places_of

CORNERS, FEWER, PLACES, INSIDE, FINELY, HAIR = 6, 2, 3, 5, 401, 1e-9
ROUNDS, STEPS, BRANCHES = 2, 5, 6


class Swing(Frozen, eq=False):
    """Joint k, which follows none, makes a wanted move; `poses` (m,) rad or m, complete, are tried, as far as ranges go, besides rest and so many `corners` of what all others may do."""

    k: int
    move: AskedMove
    poses: tuple[Array, ...]
    corners: int = CORNERS

    def lighter(self, known: tuple[Array, ...]) -> Swing:
        """The same with these poses (m,) rad or m instead of corners, or with fewer of them."""
        return replace(self, poses=(*self.poses, *known), corners=0 if known else FEWER)


class Tried(Frozen, eq=False):
    """All that is tried of several wanted moves, one after the other: places, speeds and accelerations (m, n) rad, rad/s, rad/s² (m … of slides); where each ends, and of each, from how many
    poses it is begun, one after the other."""

    q: Array
    qd: Array
    qdd: Array
    ends: tuple[int, ...]
    begun: tuple[int, ...]

    @property
    def in_time(self) -> tuple[Array, Array, Array, Array, tuple[int, ...]]:
        """As motions: times (n,) s, all nought, for none is at a time, then q, qd, qdd and the ends."""
        return np.zeros(self.ends[-1]), self.q, self.qd, self.qdd, self.ends

    def hardest(self, asked: Array) -> tuple[Tried, Array]:
        """Of all, by what each moment asks (n,), those that ask most of the BRANCHES moves and poses they are begun in that ask most; the numbers of those moves (b,)."""
        some, of = list[int](), list[int]()
        for i, (count, a, b) in enumerate(zip(self.begun, (0, *self.ends[:-1]), self.ends, strict=True)):
            each = asked[a:b].reshape(count, -1)
            some += (a + np.arange(count) * each.shape[1] + each.argmax(axis=1)).tolist()
            of += [i] * count
        most = np.argsort(-asked[some], kind="stable")[:BRANCHES]
        k, ends = np.array(some)[most], tuple(range(1, len(most) + 1))
        return Tried(self.q[:, k], self.qd[:, k], self.qdd[:, k], ends, (1,) * len(k)), np.array(of)[most]


def states_of(tree: Tree, swings: Sequence[Swing]) -> Tried:
    """What is tried of several wanted moves."""
    states = [_state(tree, swing) for swing in swings]
    q, qd, qdd = (np.concatenate([state[i] for state, _ in states], axis=1) for i in range(3))
    ends = tuple(np.cumsum([state[0].shape[1] for state, _ in states]).tolist())
    return Tried(q, qd, qdd, ends, tuple(begun for _, begun in states))


def climbed(tree: Tree, rows: Array, tried: Tried, asked: Callable[[Array, Array, Array], Array]) -> Tried:
    """The same moments (n,) of wanted moves of the joints `rows` (n,) in poses in which `asked` of places, speeds and accelerations (m, n), (n,), is more: one other joint after the other is put where it asks most, twice."""
    q, qd, qdd = tried.q.copy(), tried.qd, tried.qdd
    best, n = asked(q, qd, qdd), q.shape[1]
    for _ in range(ROUNDS):
        for f in free_of(tree, tuple(range(len(tree.ids)))):
            places = np.repeat(np.linspace(tree.low[f], tree.high[f], STEPS), n)
            there = put(tree.coupling, np.tile(q, STEPS), f, places)
            found = asked(there, np.tile(qd, STEPS), np.tile(qdd, STEPS)).reshape(STEPS, n)
            most = found.argmax(axis=0)
            better = (found.max(axis=0) > best) & (rows != f)
            q[:, better] = there.reshape(len(q), STEPS, n)[:, most, range(n)][:, better]
            best = np.where(better, found.max(axis=0), best)
    return replace(tried, q=q)


def _state(tree: Tree, swing: Swing) -> tuple[tuple[Array, Array, Array], int]:
    """Places, speeds and accelerations (m, n) rad, rad/s, rad/s² (m … of slides) of all that is tried of one move, and from how many poses it is begun."""
    k = swing.k
    others = [f for f in free_of(tree, tuple(range(len(tree.ids)))) if f != k]
    begun = np.concatenate(
        [
            with_corners(tree, others, swing.corners),
            *(np.clip(pose, tree.low, tree.high)[:, None] for pose in swing.poses),
        ],
        axis=1,
    )
    starts, ways = places_of(tree, k, swing.move.by, PLACES)
    x, v, a = _course(swing.move)
    here, row, at = (each.ravel() for each in np.meshgrid(range(begun.shape[1]), range(len(starts)), range(len(x)), indexing="ij"))  # fmt: skip
    q = put(tree.coupling, begun[:, here], k, starts[row] + ways[row] * x[at])
    gain = np.where(np.array(tree.coupling.leader) == k, tree.coupling.gain, 0.0)
    gain[k] = 1.0
    return (q, np.outer(gain, ways[row] * v[at]), np.outer(gain, ways[row] * a[at])), begun.shape[1]


def _course(move: AskedMove) -> tuple[Array, Array, Array]:
    """Way rad, speed rad/s and acceleration rad/s² (m … of a slide) at times of a move from rest, on either side of where it is pushed otherwise and where it is pushed, and goes, most."""
    kind, shape = move.on
    finely = np.linspace(0.0, 1.0 - HAIR, FINELY)
    _, speed, push = move.at(finely * move.time)
    most = finely[[push.argmax(), push.argmin(), np.abs(speed).argmax()]]
    edges = np.array([edge + way * HAIR for edge in PROFILES[kind].edges(shape) for way in (-1.0, 1.0)])
    share = np.concatenate([np.linspace(0.0, 1.0 - HAIR, INSIDE), edges[(edges > 0) & (edges < 1)], most])
    return move.at(share * move.time)
