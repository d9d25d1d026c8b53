"""The envelope of a joint over its own angle: the most and the least it must hold at each, whatever all others do, and the worst of it.

The joint stands still at many angles at once while all others are stepped exactly, so that a curve costs little more than one search. What
is strung across this joint alone depends on nothing but its angle, and comes on top.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.ascent import coordinate_ascent
from karakuri.mechanics.at_drive import gain_of
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import loads_on
from karakuri.mechanics.starts import across_axis, spread_starts
from karakuri.mechanics.turn import inward, turns

PLACES, CLOSER, ROUNDS, ROUNDS_OF_SIDE = 25, 9, 3, 20
PLACES_QUICK, ROUNDS_QUICK = 13, 2
FINE, MOST_SPIKES = 1441, 12


class Envelope(Frozen, eq=False):
    """At angles (k,) rad of joint j: highest, lowest (k,) N·m it must hold, and moment (k,) N·m across its axis, each with its pose (m, k) and
    posture (k,), over all places of all other joints."""

    angles: Array
    highest: Array
    lowest: Array
    moment: Array
    poses: tuple[Array, Array, Array]
    postures: tuple[Array, Array, Array]


def envelope(
    tree: Tree, j: int, angles: Array, gravities: Array, starts: int = 8, known: Array | None = None, tilting: bool = True
) -> Envelope:  # fmt: skip
    """Of joint j (it must turn, and nothing may be tied to what matters to it but what is strung across it alone); angles (k,) rad,
    gravities (p, 3) m/s², base frame; poses known (m, i) are among the starts, of which there are so many."""
    relevant = [k for k in (*tree.chains[j], *tree.below[j]) if k != j and tree.low[k] < tree.high[k]]
    single = spread_starts(tree, relevant, starts if relevant else 1, ())
    if known is not None and relevant:
        single = np.concatenate([single, np.clip(known, tree.low[:, None], tree.high[:, None])], axis=1)
    n, k, p, sought = single.shape[1], len(angles), len(gravities), 3 if tilting else 2
    each = np.repeat(single[:, None], k, axis=1).reshape(len(single), -1)  # angle by angle, all starts
    each[j] = np.repeat(angles, n)
    strung = _strung(tree, j, angles).repeat(n, axis=1)
    q = np.concatenate([each] * (sought * p), axis=1)
    g = np.repeat(gravities, k * n, axis=0).T
    pull = np.concatenate([-g, g, g][:sought], axis=1)
    wide = np.concatenate([strung] * p, axis=1)
    beside = np.concatenate([-wide, wide, wide][:sought], axis=1)
    e = np.repeat(tree.axis[j][:, None], sought * p * k * n, axis=1)
    free = np.zeros(e.shape[1], dtype=bool)
    free[2 * p * k * n :] = True
    if tilting:
        e[:, free] = across_axis(tree.axis[j], p * k * n)
    blocks = sought * p * k
    tight = np.repeat([1e-7, 1e-7, 1e-6][:sought], p * k)
    value = coordinate_ascent(tree, j, pull, e, free, q, blocks, tight, 12, beside).reshape(sought, p, k, n)
    poses = q.reshape(len(single), sought, p, k, n)
    tops, found, where = [], [], []
    for s in range(sought):
        flat = value[s].transpose(1, 0, 2).reshape(k, p * n)
        best = flat.argmax(axis=1)
        tops.append(flat[np.arange(k), best])
        where.append(best // n)
        found.append(poses[:, s].transpose(0, 2, 1, 3).reshape(len(single), k, p * n)[:, np.arange(k), best])
    if not tilting:
        tops, found, where = [*tops, np.zeros(k)], [*found, found[0]], [*where, where[0]]
    return Envelope(
        angles,
        tops[0],
        -tops[1],
        np.maximum(tops[2], 0.0),
        (found[0], found[1], found[2]),
        (where[0], where[1], where[2]),
    )


class Peak(Frozen, eq=False):
    """The largest value of one kind along the envelope, N·m, its pose (m,) and posture."""

    value: float
    pose: Array
    posture: int


def peaks(
    tree: Tree, j: int, gravities: Array, starts: int, known: Array | None, tilting: bool, quick: bool = False
) -> tuple[Peak, Peak, Peak, Peak]:
    """The most its drive must hold, the least (as −value), the largest moment on its support, N·m, and the largest force, N, on what lies between both,
    over all angles of joint j: places all over its range, then ever closer around the best of each kind; `quick`: fewer of them where nothing is strung.
    gravities (p, 3) m/s²; poses known (m, i) rad or m."""
    low, high, linked = float(tree.low[j]), float(tree.high[j]), tree.linkage(j) is not None
    places, rounds = (PLACES_QUICK, ROUNDS_QUICK) if quick and not tree.loaded[j] else (PLACES, ROUNDS)
    sought = [0, 1, *([2] if tilting else []), *([3] if linked else [])]
    angles = np.union1d(np.linspace(low, high, places), _spikes(tree, j, low, high)) if high > low else np.array([low])
    found = envelope(tree, j, angles, gravities, starts, known, tilting)
    best = [_best(tree, j, found, s) for s in range(4)]
    width = (high - low) / (places - 1)
    for _ in range(rounds if high > low else 0):
        around = np.linspace(-width, width, CLOSER)
        near = np.unique(np.clip(np.concatenate([best[s].pose[j] + around for s in sought]), low, high))
        there = np.stack([peak.pose for peak in best], axis=1)
        found = envelope(tree, j, near, gravities, 1, there, tilting)
        best = [max(one, _best(tree, j, found, s), key=lambda peak: peak.value) for s, one in enumerate(best)]
        width /= (CLOSER - 1) / 2
    return best[0], best[1], best[2], best[3]


def _best(tree: Tree, j: int, found: Envelope, s: int) -> Peak:
    linkage = tree.linkage(j)
    if s == 3:  # what lies between both bears either way
        if linkage is None:
            return Peak(0.0, found.poses[0][:, 0].copy(), 0)
        forces = [linkage.pulls(found.angles, np.maximum(each, 0.0)) for each in (found.highest, -found.lowest)]
        s = int(forces[1].max() > forces[0].max())
        values = forces[s]
    else:
        values = (found.highest, -found.lowest, found.moment)[s]
        if linkage is not None and s < 2:
            values = values / gain_of(linkage, found.angles)
    k = int(values.argmax())
    return Peak(float(values[k]), found.poses[s][:, k].copy(), int(found.postures[s][k]))


def _spikes(tree: Tree, j: int, low: float, high: float) -> Array:
    """Angles (k,) rad where what is strung turns joint j most or least, each among its neighbours: magnets and pads do so within a degree, and
    lie between the places of a search."""
    if not tree.loaded[j]:
        return np.zeros(0)
    angles = np.linspace(low, high, FINE)
    torque = tree.axis[j] @ _strung(tree, j, angles)
    turns_back = (torque[1:-1] - torque[:-2]) * (torque[2:] - torque[1:-1]) < 0
    found = np.flatnonzero(turns_back) + 1
    return np.asarray(angles[found[np.argsort(-np.abs(torque[found]))[:MOST_SPIKES]]])


def _strung(tree: Tree, j: int, angles: Array) -> Array:
    """The moment (3, k) N·m of what is strung across joint j alone, in its own frame, at angles (k,) rad."""
    if not tree.loaded[j]:
        return np.zeros((3, len(angles)))
    q = np.repeat(tree.rest[:, None], len(angles), axis=1)
    q[j] = angles
    _, moment = loads_on(tree, place(tree, q), q, j)
    return inward(tree, tree.chains[j], moment, q)


def largest_side_strung(tree: Tree, j: int, gravities: Array) -> float:
    """The largest force, N, across joint j's axis of the weight it carries and of what is strung across it alone; gravities (p, 3) m/s²."""
    chain = [turns(tree)[k] for k in tree.chains[j]]
    mass = float(tree.mass[j] + sum(tree.mass[k] for k in tree.below[j]))
    low, high = float(tree.low[j]), float(tree.high[j])
    angles = np.union1d(np.linspace(low, high, PLACES), _spikes(tree, j, low, high))
    relevant = [k for k in tree.chains[j][:-1] if tree.low[k] < tree.high[k] and not tree.slides[k]]
    single = spread_starts(tree, relevant, 6 if relevant else 1, ())
    n, p = single.shape[1], len(gravities)
    q = np.concatenate([np.repeat(single, len(angles), axis=1)] * p, axis=1)
    q[j] = np.tile(angles, n * p)
    at = np.repeat(tree.rest[:, None], len(angles), axis=1)
    at[j] = angles
    force = np.tile(inward(tree, tree.chains[j], loads_on(tree, place(tree, at), at, j)[0], at), (1, n * p))
    pull = mass * np.repeat(gravities, n * len(angles), axis=0).T
    e = across_axis(tree.axis[j], q.shape[1])
    best = 0.0
    for _ in range(ROUNDS_OF_SIDE):
        rights = [e]
        for turn, k in zip(reversed(chain[1:]), reversed(tree.chains[j][1:]), strict=True):
            rights.append(turn.spin(q[k], rights[-1]))
        left = pull
        for k, turn, right in zip(tree.chains[j], chain, reversed(rights), strict=True):
            if k != j:
                q[k] = turn.step(left, right, q[k])
            left = turn.spin(-q[k], left)
        across = chain[-1].across @ (left + force)
        size = np.sqrt(np.einsum("in,in->n", across, across))
        e = across / np.maximum(size, 1e-15)
        now = float(size.max())
        if now - best <= 1e-6 * (1e-3 + now):
            break
        best = now
    return now


def strung_alone(tree: Tree, j: int) -> bool:
    """Whether all that is strung to what joint j carries turns joint j and no other."""
    return bool(tree.loaded[j]) and all(tree.spanned(load) == (j,) for load in tree.loaded[j])
