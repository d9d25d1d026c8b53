"""Between which lengths an element works over all that its joints can do, and what it pulls with there."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of, load_torques, way_of
from karakuri.mechanics.starts import corners_first
from karakuri.mechanics.tied import free_of, tied_coordinate_ascent

STARTS = 6


@dataclass(frozen=True, eq=False)
class Strung:
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
    turns = tree.spanned(load)
    free = free_of(tree, turns)
    ends: dict[float, tuple[float, Array]] = {}
    for sign in (1.0, -1.0):

        def value(q: Array, sign: float = sign) -> Array:
            return sign * length_of(tree, place(tree, q), q, load)

        for g in gravities if tree.coupling.hangs else gravities[:1]:
            q = np.repeat(tree.rest[:, None], STARTS, axis=1)
            low, high = tree.low[free, None], tree.high[free, None]
            q[free, 1:] = low + corners_first(len(free), STARTS - 1, STARTS - 1) * (high - low)
            complete(tree, q, g)
            found = tied_coordinate_ascent(tree, value, free, q, whole=partial(complete, tree, gravity=g))
            k = int(found.argmax())
            if sign not in ends or found[k] > ends[sign][0]:
                ends[sign] = (float(found[k]), q[:, k].copy())
    shortest, longest = -ends[-1.0][0], ends[1.0][0]
    forces = load.scale * load.law.force(np.array([shortest, longest]))
    return Strung(i, shortest, longest, ends[-1.0][1], ends[1.0][1], float(forces[0]), float(forces[1]), turns)


@dataclass(frozen=True, eq=False)
class Now:
    """An element in one pose: its way s, m (rad), what it pulls with, N (N·m), what it turns each of its joints with, N·m (N), and the points
    of its way (w, 3) m, in the base's frame."""

    s: float
    force: float
    torques: tuple[tuple[int, float], ...]
    points: Array


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
