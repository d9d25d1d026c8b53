"""What a joint rubs with: its bearing under what presses it, two pulls with a scale, or what somebody stated."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.catalogue import ESTIMATE_SHARE, bearing_share
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.statics import across_squared, holding_torque_Nm, wrench_on
from karakuri.mechanics.tied import free_of
from karakuri.model.drag import Bearing, Pulled
from karakuri.model.joint import Joint

PULLED_SHARE, STATED_SHARE = 0.10, 0.30
"""By what share two pulls, or a number somebody stated, may be off: common practice, no source."""
STANDARD_GRAVITY = 9.80665
PLACES, POSES = 9, 8


class Dragging(Frozen):
    """Joint j rubs with `value`, N·m (N for a slide), between low and high. Of a bearing: `share` × (`force` N × `radius` m + `moment` N·m),
    where that is largest over its range and all postures; else share 0."""

    j: int
    value: float
    low: float
    high: float
    share: float = 0.0
    force: float = 0.0
    moment: float = 0.0
    radius: float = 0.0


def dragging(
    tree: Tree, j: int, joint: Joint, gravities: Array, tilting: float = 0.0, pressing: float = 0.0
) -> Dragging | None:
    """What joint j rubs with under gravities (p, 3) m/s²; None where nothing is said of it. `tilting` N·m: the largest moment across its axis
    over all poses, where that is known; `pressing` N: by which magnets that hold it on press its bearing together."""
    said = joint.drag
    if isinstance(said, Pulled):
        lever = said.lever_mm / 1e3 if joint.kind == "turn" else 1.0
        value = max(said.up_g - said.down_g, 0.0) / 2e3 * STANDARD_GRAVITY * lever
        return _within(j, value, PULLED_SHARE)
    if isinstance(said, Bearing):
        share, radius = bearing_share(said.bearing), said.radius_mm / 1e3 if joint.kind == "turn" else 1.0
        force, moment = pressed(tree, j, gravities, radius)
        force, moment = force + pressing, max(moment, tilting)
        if (
            joint.kind == "slide"
        ):  # what tilts a slide presses it as well, and more so the shorter it is: counted as long as wide
            moment = moment / (2 * said.radius_mm / 1e3)
        value = share * (force * radius + moment)
        return Dragging(j, value, value * (1 - ESTIMATE_SHARE), value * (1 + ESTIMATE_SHARE), share, force, moment, radius)  # fmt: skip
    if joint.friction_Nm > 0:
        return _within(j, joint.friction_Nm, STATED_SHARE)
    return None


def felt_drag(
    tree: Tree, j: int, joints: tuple[Joint, ...], gravities: Array, tilting: float = 0.0, pressing: tuple[float, ...] = ()
) -> Dragging | None:  # fmt: skip
    """What the drive of joint j rubs against: its own joint's and, by what they turn for it, that of all that follow it, N·m; gravities
    (p, 3) m/s², `joints` in the order of the tree's, tilting N·m and pressing N as of `dragging`. None where nothing is said of any."""
    found = [
        (
            abs(gain),
            dragging(tree, k, joints[k], gravities, tilting if k == j else 0.0, pressing[k] if pressing else 0.0),
        )
        for k, gain in tree.coupling.loads[j]
    ]
    felt = [(gain, drag) for gain, drag in found if drag is not None]
    if not felt:
        return None
    if len(felt) == 1 and felt[0][1].j == j:
        return felt[0][1]
    value, low, high = (sum(gain * getattr(drag, name) for gain, drag in felt) for name in ("value", "low", "high"))
    return Dragging(j, value, low, high)


def _within(j: int, value: float, share: float) -> Dragging:
    return Dragging(j, value, value * (1 - share), value * (1 + share))


def pressed(tree: Tree, j: int, gravities: Array, radius: float) -> tuple[float, float]:
    """The force, N, and the moment across the axis, N·m, that press the bearing of joint j where force × radius, m, + moment is largest:
    over its own range, all else at rest, gravities (p, 3) m/s². Weight and loads; nothing that speeding up adds."""
    q = np.repeat(tree.rest[:, None], PLACES, axis=1)
    if tree.coupling.leader[j] not in tree.coupling.hangs:
        put(tree.coupling, q, j, np.linspace(float(tree.low[j]), float(tree.high[j]), PLACES))
    q, pulls = np.tile(q, (1, len(gravities))), np.repeat(gravities.T, PLACES, axis=1)
    complete(tree, q, pulls)
    force, moment = wrench_on(tree, j, q, pulls)
    strength, tilt = np.sqrt(np.einsum("in,in->n", force, force)), np.sqrt(across_squared(tree, j, q, moment))
    k = int((strength * radius + tilt).argmax())
    return float(strength[k]), float(tilt[k])


class Returning(Frozen):
    """What brings joint j, which no drive turns, back towards where it is drawn, where that is least: `torque` N·m (N) at `at` rad (m) in
    posture number `posture`; below 0 where it goes on away from there."""

    j: int
    torque: float
    at: float
    posture: int


NEAR_SHARE = 0.10
"""So near to where it is drawn, by its way from the end, nothing need bring it back any more: common practice, no source."""
PLACES_BACK = 33


def returning(tree: Tree, j: int, wanted: tuple[float, float], gravities: Array) -> Returning | None:
    """Joint j along its `wanted` range, rad (m), in postures of gravities (p, 3) m/s² and with the driven joints that carry it at rest and at their
    corners, or, where it is drawn between its ends, in the first posture and at rest; None where it is drawn at both ends of it."""
    drawn = float(tree.rest[j])
    ways = [end - drawn for end in wanted if abs(end - drawn) > 1e-4]
    if not ways:
        return None
    shares = np.linspace(NEAR_SHARE, 1.0, PLACES_BACK)
    offs = np.concatenate([way * shares for way in ways])
    if (
        len(ways) > 1
    ):  # between its ends it is balanced, not shut: in other postures it rests elsewhere, which is said of what hangs
        poses, gravities = tree.rest[:, None], gravities[:1]
    else:
        poses = with_corners(tree, [k for k in free_of(tree, tree.chains[j]) if k != j], POSES)
    q, pulls, count = held_along(tree, j, poses, gravities, drawn + offs)
    back = np.tile(np.sign(offs), count) * holding_torque_Nm(tree, q, pulls)[j]
    k = int(back.argmin())
    return Returning(j, float(back[k]), float(q[j, k]), k // (len(offs) * poses.shape[1]))


def over_all(tree: Tree, poses: Array, gravities: Array, along: int) -> tuple[Array, Array, int]:
    """Every one of n poses (m, n), rad or m, in every posture, `along` times beside each other, complete: (m, p × n × along), the gravity of
    each (3, …) m/s², and p × n. Postures first, then poses."""
    p, n = len(gravities), poses.shape[1]
    single = complete(tree, np.tile(poses, (1, p)), np.repeat(gravities.T, n, axis=1))
    return np.repeat(single, along, axis=1), np.repeat(gravities.T, n * along, axis=1), p * n


def held_along(tree: Tree, j: int, poses: Array, gravities: Array, places: Array) -> tuple[Array, Array, int]:
    """The same with joint j held at places (k,) rad or m, one after the other, and all that hangs besides hung anew at each."""
    tied = tree.coupling
    tree = replace(tree, coupling=replace(tied, hangs=tuple(h for h in tied.hangs if h != tied.leader[j])))
    q, pulls, count = over_all(tree, poses, gravities, len(places))
    put(tied, q, j, np.tile(places, count))
    return (complete(tree, q, pulls) if tree.coupling.hangs else q), pulls, count
