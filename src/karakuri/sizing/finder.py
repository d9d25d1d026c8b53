"""Looks for horn, rod and lever, or for horn and far ball of a rod in space: of all holes there are, and rods of every length, those with which the servo is
asked least and the rod lies well.

Every pair of holes is tried with the lever and the horn set square and up to 30° off it; what does not close, lies too flat or asks for more than the
servo turns is left out. The rest is ranked by the smaller of what holding and the wanted move leave.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import Capability
from karakuri.bodies.cut import matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.ball import rod_m as ball_rod_m
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.linkages.lever import linkage_of, rod_m
from karakuri.bodies.tree import Tree
from karakuri.course import ALONE, Course
from karakuri.frozen import Frozen
from karakuri.mechanics.envelope import envelope, strung_alone
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import spread_starts
from karakuri.mechanics.tied import free_of, is_tied
from karakuri.mechanics.worst import joint_torque_Nm
from karakuri.model.joint import Joint
from karakuri.model.transmission import Ball, Lever
from karakuri.sizing.geared import geared
from karakuri.sizing.tries import PlacedMove
from karakuri.sizing.wanted import judge

HORN_MM = (8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0)
LEVER_MM = (10.0, 12.0, 15.0, 18.0, 20.0, 22.0, 25.0, 28.0, 30.0, 35.0, 40.0)
"""Holes where nobody said which there are: common practice, no source."""
OFF_DEG = (-30.0, -20.0, -10.0, 0.0, 10.0, 20.0, 30.0)
BALL_OFF_DEG = (-30.0, -15.0, 0.0, 15.0, 30.0)
PLACES, EACH, OFFERED = 41, 100, 6


class Fitted(Frozen, eq=False):
    """A lever that would do: torque N·m at the servo at its hardest hold, least transmission angle rad, travel rad of the servo; reserves of
    holding and, where a move is wanted, of moving."""

    form: Lever | Ball
    torque: float
    flattest: float
    travel: float
    holds: float
    moves: float

    @property
    def reserve(self) -> float:
        """The smaller of both."""
        return min(self.holds, self.moves)


def hardest(tree: Tree, j: int, angles: Array, gravities: Array) -> Array:
    """The most that must be held at joint j either way, (k,) N·m, at angles (k,) rad, whatever all others do; gravities (p, 3) m/s². By trying where
    others are tied to it."""
    bare = replace(tree, linkages=())
    if not is_tied(bare, matter_to(bare, j)) or (strung_alone(bare, j) and not is_tied(replace(bare, loads=()), matter_to(bare, j))):  # fmt: skip
        found = envelope(bare, j, angles, gravities, tilting=False)
        return np.maximum(np.abs(found.highest), np.abs(found.lowest))
    leader = bare.coupling.leader[j]
    free = [k for k in free_of(bare, matter_to(bare, j)) if k != leader]
    begun = spread_starts(bare, free, 24 if free else 1, ())
    most = np.zeros(len(angles))
    for g in gravities:
        q = np.repeat(begun, len(angles), axis=1)
        q[leader] = bare.coupling.to_leader(j, np.tile(angles, begun.shape[1]))
        q = complete(bare, q, g)
        most = np.maximum(most, np.abs(joint_torque_Nm(bare, j, q, g)).reshape(begun.shape[1], -1).max(axis=0))
    return most


Made = Callable[[Any], Linkage]
"""A linkage out of a form."""


def arm_mm(form: Lever | Ball, joint: Joint) -> float:
    """From the joint's axis to where the rod pulls, mm."""
    return form.lever_mm if isinstance(form, Lever) else float(np.linalg.norm(_off_axis(form, joint)[1]))


def _off_axis(form: Ball, joint: Joint) -> tuple[Array, Array]:
    """Along the axis, and off it, (3,) mm each: where the far ball sits from the pivot, the joint at 0."""
    axis = np.array(joint.axis) / np.linalg.norm(joint.axis)
    off = np.array(form.ball_mm) - np.array(joint.at_mm)
    return float(off @ axis) * axis, off - float(off @ axis) * axis


def _arms(room_mm: float | None) -> tuple[float, ...]:
    """How far from the joint's axis a rod may pull, mm, where nobody said which holes there are: usual ones, and the farthest there is room for."""
    return LEVER_MM if room_mm is None else (*(arm for arm in LEVER_MM if arm < room_mm), room_mm)


def _tried_balls(form: Ball, joint: Joint) -> Iterator[Ball]:
    """Every ball as far out as holes there usually are, up to 30° to either side of where it is; every hole of the horn, up to 30° off as it is screwed on."""
    axis, shaft = (np.array(each) / np.linalg.norm(each) for each in (joint.axis, form.shaft_axis))
    along, off = _off_axis(form, joint)
    far = float(np.linalg.norm(off))
    if far < 1e-6:
        return
    from scipy.spatial.transform import Rotation  # costs a third of a second: only where balls are looked for

    def turned(about: Array, way: Array) -> Array:
        """To every angle of BALL_OFF_DEG, (k, 3)."""
        return np.asarray(Rotation.from_rotvec(np.outer(BALL_OFF_DEG, about), degrees=True).apply(way))

    horns = [_three(way, 6) for way in turned(shaft, np.array(form.horn_to))]
    for arm in _arms(form.room_mm):
        for at in np.array(joint.at_mm) + along + turned(axis, off * arm / far):
            for horn in form.horn_holes_mm or HORN_MM:
                for to in horns:
                    fields = {"horn_mm": horn, "ball_mm": _three(at, 1), "horn_to": to, "rod_mm": None}
                    yield Ball(**(dict(form) | fields))


