"""Exact one-angle steps from many starts: the search behind every worst pose.

What a joint carries decouples by branch once the direction of gravity is given. Columns are independent searches; each step
(see turn.py) can only improve them.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.kinematics import cross, dot, each_column
from karakuri.mechanics.turn import inward, turns


class Carried:
    """First moment S kg·m of what each link carries, about its own pivot and in its own frame; root −1 is the base.

    S of a link that carries no joint is one column (3, 1), of the others (3, n).
    """

    def __init__(self, tree: Tree, root: int) -> None:
        self.tree, self.root = tree, root
        self.turns = turns(tree)
        self.links = tree.below[root] if root >= 0 else tuple(range(len(tree.ids)))
        self.mass = np.zeros(len(tree.ids) + 1)
        self.fixed: dict[int, Array] = {}
        for k in (*reversed(self.links), root):
            own = tree.mass[k] * (tree.com[k] - self.origin(k))
            for c in self.children(k):
                own = own + self.mass[c] * (tree.pivot[c] - self.origin(k))
            self.mass[k] = tree.mass[k] + sum(self.mass[c] for c in self.children(k))
            self.fixed[k] = own[:, None]

    def children(self, k: int) -> tuple[int, ...]:
        """Joints that ride directly on link k; −1 is the base."""
        if k >= 0:
            return self.tree.children[k]
        return tuple(c for c, p in enumerate(self.tree.parent) if p < 0)

    def origin(self, k: int) -> Array:
        """A link's pivot at rest; the base's is the datum."""
        return self.tree.pivot[k] if k >= 0 else np.zeros(3)

    def moments(self, q: Array) -> dict[int, Array]:
        """S of every link from the root outwards, for the columns of q (m, n)."""
        out: dict[int, Array] = {}
        for k in (*reversed(self.links), self.root):
            total = self.fixed[k]
            for c in self.children(k):
                if self.tree.slides[c]:
                    total = total + out[c] + self.tree.axis[c][:, None] * (self.mass[c] * q[c])
                else:
                    total = total + self.turns[c].spin(q[c], out[c])
            out[k] = total
        return out

    def descend(self, k: int, w: Array, moments: dict[int, Array], q: Array) -> None:
        """Set every angle beyond link k so that w · S grows; w (3, n) in link k's frame. Changes q in place."""
        for c in self.children(k):
            turn = self.turns[c]
            if turn.slides:
                q[c] = np.where(turn.axis @ w > 0, turn.high, turn.low)
            else:
                q[c] = turn.step(w, moments[c], q[c])
            if self.tree.children[c]:
                self.descend(c, turn.spin(-q[c], w), moments, q)


@lru_cache(maxsize=64)
def carried(tree: Tree, root: int) -> Carried:
    """What `root` carries, gathered once a tree; masses in kg, lengths in m."""
    return Carried(tree, root)


def held_torque_Nm(tree: Tree, j: int, q: Array, gravity: Array) -> Array:
    """Holding torque (n,), N·m, of joint j alone, which must turn; q (m, n) rad or m; gravity (3,) or (3, n) m/s², base frame."""
    what = carried(tree, j)
    left = inward(tree, tree.chains[j], -each_column(gravity, q.shape[1]), q)
    out: Array = dot(cross(left, tree.axis[j][:, None]), what.moments(q)[j])
    return out


def tilting_moment_squared(tree: Tree, j: int, q: Array, gravity: Array) -> Array:
    """The square (n,), (N·m)², of the moment across joint j's axis of what it carries, j must turn; q (m, n) rad or m; gravity (3,) or (3, n) m/s²."""
    what = carried(tree, j)
    left = inward(tree, tree.chains[j], -each_column(gravity, q.shape[1]), q)
    across = what.turns[j].across @ np.broadcast_to(cross(left, what.moments(q)[j]), left.shape)
    out: Array = dot(across, across)
    return out


def coordinate_ascent(
    tree: Tree, j: int, pull: Array, e: Array, free: Array, q: Array, blocks: int, tight: Array, most: int = 60, beside: Array | None = None
) -> Array:  # fmt: skip
    """Make pull · R(chain) (e × S_j) as large as one-angle steps can; returns the values (n,), changes q and e in place.

    With `beside` (3, n) N·m, in joint j's frame, e · beside is added to it, and joint j itself is left where it stands: what is strung to it
    alone depends on its own angle only.

    The columns are `blocks` equal groups; the climb ends when no group's best value grows by more than its share `tight` (blocks,).

    pull (3, n) in the base's frame; e (3, n) in joint j's frame, turned along across the axis where `free` (n,) is true.
    """
    what = carried(tree, j)
    chain = [what.turns[k] for k in tree.chains[j]]
    rows = tree.chains[j]
    own = what.turns[j]
    best = np.full(blocks, -np.inf)
    moments = what.moments(q)
    some = bool(free.any())
    for _ in range(most):
        rights = [cross(e, moments[j])]
        for k in reversed(rows[1:]):
            rights.append(what.turns[k].spin(q[k], rights[-1]))
        left = pull
        for k, turn, right in zip(rows, chain, reversed(rights), strict=True):
            if beside is None or k != j:
                q[k] = turn.step(left, right, q[k])
            left = turn.spin(-q[k], left)
        if some:
            moment = cross(np.broadcast_to(moments[j], left.shape)[:, free], left[:, free])
            across = own.across @ (moment if beside is None else moment + beside[:, free])
            size = np.sqrt(np.einsum("in,in->n", across, across))
            e[:, free] = np.where(size > 1e-15, across / np.maximum(size, 1e-15), e[:, free])
        w = cross(left, e)
        if tree.below[j]:
            what.descend(j, w, moments, q)
            moments = what.moments(q)
        value = np.einsum("in,in->n", w, moments[j])
        if beside is not None:
            value = value + np.einsum("in,in->n", e, beside)
        new = value.reshape(blocks, -1).max(axis=1)
        settled = bool(np.all(new - best <= tight * (1e-3 + np.abs(new))))
        best = new
        if settled:
            break
    out: Array = value
    return out
