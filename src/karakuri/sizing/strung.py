"""Between which lengths an element works over all that its joints can do, and what it pulls with there."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of, load_torques, way_of
from karakuri.mechanics.starts import corners_first
from karakuri.mechanics.tied import free_of, tied_coordinate_ascent

STARTS = 6


class Strung(Frozen, eq=False):
    """Element i of the tree: its shortest and longest way, m (rad about a joint), over all ranges and postures, the poses (m,) there, and its
    force there, N (N·m), positive where it draws; `turns` are the joints it turns."""

    i: int
    shortest: float
    longest: float
    at_shortest: Array
    at_longest: Array
    least: float
    most: float
    turns: tuple[int, ...]

    @property
    def idle(self) -> bool:
        """Whether it pulls with nothing anywhere: slack all over, or without any strength."""
        return abs(self.least) < 1e-9 and abs(self.most) < 1e-9


def strung(tree: Tree, i: int, gravities: Array) -> Strung:
    """Load i of a tree over everything its joints can do; gravities (p, 3) m/s² decide where hangs what hangs."""
    load = tree.loads[i]
    # a cable goes across joints though it turns none of them
    turns = tree.spanned(load if load.turns_joint else replace(load, idle=False))
    free = free_of(tree, turns)
    some = gravities if tree.coupling.hangs else gravities[:1]
    pulls = np.repeat(some.T, STARTS, axis=1)
    begun = np.repeat(tree.rest[:, None], STARTS, axis=1)
    low, high = tree.low[free, None], tree.high[free, None]
    begun[free, 1:] = low + corners_first(len(free), STARTS - 1, STARTS - 1) * (high - low)
    begun = np.tile(begun, (1, 2 * len(some)))
    ways = np.repeat([1.0, -1.0], pulls.shape[1])  # the longest in each posture, then the shortest
    twice = np.tile(pulls, (1, 2))

    def value(q: Array) -> Array:
        return np.tile(ways, q.shape[1] // len(ways)) * length_of(tree, place(tree, q), q, load)

    def hung(q: Array) -> Array:
        return complete(tree, q, np.tile(twice, (1, q.shape[1] // len(ways))))

    found = tied_coordinate_ascent(tree, value, free, hung(begun), whole=hung)
    far, near = int(found[ways > 0].argmax()), int(found[ways < 0].argmax()) + pulls.shape[1]
    longest, shortest = float(found[far]), -float(found[near])
    forces = load.scale * load.law.force(np.array([shortest, longest]))
    return Strung(
        i, shortest, longest, begun[:, near].copy(), begun[:, far].copy(), float(forces[0]), float(forces[1]), turns
    )


class Now(Frozen, eq=False):
    """An element in one pose: its way s, m (rad), what it pulls with, N (N·m), what it turns each of its joints with, N·m (N), and the points
    of its way (w, 3) m, in the base's frame."""

    s: float
    force: float
    torques: tuple[tuple[int, float], ...]
    points: Array


def swept(tree: Tree, i: int, q: Array, ends: tuple[float, float], count: int = 5) -> Array:
    """The points of the way of load i (w, 3, count) m, base frame, with the outermost joint it turns at places from one of the ends to the other,
    rad or m, all else as in pose q (m,)."""
    load = tree.loads[i]
    many = np.repeat(q[:, None], count, axis=1)
    many[tree.spanned(load)[-1]] = np.linspace(*ends, count)
    out: Array = way_of(tree, place(tree, many), load)
    return out


def in_pose(tree: Tree, q: Array) -> tuple[Now, ...]:
    """Every load of the tree in a pose q (m,), rad or m, complete."""
    column, out = q[:, None], []
    placed = place(tree, column)
    for load, torque in zip(tree.loads, load_torques(tree, placed, column)[:, :, 0], strict=True):
        s = length_of(tree, placed, column, load)
        pull = float(load.scale * load.law.force(s)[0])
        points = np.zeros((0, 3)) if load.turns_joint else way_of(tree, placed, load)[:, :, 0]
        out.append(Now(float(s[0]), pull, tuple((j, float(torque[j])) for j in tree.spanned(load)), points))
    return tuple(out)
