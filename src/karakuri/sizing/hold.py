"""What holding asks of a joint: at its worst, where it may rest, and with uncertain masses at their bounds.

At a pose the most that masses within their bounds can make of the torque is nominal + Σ bound × arm, the least nominal − the same.
Low and high are the worst of these over all poses and postures. The signs of the arms tell which bound each mass takes; with those
masses the search for the worst pose is the exact one, and is repeated until the signs stay.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import Capability
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.at_drive import asked_of, at_drive, comes_through
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import corners_first, rest_pose
from karakuri.mechanics.statics import source_arms, source_arms_each
from karakuri.mechanics.worst import LONG, Worst

TRIED, CLIMBED, ROUNDS = 48, 1, 3


class Hold(Frozen, eq=False):
    """At the drive's own shaft: need, low, high, likely bounds: N·m, sizes without sign, over the wanted range; `rest` the same need where the joint may rest.

    shares: (source, N·m it adds at the worst pose, its bound in N·m at the pose of `high`), largest bound first. `mass` kg is what the
    drive carries, `pulled` N·m what springs and their like add to the need; `arm` m is the rest of it ÷ (mass × g).
    """

    need: float
    low: float
    high: float
    likely: float
    shares: tuple[tuple[int, float, float], ...]
    mass: float
    pulled: float
    arm: float
    worst: Worst
    rest: float
    rest_low: float
    rest_high: float
    resting: Worst

    def reserve(self, can: Capability) -> float:
        """Capacity ÷ need: held for long where it may rest, in passing elsewhere; the smaller."""
        return min(_ratio(can.continuous, self.rest), _ratio(can.intermittent, self.need))

    def bounds(self, can: Capability) -> tuple[float, float]:
        """Low and high of that reserve."""
        return (
            min(_ratio(can.continuous, self.rest_high), _ratio(can.intermittent, self.high)),
            min(_ratio(can.continuous, self.rest_low), _ratio(can.intermittent, self.low)),
        )

    def passing_binds(self, can: Capability) -> bool:
        """Whether what it only passes through decides, not where it rests."""
        return _ratio(can.intermittent, self.need) < _ratio(can.continuous, self.rest)


def _ratio(capacity: float, need: float) -> float:
    return capacity / need if need > 1e-9 else math.inf


class Extremes(Frozen, eq=False):
    """low, high N·m of the worst hold with all sources at their bounds; arms (sources,) N·m/kg or N·m at the pose of `high`; `known`
    (p, sources) at the first pose that was known, in each posture."""

    low: float
    high: float
    arms: Array
    known: Array


def extremes(
    tree: Tree, j: int, gravities: Array, known: tuple[Array, ...], search: Callable[[Tree, Array, tuple[Array, ...]], Worst] | None
) -> Extremes:  # fmt: skip
    """Low and high over all poses, postures and masses within their bounds. gravities (p, 3) m/s²; `known` poses (m,) are looked at first.

    `search(tree, gravity (1, 3), poses)` finds the worst pose of joint j in a tree of other masses; without it only poses known are
    looked at, which is quick and never below them.
    """
    mass, bound, hangs = tree.amounts, tree.amount_bounds, bool(tree.coupling.hangs)
    if not len(mass):
        return Extremes(0.0, 0.0, np.zeros(0), np.zeros((len(gravities), 0)))
    spread = TRIED if search is not None or len(tree.ids) < LONG else TRIED // 4
    tries = [complete(tree, _tries(tree, j, known, spread), g) for g in gravities[: len(gravities) if hangs else 1]]
    low, high, arms = 0.0, -math.inf, np.zeros(len(mass))
    if hangs:  # what hangs is elsewhere in each posture
        every = np.stack([_arms(tree, q, g, j) for q, g in zip(tries, gravities, strict=True)])
    else:
        every = at_drive(tree, j, tries[0], lambda k: source_arms_each(tree, tries[0], gravities, k))
        tries *= len(gravities)
    for g, each, q in zip(gravities, every, tries, strict=True):
        torque, off = mass @ each, bound @ np.abs(each)
        low = max(low, float(np.max(np.abs(torque) - off)))
        most = np.abs(torque) + off
        order = np.argsort(-most)
        k = int(order[0])
        if most[k] > high:
            high, arms = float(most[k]), each[:, k]
        if search is None or not np.any(bound > 0):
            continue
        for c in order[:CLIMBED]:
            found, there, nominal = _climbed(tree, j, g, q[:, c], mass, bound, search)
            low = max(low, nominal)
            if found > high:
                high, arms = found, there
    return Extremes(low, max(high, 0.0), arms, every[:, :, min(1, every.shape[2] - 1)].copy())


def _climbed(
    tree: Tree, j: int, g: Array, pose: Array, mass: Array, bound: Array, search: Callable[[Tree, Array, tuple[Array, ...]], Worst]
) -> tuple[float, Array, float]:  # fmt: skip
    """From one pose: masses to their bounds by the signs of their arms, the worst pose of that, and again until nothing grows."""
    best, arms, low = -math.inf, np.zeros(len(mass)), 0.0
    for _ in range(ROUNDS):
        each = _arms(tree, pose[:, None], g, j)[:, 0]
        way = math.copysign(1.0, float(mass @ each) or 1.0)
        value = float(np.abs(mass @ each) + bound @ np.abs(each))
        low = max(low, float(np.abs(mass @ each) - bound @ np.abs(each)))
        if value <= best * (1 + 1e-6) + 1e-12:
            break
        best, arms = value, each
        extreme = np.maximum(mass + bound * np.sign(way * each), 0.0)
        pose = search(weighed(tree, extreme), g[None, :], (pose,)).pose
    return best, arms, low


def _arms(tree: Tree, q: Array, gravity: Array, j: int) -> Array:
    """What one of each source adds to what joint j's drive must hold at its own shaft, (sources, n) N·m/kg or N·m; q (m, n) rad or m."""
    return at_drive(tree, j, q, lambda k: source_arms(tree, q, gravity, k))


