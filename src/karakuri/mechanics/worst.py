"""The worst pose of a joint over all wanted ranges and postures: hold either way, tilting moment, side load."""

from __future__ import annotations

import math
from functools import partial

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import put
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.borne import Borne
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.linkages.shared import Group
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.ascent import coordinate_ascent, held_torque_Nm, tilting_moment_squared
from karakuri.mechanics.at_drive import at_drive, gain_of
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.envelope import peaks, strung_alone
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.side import largest_side
from karakuri.mechanics.starts import across_axis, rest_pose, spread_starts
from karakuri.mechanics.statics import (
    across_squared,
    holding_torque_Nm,
    inertia_about_axis,
    loads_torque_Nm,
    wrench_on,
)
from karakuri.mechanics.tied import (
    SWEEPS,
    Value,
    best_each,
    free_of,
    is_tied,
    of_degree,
    tied_coordinate_ascent,
    tied_look,
)

STARTS, QUICK_STARTS = 32, 4
FEW, SCREENED, AT_ONCE = 4, 16, 12
"""Poses stepped on; of so many times as many the best, where something hangs; coordinates that a look tries all at once."""
LONG = 40
"""A first look at a chain of so many joints sweeps over it twice, and looks at fewer poses; the settled search goes on until nothing grows."""


class Worst(Frozen, eq=False):
    """Torques N·m about the + axis; poses (m,) rad or m; postures by index; moment N·m across the axis; side N.

    `agreement` is the share of starts that came within 1e-6 of the best: how sure the search is. Through a linkage hold, highest and lowest are at
    the drive's own shaft, and `force` N is the most that its rod, teeth or belt bear, with the joint at `force_at` rad.
    """

    hold: float
    pose: Array
    posture: int
    highest: float
    lowest: float
    moment: float
    moment_pose: Array
    moment_posture: int
    side: float
    agreement: float
    force: float = 0.0
    force_at: float = 0.0


