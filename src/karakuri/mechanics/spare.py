"""What still goes into a hollow: a ball that keeps its distance from its walls and from all else in every pose, as large as was found, and so at every height.

How far a point is from a body outside it: of a box and a tube as by Pythagoras, of an egg at least (|p ÷ semi-axes| − 1) × its least semi-axis, since that
grows by no more than one over it a metre; of a mesh along 26 ways. Never told too large; hollow things count as filled. The largest is looked for in a few poses:
rest, the middle, ends of all ranges and others spread out; then it is made smaller by what may come nearer to it in any other, as room.py proves it.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid
from karakuri.bodies.tree import Tree
from karakuri.course import ALONE, Course
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.pairs import Both, between, frames_of, inside
from karakuri.mechanics.room import all_nearest

POSES, STEPS, LEVELS, FINER, LOOKED = 48, 23, 9, 4, 200
"""Poses it is looked for in; points across it each way; heights told of; times the best of each height is looked at more closely; poses in
which it is looked at again beside each thing that moves."""
NEAR = np.array(list(itertools.product((-1.0, -0.5, 0.0, 0.5, 1.0), repeat=2)))


class Spare(Frozen, eq=False):
    """The largest ball at one height: radius m, and its middle (3,) m in the figure at rest."""

    radius: float
    at: Array


def spare(tree: Tree, solids: Sequence[Solid], shell: int, gap: float, course: Course = ALONE) -> tuple[Spare, ...]:
    """For heights from the bottom of a hollow solid to its top, with `gap` m all round; none where it has no inside that is known. Raises GivenUp."""
    own = solids[shell]
    cavity = own.cavity
    if cavity is None:
        return ()
    q = _poses(tree)
    placed = place(tree, q)
    home = frames_of(tree, placed, own)
    others = [each for k, each in enumerate(solids) if k != shell and not inside(each, own)]
    frames = [frames_of(tree, placed, each) for each in others]

    def left(points: Array) -> Array:
        """Radius (n,) m of what goes in at points (n, 3) of the shell's own axes."""
        out = np.asarray((cavity.far - points @ cavity.ways.T).min(axis=1)) - gap
        for other, frame in zip(others, frames, strict=True):
            if not (out > 0).any():
                break
            going = np.flatnonzero(out > 0)
            # the points in every pose, as the other has them: (poses, points, 3)
            there = np.einsum("pij,nj->pni", home.turned, points[going]) + home.at[:, None] - frame.at[:, None]
            away = other.away(np.einsum("pij,pni->pnj", frame.turned, there).reshape(-1, 3))
            out[going] = np.minimum(out[going], away.reshape(len(home.at), -1).min(axis=0) - gap)
        return out

    upright = own.turned.T @ np.array([0.0, 0.0, 1.0])  # up, as the shell has it at rest
    across = np.linalg.svd(upright[None])[2][1:]  # two ways level with the ground
    steps = np.linspace(-own.far, own.far, STEPS)
    floor = np.array(list(itertools.product(steps, repeat=2))) @ across
    low, top = -float(own.reach(-upright[None])[0]), float(own.reach(upright[None])[0])
    found = []
    for k in range(LEVELS):
        course.at("room that is left", k / LEVELS)
        level = low + (k + 1) / (LEVELS + 1) * (top - low)
        flat = floor + level * upright
        radius = left(flat)
        if not (radius > 0).any():
            continue
        best = int(radius.argmax())
        at, most, wide = flat[best], float(radius[best]), steps[1] - steps[0]
        for _ in range(FINER):
            near = at + wide * (NEAR @ across)
            again = left(near)
            if again.max() > most:
                at, most = near[int(again.argmax())], float(again.max())
            wide = wide / 2.5
        most -= _nearer(tree, own, others, at, most, gap)
        if most > 0:
            found.append(Spare(most, own.at + own.turned @ at))
    return tuple(found)


def _nearer(tree: Tree, own: Solid, others: Sequence[Solid], at: Array, radius: float, gap: float) -> float:
    """By how much, m, anything that moves past the hollow may come nearer than `gap` m, in any pose, to a ball in it at (3,) m of its own axes."""
    ball = Solid("egg", own.link, own.at + own.turned @ at, np.eye(3), np.full(3, radius), np.zeros((0, 3)), 0.0, False, radius)  # fmt: skip
    moving = [Both(ball, other, False) for other in others if between(tree, own.link, other.link)]
    return max((gap - each.least for each in all_nearest(tree, moving, gap, LOOKED) if each.least < gap), default=0.0)


def _poses(tree: Tree) -> Array:
    """Rest, the middle, corners, and others spread over all ranges, (m, n) rad or m, complete."""
    wide = tree.high > tree.low
    low, high = np.where(wide, tree.low, tree.rest), np.where(wide, tree.high, tree.rest)
    rng = np.random.default_rng(0)
    free = int(wide.sum())
    many = [tree.rest, (low + high) / 2]
    many += [np.where(sign > 0, high, low) for sign in rng.choice([-1.0, 1.0], (POSES // 2 if free else 0, len(low)))]
    many += [low + share * (high - low) for share in rng.random((POSES // 2 if free else 0, len(low)))]
    return complete(tree.coupling, np.stack(many, axis=1))