def weighed(tree: Tree, amounts: Array) -> Tree:
    """The tree with so much of each of s sources, (s,) kg or the share of its force; inertia is left, which holding does not need."""
    m, mass = len(tree.ids), amounts[: len(tree.body_mass)]
    loads = tuple(
        replace(load, scale=float(s)) for load, s in zip(tree.loads, amounts[len(tree.body_mass) :], strict=True)
    )
    total, first = np.zeros(m + 1), np.zeros((m + 1, 3))
    np.add.at(total, tree.body_link, mass)
    np.add.at(first, tree.body_link, mass[:, None] * tree.body_at)
    com = np.divide(first, total[:, None], out=np.zeros_like(first), where=total[:, None] > 0)
    return replace(tree, mass=total, com=com, loads=loads)


def _tries(tree: Tree, j: int, known: tuple[Array, ...], spread: int) -> Array:
    """Poses (m, n): those found, and a spread of others, corners first; not complete yet."""
    first = 1 + len(known)
    q = np.repeat(rest_pose(tree)[:, None], spread + first, axis=1)
    free = sorted({tree.coupling.leader[k] for k in matter_to(tree, j)})
    low, high = tree.low[free, None], tree.high[free, None]
    q[free, first:] = low + corners_first(len(free), spread, spread // 2) * (high - low)
    for i, pose in enumerate(known, 1):
        q[:, i] = pose
    return q


def hold(
    tree: Tree, j: int, worst: Worst, extreme: Extremes, gravities: Array, resting: Worst | None = None, resting_extreme: Extremes | None = None
) -> Hold:  # fmt: skip
    """Joint j's hold, N·m, from its worst poses, and extremes that were looked for from there, under gravities (p, 3) m/s²; those where it may rest, where that is less than its range."""
    g = gravities[worst.posture]
    each, mass, bound = extreme.known[worst.posture], tree.amounts, tree.amount_bounds
    off = np.abs(extreme.arms) * bound if len(extreme.arms) else np.zeros(0)
    carried = _carried(tree, j)
    adds = math.copysign(1.0, worst.hold) * each * mass
    bodies = len(tree.body_mass)
    need, weight = abs(worst.hold), float(mass[:bodies][carried[:bodies]].sum())
    pulled = float(adds[bodies:].sum())
    size = float(np.linalg.norm(g))
    rest, bounds = resting or worst, resting_extreme or extreme
    comes, ends = comes_through(tree, j)
    loses, eases = (comes / end for end in ends)
    return Hold(
        need=need,
        low=min(need, extreme.low) * eases,
        high=max(need, extreme.high) * loses,
        likely=float(np.sqrt((off**2).sum())),
        shares=tuple((int(i), float(adds[i]), float(off[i])) for i in np.argsort(-off, kind="stable") if carried[i]),
        mass=weight,
        pulled=pulled,
        arm=(need - pulled) / (weight * size) if weight > 0 else 0.0,
        worst=worst,
        rest=abs(rest.hold),
        rest_low=min(abs(rest.hold), bounds.low) * eases,
        rest_high=max(abs(rest.hold), bounds.high) * loses,
        resting=rest,
    )


def _carried(tree: Tree, j: int) -> Array:
    """Which sources (sources,) load joint j's drive, its own and by what follows it."""
    felt = [k for i in asked_of(tree, j) for k, _ in tree.coupling.loads[i]]
    acts = [any(load is other for k in felt for other in tree.loaded[k]) for load in tree.loads]
    return np.concatenate([np.any(tree.rides[felt], axis=0), np.array(acts, dtype=bool)])