def _three(place: Array, digits: int) -> tuple[float, float, float]:
    x, y, z = (round(float(v), digits) + 0.0 for v in place)
    return x, y, z


def _tried(lever: Lever, middle: float) -> Iterator[Lever]:
    """Every lever with holes that there are, a rod that sets the horn square or off it; middle ° of the joint's range."""
    side = math.copysign(1.0, math.sin(math.radians(lever.lever_deg + middle)) or 1.0)
    for horn in lever.horn_holes_mm or HORN_MM:
        for arm in lever.reachable_mm if lever.lever_holes_mm else _arms(lever.room_mm):
            for off in OFF_DEG:
                stands = side * 90.0 + off - middle
                for more in OFF_DEG:
                    theta, phi = math.radians(side * 90.0 + off + more), math.radians(stands + middle)
                    dx = lever.axes_mm + arm * math.cos(phi) - horn * math.cos(theta)
                    dy = arm * math.sin(phi) - horn * math.sin(theta)
                    fields = {"horn_mm": horn, "lever_mm": arm, "lever_deg": round(stands, 1), "rod_mm": round(math.hypot(dx, dy), 1), "crossed": False}  # fmt: skip
                    yield type(lever)(**(dict(lever) | fields))


def sifted(form: Lever | Ball, joint: Joint, hold: tuple[Array, Array], flat: float, course: Course = ALONE, made: Made = linkage_of) -> tuple[Fitted, ...]:  # fmt: skip
    """Of every pair of holes the rod with which the servo is asked least, N·m, whatever servo that is, at angles (k,) rad with (k,) N·m to be held; flat rad
    the least angle. Raises GivenUp."""
    angles, most = hold
    tries: Iterator[Lever | Ball] = (
        _tried_balls(form, joint) if isinstance(form, Ball) else _tried(form, sum(joint.range_deg) / 2)
    )
    every, best = list(tries), dict[tuple[float, float], Fitted]()
    for k, tried in enumerate(every):
        if k % EACH == 0:
            course.at(f"holes and rods, {k} of {len(every)}", 0.8 * k / len(every))
        linkage = made(tried)
        there = linkage.inverse(angles)
        if not there.closes.all() or there.angle.min() < flat or (there.ratio[1:] * there.ratio[:-1] < 0).any():
            continue
        torque = float((most / (np.abs(there.ratio) * linkage.efficiency)).max())
        key = (tried.horn_mm, tried.lever_mm if isinstance(tried, Lever) else round(arm_mm(tried, joint)))
        if key not in best or torque < best[key].torque:
            best[key] = Fitted(tried, torque, float(there.angle.min()), float(np.ptp(there.drive)), math.inf, math.inf)
    shut = (each for each in best.values() if (exact := geared(made(each.form), joint, 0.0, 0.0)).shut and exact.turns_over is None)  # fmt: skip
    return tuple(sorted(shut, key=lambda each: each.torque))


def with_servo(
    found: Fitted, can: Capability, placed: PlacedMove | None, reflected: float, friction: float, made: Made = linkage_of
) -> Fitted:  # fmt: skip
    """The same with what a servo makes of it: reflected kg·m², friction N·m at the joint."""
    holds = can.continuous / found.torque if found.torque > 1e-9 else math.inf
    moves = math.inf
    if placed is not None:
        through = replace(placed, pull=replace(placed.pull, linkage=made(found.form)))
        moves = judge.__wrapped__(through, can, reflected, friction).reserve
    return replace(found, holds=holds, moves=moves)


def find(
    form: Lever | Ball, joint: Joint, hold: tuple[Array, Array], can: Capability, travel: float, flat: float, placed: PlacedMove | None,
    reflected: float, friction: float, course: Course = ALONE, made: Made = linkage_of,
) -> tuple[Fitted, ...]:  # fmt: skip
    """The best few; hold: angles (k,) rad and the most to be held there (k,) N·m; travel rad of the servo, flat rad the least angle; placed the wanted
    move, with reflected kg·m² and friction N·m. Raises GivenUp."""
    some = [each for each in sifted(form, joint, hold, flat, course, made) if each.travel <= travel]
    out = []
    for k, each in enumerate(some):
        course.at("moving through each of them", 0.8 + 0.2 * k / len(some))
        out.append(with_servo(each, can, placed, reflected, friction, made))
    out.sort(key=lambda each: (-min(each.reserve, 3.0), each.torque, -each.flattest))
    return tuple(out[:OFFERED])


def rod_mm(form: Lever | Ball) -> float:
    """Its rod, hole to hole, mm."""
    return (ball_rod_m(form) if isinstance(form, Ball) else rod_m(form)) * 1e3