def worst_pose(
    tree: Tree, j: int, gravities: Array, starts: int = STARTS, warm: tuple[Array, ...] = (), plain: bool = True, tilting: bool = True, hurried: bool = False
) -> Worst:  # fmt: skip
    """Search joint j (it must turn) over all wanted ranges and postures. gravities: (p, 3) m/s², base frame.

    Exact one-angle steps from `starts` starts; hold about one joint, and over single branches, is exact (see ascent).
    `plain` puts joints that do not matter back to rest in the pose reported. Without `tilting` only holding is looked for: no moment. `hurried`: what is tied
    is only looked at about `warm`, for a hand that drags.
    """
    linkage, group = tree.linkage(j), tree.group(j)
    if group is not None:
        found = _worst_tied(tree, j, gravities, starts, warm, tilting, hurried)
        return _with_shared(tree, j, gravities, starts, found, group)
    if linkage is not None and linkage.even:
        bare = replace(tree, linkages=())
        return _at_even(worst_pose(bare, j, gravities, starts, warm, plain, tilting, hurried), linkage, j)
    alone = strung_alone(tree, j) and not is_tied(replace(tree, loads=()), matter_to(tree, j))
    if alone or (linkage is not None and not is_tied(tree, matter_to(tree, j))):
        return _worst_along(tree, j, gravities, starts, warm, tilting)
    if is_tied(tree, matter_to(tree, j)):
        found = _worst_tied(tree, j, gravities, starts, warm, tilting, hurried)
        return found if linkage is None else _with_members(tree, j, gravities, starts, found, linkage)
    p = len(gravities)
    value, q, count = _climbed(tree, j, gravities, starts, warm, tilting)
    sought = 3 if tilting else 2
    blocks = value.reshape(sought, p * count)
    up, down = int(np.argmax(blocks[0])), int(np.argmax(blocks[1]))
    highest, lowest = float(blocks[0, up]), -float(blocks[1, down])
    columns = q.reshape(len(tree.ids), sought, p * count)
    way = 0 if highest >= -lowest else 1
    at = up if way == 0 else down
    pose = columns[:, way, at].copy()
    if plain:
        pose = _plain(tree, j, pose, gravities[at // count])
    tilt = int(np.argmax(blocks[2])) if tilting else at
    agreement = float(
        np.mean(blocks[way].reshape(p, count)[at // count] >= blocks[way, at] - 1e-6 * (1e-3 + abs(blocks[way, at])))
    )
    return Worst(
        hold=highest if way == 0 else lowest,
        pose=pose,
        posture=at // count,
        highest=highest,
        lowest=lowest,
        moment=max(0.0, float(blocks[2, tilt])) if tilting else 0.0,
        moment_pose=columns[:, 2, tilt].copy() if tilting else pose,
        moment_posture=tilt // count,
        side=largest_side(tree, j, gravities),
        agreement=agreement,
    )


def _at_even(found: Worst, linkage: Linkage, j: int) -> Worst:
    """What was found at the joint, N·m, as it is at a drive whose ratio is the same everywhere."""
    gain = float(gain_of(linkage, np.zeros(1))[0])
    force = float(linkage.pulls(np.zeros(1), np.array([abs(found.hold)]))[0])
    return replace(
        found,
        hold=found.hold / gain,
        highest=found.highest / gain,
        lowest=found.lowest / gain,
        force=force,
        force_at=float(found.pose[j]),
    )


def _with_members(tree: Tree, j: int, gravities: Array, starts: int, found: Worst, linkage: Linkage) -> Worst:
    """The same with what lies between joint and drive: a worst pose of its own, looked for once nobody waits."""
    if starts < STARTS:
        at = found.pose[j : j + 1]
        return replace(
            found, force=float(linkage.pulls(at, abs(found.hold) * gain_of(linkage, at))[0]), force_at=float(at[0])
        )
    members = tuple(Borne(linkage) if k == j else None for k in range(len(tree.ids)))
    worst = _worst_tied(replace(tree, linkages=members), j, gravities, starts, (found.pose,), False)
    return replace(found, force=abs(worst.hold), force_at=float(worst.pose[j]))


def _with_shared(tree: Tree, j: int, gravities: Array, starts: int, found: Worst, group: Group) -> Worst:
    """The same of a drive that shares joints: what its own member bears, N, in the worst pose, or, once nobody waits, in a worst pose of its own."""
    bearing = replace(group, bears=group.number(j))
    pose, g = found.pose, gravities[found.posture]
    if starts >= STARTS and not group.even:
        worst = _worst_tied(replace(tree, groups=(bearing,)), j, gravities, starts, (found.pose,), False)
        pose, g = worst.pose, gravities[worst.posture]
    q = pose[:, None]
    shares = zip(bearing.weights(j, q), group.joints, strict=True)
    member = np.asarray(sum(weight * joint_torque_Nm(tree, k, q, g) for weight, k in shares))
    return replace(found, force=float(group.of(j).pulls(pose[:, None], member)[0]), force_at=float(pose[j]))


def _worst_along(tree: Tree, j: int, gravities: Array, starts: int, warm: tuple[Array, ...], tilting: bool) -> Worst:
    """The same where something is strung across joint j alone, or its drive's hold of it changes with its angle: along its envelope."""
    known = [pose for pose in warm if pose.shape == (len(tree.ids),)]
    quick = starts < STARTS
    if tilting and tree.linkage(j) is not None and not tree.loaded[j]:  # how its support is tilted no linkage changes
        plain = worst_pose(replace(tree, linkages=()), j, gravities, starts, warm)
        found = _worst_along(tree, j, gravities, starts, warm, False)
        return replace(found, moment=plain.moment, moment_pose=plain.moment_pose, moment_posture=plain.moment_posture)
    up, down, tilt, pull = peaks(
        tree, j, gravities, 2 if quick else 8, np.stack(known, axis=1) if known else None, tilting, quick
    )
    way = up if up.value >= down.value else down
    return Worst(
        hold=up.value if way is up else -down.value,
        pose=way.pose,
        posture=way.posture,
        highest=up.value,
        lowest=-down.value,
        moment=max(0.0, tilt.value) if tilting else 0.0,
        moment_pose=tilt.pose if tilting else way.pose,
        moment_posture=tilt.posture if tilting else way.posture,
        side=largest_side(tree, j, gravities),
        agreement=1.0,
        force=pull.value,
        force_at=float(pull.pose[j]),
    )


def _climbed(
    tree: Tree, j: int, gravities: Array, starts: int, warm: tuple[Array, ...], tilting: bool
) -> tuple[Array, Array, int]:
    """Values (n,), N·m, and poses (m, n) that the climb ends at, in blocks: up, down and, where `tilting`, across, of each posture so many columns."""
    relevant = [k for k in (*tree.chains[j], *tree.below[j]) if tree.low[k] < tree.high[k]]
    count = starts if len(relevant) > 1 else min(starts, 12)
    p = len(gravities)
    single = spread_starts(tree, relevant, count, warm)
    sought = 3 if tilting else 2
    q = np.concatenate([single] * (sought * p), axis=1)
    g = np.repeat(gravities, count, axis=0).T
    pull = np.concatenate([-g, g, g][:sought], axis=1)
    axis = tree.axis[j]
    e = np.repeat(axis[:, None], sought * p * count, axis=1)
    free = np.zeros(sought * p * count, dtype=bool)
    free[2 * p * count :] = True
    if tilting:
        e[:, free] = across_axis(axis, p * count)
    tight = np.repeat([1e-8, 1e-8, 1e-6][:sought], p)
    if count <= FEW:
        sweeps = 6 if warm or len(relevant) < LONG else 2
        value = coordinate_ascent(tree, j, pull, e, free, q, sought * p, 1e4 * tight, sweeps)
    else:
        value = coordinate_ascent(tree, j, pull, e, free, q, sought * p, tight, 3)
        best = np.argsort(-value.reshape(sought * p, count), axis=1)[:, :FEW] + np.arange(sought * p)[:, None] * count
        keep, count = best.ravel(), FEW
        q, e = q[:, keep], e[:, keep]
        free = free[keep]
        value = coordinate_ascent(tree, j, pull[:, keep], e, free, q, sought * p, tight)
    return value, q, count


def drive_torque_Nm(tree: Tree, j: int, q: Array, gravity: Array) -> Array:
    """What joint j's drive must hold, (n,) N·m at its own shaft, in the joint's sense; q (m, n) rad or m, complete; gravity (3,) or (3, n) m/s²."""
    return at_drive(tree, j, q, lambda k: joint_torque_Nm(tree, k, q, gravity))


def joint_torque_Nm(tree: Tree, j: int, q: Array, gravity: Array) -> Array:
    """What must be held at joint j, (n,) N·m, with the load of what follows it by virtual work; q (m, n) rad or m, complete; gravity (3,) or
    (3, n) m/s²."""
    loads = tree.coupling.loads[j]
    if any(tree.slides[k] for k, _ in loads):
        every = holding_torque_Nm(tree, q, gravity)
        return np.asarray(sum(gain * every[k] for k, gain in loads))
    return np.asarray(
        sum(gain * (held_torque_Nm(tree, k, q, gravity) + loads_torque_Nm(tree, k, q)) for k, gain in loads)
    )


def _worst_tied(
    tree: Tree, j: int, gravities: Array, starts: int, warm: tuple[Array, ...], tilting: bool, hurried: bool = False
) -> Worst:
    """The same search where joints follow others: by trying, from fewer starts; the tilting moment counts the joint's own load."""
    free = free_of(tree, matter_to(tree, j))
    hangs = list(tree.coupling.hangs)
    n = FEW if hangs else max(FEW, min(starts, 12))  # where something hangs, they are the best of many
    settled = starts >= STARTS
    begun = spread_starts(tree, [*free, *hangs], n * SCREENED if hangs and settled else n, warm)
    if settled:
        free += hangs
    sweeps = SWEEPS if settled or not hangs else 2
    p = len(gravities)
    pulls = np.repeat(gravities.T, n, axis=1)
    twice = np.concatenate([pulls, pulls], axis=1)  # up in each posture, then down in each

    def held(q: Array) -> Array:
        again = q.shape[1] // (2 * n * p)
        return np.tile(np.repeat([1.0, -1.0], n * p), again) * drive_torque_Nm(tree, j, q, np.tile(twice, (1, again)))

    def tilt(q: Array) -> Array:
        return _tilt_of(tree, j, q, np.tile(pulls, (1, q.shape[1] // (n * p))))

    def hung(q: Array, way: Array) -> Array:
        return complete(tree, q, np.tile(way, (1, q.shape[1] // way.shape[1])))

    some = begun.shape[1]
    single = complete(tree, np.tile(begun, (1, p)), np.repeat(gravities.T, some, axis=1))
    every = np.repeat(gravities.T, some, axis=1)
    torque = drive_torque_Nm(tree, j, single, every)
    up, down, leaning = (
        best_each(single, value, n, p) for value in (torque, -torque, _tilt_of(tree, j, single, every))
    )
    q, tilted = np.concatenate([up, down], axis=1), leaning

    def climbed(value: Value, q: Array, degree: int, way: Array) -> Array:
        if hurried and not hangs and len(free) <= AT_ONCE:
            return tied_look(tree, value, free, q, near=degree == 2)
        return tied_coordinate_ascent(
            tree, value, free, q, of_degree(tree, value, degree), sweeps, partial(hung, way=way)
        )

    both = climbed(held, q, 1, twice)
    across = climbed(tilt, tilted, 2, pulls) if tilting else np.zeros(n * p)
    found: dict[str, tuple[float, int, Array]] = {}
    shares = []
    for name, values, poses in (("up", both[: n * p], q[:, : n * p]), ("down", both[n * p :], q[:, n * p :]), ("tilt", across, tilted)):  # fmt: skip
        k = int(np.argmax(values))
        found[name] = (float(values[k]), k // n, poses[:, k].copy())
        if name != "tilt":
            mine = values[k // n * n : (k // n + 1) * n]
            shares.append((float(values[k]), float(np.mean(mine >= values[k] - 1e-6 * (1e-3 + abs(values[k]))))))
    way = "up" if found["up"][0] >= found["down"][0] else "down"
    highest, lowest = found["up"][0], -found["down"][0]
    return Worst(
        hold=highest if way == "up" else lowest,
        pose=found[way][2],
        posture=found[way][1],
        highest=highest,
        lowest=lowest,
        moment=math.sqrt(max(0.0, found["tilt"][0])),
        moment_pose=found["tilt"][2],
        moment_posture=found["tilt"][1],
        side=largest_side(tree, j, gravities),
        agreement=max(shares)[1],
    )


def _tilt_of(tree: Tree, j: int, q: Array, g: Array) -> Array:
    """The square (n,), (N·m)², of the moment across joint j's axis in poses q (m, n) under g (3, n) m/s², with what is strung to it."""
    if tree.loaded[j]:
        return across_squared(tree, j, q, wrench_on(tree, j, q, g)[1])
    return tilting_moment_squared(tree, j, q, g)


def _plain(tree: Tree, j: int, pose: Array, gravity: Array) -> Array:
    """The same worst pose with every joint that does not matter put back to rest."""
    m, rest = len(pose), rest_pose(tree)
    matter = {*tree.chains[j], *tree.below[j]}
    tries = np.repeat(pose[:, None], m + 1, axis=1)
    for k in range(m):
        tries[k, k] = rest[k]
    torque = held_torque_Nm(tree, j, tries, gravity)
    target, slack = torque[m], 1e-9 * (1e-6 + abs(torque[m]))
    idle = [k for k in range(m) if k not in matter or abs(torque[k] - target) <= slack]
    plain = pose.copy()
    plain[idle] = rest[idle]
    again = float(held_torque_Nm(tree, j, plain[:, None], gravity)[0])
    return plain if abs(again - target) <= slack else pose


def drive_inertia(tree: Tree, q: Array, j: int) -> Array:
    """Inertia (n,), kg·m², that joint j's drive must speed up; q (m, n) rad or m, complete.

    Where others follow it, or it follows another with a drive of its own, by virtual work: the torque of moving all of them at once from rest
    without gravity, for each rad/s² (m/s²) of joint j.
    """
    tied, first = tree.coupling, tree.coupling.leader[j]
    together = [k for k, leader in enumerate(tied.leader) if leader == first]
    own = float(tied.gain[j])
    if len(together) == 1 or own == 0.0:
        return inertia_about_axis(tree, q, j)
    qdd = np.zeros_like(q)
    for k in together:
        qdd[k] = tied.gain[k] / own
    torque = inverse_dynamics(tree, q, np.zeros_like(q), qdd, np.zeros(3))
    out: Array = sum((gain * torque[k] for k, gain in tied.loads[j]), np.zeros(q.shape[1]))
    return np.maximum(out, 0.0)


def moment_curve(tree: Tree, j: int, pose: Array, gravity: Array, count: int = 91) -> tuple[Array, Array]:
    """Angles (count,) rad over joint j's wanted range and its holding torque (count,) N·m there, the others as in pose (m,) rad."""
    angles = np.linspace(tree.low[j], tree.high[j], count)
    q = np.repeat(pose[:, None], count, axis=1)
    put(tree.coupling, q, j, angles)
    return angles, drive_torque_Nm(tree, j, complete(tree, q, gravity), gravity)
