"""What holding asks of a joint, with the interval that uncertain masses leave."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.statics import part_shares
from karakuri.mechanics.worst import Worst


@dataclass(frozen=True, eq=False)
class Hold:
    """need, low, high, likely bounds: N·m, sizes without sign. shares: (body, N·m it adds, its bound in N·m), largest bound first.

    `mass` kg is what the joint carries; `arm` m is need ÷ (mass × g).
    """

    need: float
    low: float
    high: float
    likely: float
    shares: tuple[tuple[int, float, float], ...]
    mass: float
    arm: float
    worst: Worst


def holds(tree: Tree, joints: tuple[int, ...], worsts: tuple[Worst, ...], gravities: Array) -> tuple[Hold, ...]:
    """Nominal need, N·m, of each joint at its worst pose; low and high by plain sum of the bounds, likely by root-sum-square.

    gravities: (p, 3) m/s², base frame.
    """
    if not joints:
        return ()
    poses = np.stack([worst.pose for worst in worsts], axis=1)
    pulls = np.stack([gravities[worst.posture] for worst in worsts], axis=1)
    each = part_shares(tree, poses, pulls, joints)
    mass, bound = np.array([b.mass for b in tree.bodies]), np.array([b.bound for b in tree.bodies])
    return tuple(
        _hold(tree, j, worst, each[:, i], mass, bound, float(np.linalg.norm(pulls[:, i])))
        for i, (j, worst) in enumerate(zip(joints, worsts, strict=True))
    )


def _hold(tree: Tree, j: int, worst: Worst, each: Array, mass: Array, bound: Array, g: float) -> Hold:
    carried = tree.rides[j]
    adds, off = math.copysign(1.0, worst.hold) * each * mass, np.abs(each) * bound
    order = [int(i) for i in np.argsort(-off, kind="stable") if carried[i]]
    total, likely = float(off.sum()), float(np.sqrt((off**2).sum()))
    need, weight = abs(worst.hold), float(mass[carried].sum())
    return Hold(
        need,
        max(0.0, need - total),
        need + total,
        likely,
        tuple((i, float(adds[i]), float(off[i])) for i in order),
        weight,
        need / (weight * g) if weight > 0 else 0.0,
        worst,
    )
