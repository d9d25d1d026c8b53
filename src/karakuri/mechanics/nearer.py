"""How near two solids may come within a box of poses, from what they are in its middle: never told too large."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.apart import Frames, Gaps
from karakuri.mechanics.kinematics import Placed, cross
from karakuri.mechanics.pairs import Both, between

MOST_CORNERS = 8
"""Coordinates up to which a box's bound is taken at its corners."""


class Branch(Frozen, eq=False):
    """What moves one of two solids: joints from the inside out, the free coordinate of each and its gain, by how far (k,) m any of its points, and its middle, move for 1 rad or m of each joint, at most; a ball by its middle alone."""

    joints: tuple[int, ...]
    leads: tuple[int, ...]
    gain: Array
    arms: Array
    middle: Array
    slides: tuple[bool, ...]
    round: bool


def _branch(tree: Tree, solid: Solid, other: Solid) -> Branch:
    chain = [j for j in between(tree, solid.link, other.link) if solid.link >= 0 and j in tree.chains[solid.link]]
    tied, round_ = tree.coupling, solid.kind == "egg" and float(np.ptp(solid.half)) == 0.0
    far = 0.0 if round_ else solid.far
    arms, reach = np.zeros(len(chain)), 0.0
    for i, j in reversed(list(enumerate(chain))):
        if i == len(chain) - 1:
            off = solid.at - tree.pivot[j]
            across = off - tree.axis[j] * float(off @ tree.axis[j])
            arms[i], reach = float(np.linalg.norm(across)) + far, float(np.linalg.norm(off)) + far
        else:
            reach += float(np.linalg.norm(tree.pivot[chain[i + 1]] - tree.pivot[j]))
            arms[i] = reach
        if tree.slides[j]:
            reach += max(abs(float(tree.low[j])), abs(float(tree.high[j])))
            arms[i] = 1.0
    leads = tuple(tied.leader[j] for j in chain)
    gain = np.array([float(tied.gain[j]) if k != j else 1.0 for j, k in zip(chain, leads, strict=True)])
    middle = np.where(np.array([tree.slides[j] for j in chain], dtype=bool), arms, arms - far)
    return Branch(tuple(chain), leads, gain, arms, middle, tuple(tree.slides[j] for j in chain), round_)


class Bound:
    """How near two solids may come within a box of poses, from what they are in its middle."""

    def __init__(self, tree: Tree, both: Both, known: dict[tuple[int, int], Branch] | None = None) -> None:
        """`known` branches of solids, by which solid and towards which link, are added to."""
        self.both, self.m = both, len(tree.parent)
        known = {} if known is None else known
        ways = ((both.one, both.other), (both.other, both.one))
        for solid, other in ways:
            if (id(solid), other.link) not in known:
                known[id(solid), other.link] = _branch(tree, solid, other)
        self.branches = tuple(known[id(solid), other.link] for solid, other in ways)
        self.moves, self.middles = np.zeros(self.m), np.zeros(self.m)
        """By how far (m,) any point of one goes from the other for 1 rad or m of each free coordinate, at most; and their middles."""
        for branch in self.branches:
            for k, gain, arm, middle in zip(branch.leads, branch.gain, branch.arms, branch.middle, strict=True):
                self.moves[k] += abs(gain) * arm
                self.middles[k] += abs(gain) * middle

    def balls(self, frames: tuple[Frames, Frames], halves: Array) -> Array:
        """Never nearer than this (n,), m, in boxes of half widths `halves` (m, n) about n poses: by the balls round both alone."""
        apart = np.linalg.norm(frames[0].at - frames[1].at, axis=1) - self.both.one.far - self.both.other.far
        return np.asarray(apart - self.middles @ halves)

    def lowest(self, placed: Placed, frames: tuple[Frames, Frames], gaps: Gaps, halves: Array) -> Array:
        """Never nearer than this (n,), m, in boxes of half widths `halves` (m, n), rad and m, about n poses."""
        plain = np.asarray(gaps.apart - self.moves @ halves)
        free = np.flatnonzero((halves.max(axis=1, initial=0.0) > 0) & (self.moves > 0))
        if self.both.inside or not len(free) or len(free) > MOST_CORNERS:
            return plain
        return np.maximum(plain, self._along(placed, frames, gaps.way, free, halves))

    def _along(
        self, placed: Placed, frames: tuple[Frames, Frames], way: Array, free: NDArray[np.int64], halves: Array
    ) -> Array:
        """Along one way apart, to first order at every corner of the box, which is its worst since reach is convex, less all that higher orders may add."""
        signs = np.array(list(itertools.product((-1.0, 1.0), repeat=len(free))))
        n, corners = len(way), len(signs)
        by = np.zeros((self.m, n, corners))
        by[free] = halves[free][:, :, None] * signs.T[:, None, :]
        total, more = np.zeros((n, corners)), np.zeros(n)
        solids = (self.both.one, self.both.other)
        for branch, solid, frame, side in zip(self.branches, solids, frames, (1.0, -1.0), strict=True):
            out = side * way  # towards the other
            ways, still = np.repeat(out[:, None], corners, axis=1), np.zeros((n, corners))
            for j, k, gain, slides in zip(branch.joints, branch.leads, branch.gain, branch.slides, strict=True):
                step, axis = by[k] * gain, placed.axis[j].T
                if slides:
                    still += step * np.einsum("ni,ni->n", out, axis)[:, None]
                else:
                    turn = cross(out.T, axis.T).T
                    ways += step[:, :, None] * turn[:, None]
                    still -= step * np.einsum("ni,ni->n", turn, placed.pivot[j].T)[:, None]
            own = frame.own(out)[:, None] if branch.round else np.einsum("nij,nci->ncj", frame.turned, ways)
            total -= np.einsum("nci,ni->nc", ways, frame.at) + still
            total -= solid.reach(own.reshape(-1, 3)).reshape(n, -1)
            widths = np.abs(branch.gain)[:, None] * halves[list(branch.leads)]
            pair = np.minimum(branch.arms[:, None], branch.arms[None])
            sliding = np.array(branch.slides, dtype=bool)
            pair = np.where(sliding[:, None] | sliding[None], np.maximum(branch.arms[:, None], branch.arms[None]), pair)
            more += 0.5 * np.einsum("kn,kl,ln->n", widths, pair, widths)
        return np.asarray(total.min(axis=1) - more)
