"""A spring that takes weight off a servo: from behind the pivot to above it, or from before it, whichever way it must help."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import build_tree
from karakuri.checks.contract import JointResults, Results
from karakuri.checks.convex import WorstHold
from karakuri.model.edit import Add, Edit, apply
from karakuri.model.element import Anchor, Spring
from karakuri.model.finding import Proposal, Sentence
from karakuri.model.ids import new_id
from karakuri.sizing.assisted import alone, softest
from karakuri.units import Quantity

ARM_MM, REACH_MM, STEP, MOST = 35.0, 45.0, 10.0, 3000.0
"""How far from the pivot its ends are on what turns and on what carries it; rates in mN/mm: step and most. Sizes of hobby springs: common
practice, no source."""


def assist(r: JointResults, results: Results, allowed: tuple[float, ...]) -> Iterable[Proposal]:
    """The softest spring that brings what must be held for long below each limit, N·m, in turn. One joint alone: what already carries a
    spring is not given another."""
    if results.tree.loaded[r.index] or r.hold.need <= 0:
        return
    spring = _between(r, results)

    def fitted(mN_per_mm: float) -> Edit:
        made = Spring(**(dict(spring) | {"rate_N_per_mm": round(mN_per_mm / 1e3, 5)}))
        return Edit(f"fit an assist spring to {r.joint.name}", (Add("elements", made),))

    for limit in allowed:
        rate = _least(r, results, fitted, limit)
        if rate is not None:
            yield Proposal(fitted(rate), Sentence("Assist spring {0}", (Quantity(rate, "rate"),)), "assist spring")


def _least(r: JointResults, results: Results, fitted: Callable[[float], Edit], limit: float) -> float | None:
    """The softest such spring, mN/mm: by the joint's own envelope, or by searching where more is tied to it."""
    tree, j = results.tree, r.index
    if r.can is None or not alone(tree, j):
        return WorstHold(results, r.joint.id, fitted, STEP, MOST).least(limit)
    sprung = build_tree(apply(results.figure, fitted(1.0)))
    rests = None if r.hold.resting is r.hold.worst or r.joint.rests_deg is None else r.joint.rests_deg
    within = (math.radians(rests[0]), math.radians(rests[1])) if rests is not None else None
    factor = min(1.0, r.can.continuous / r.can.intermittent) if within is not None else 1.0
    return softest(tree, sprung, j, results.gravities, within, factor, np.arange(STEP, MOST + STEP / 2, STEP), limit)


def _between(r: JointResults, results: Results) -> Spring:
    """A spring of no strength yet that would turn the joint the way it must be held, with its ends a quarter turn apart at mid-range."""
    joint, axis = r.joint, results.tree.axis[r.index]
    up = _across(axis)
    way = math.copysign(1.0, r.hold.worst.hold) * np.cross(axis, up)
    middle = math.radians(sum(joint.range_deg) / 2)
    pivot = np.array(joint.at_mm)
    # seen at mid-range the end on what turns stands up from the pivot; at rest it is that much back
    rest = up * math.cos(middle) - np.cross(axis, up) * math.sin(middle)
    ends = (_anchor(joint.rides_on, pivot + REACH_MM * way), _anchor(joint.id, pivot + ARM_MM * rest))
    half = math.radians(min((joint.range_deg[1] - joint.range_deg[0]) / 2, 80.0))
    shortest = math.sqrt(ARM_MM**2 + REACH_MM**2 - 2 * ARM_MM * REACH_MM * math.cos(math.pi / 2 - half))
    name = f"assist spring of {joint.name}"[:80]
    ident = new_id(results.figure, f"{joint.id}_assist")
    return Spring(
        id=ident, name=name, ends=ends, free_mm=max(5.0, round(0.9 * shortest)), rate_N_per_mm=0.01, origin="typical"
    )


def _anchor(rides_on: str, at: Array) -> Anchor:
    x, y, z = (round(float(v), 1) for v in at)
    return Anchor(rides_on=rides_on, at_mm=(x, y, z))


def _across(axis: Array) -> Array:
    """Up, as far as it lies across the axis; ahead, where the axis itself is upright."""
    for direction in (np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])):
        across = direction - axis * float(direction @ axis)
        if float(np.linalg.norm(across)) > 0.5:
            return np.asarray(across / np.linalg.norm(across))
    return np.array([1.0, 0.0, 0.0])
