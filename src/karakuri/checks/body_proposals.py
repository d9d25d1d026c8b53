"""Proposals that several rules share: ballast, a narrower range, parts moved towards the axis. Each is searched for, not guessed."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

import numpy as np

from karakuri.checks.contract import JointResults, Results
from karakuri.checks.convex import WorstHold
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.statics import carried_centre
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import ballast_edit
from karakuri.model.figure import BallastSite
from karakuri.model.finding import Proposal, Sentence
from karakuri.model.part import Part
from karakuri.sizing.followed import ranged
from karakuri.units import Quantity


def needed(results: Results, joint_id: str, edit: Edit) -> float:
    """What must be held for long, N·m, by a joint in the edited figure."""
    needed = results.need_of(apply(results.figure, edit), joint_id)
    return needed.value if needed is not None else math.inf


def least(value: Callable[[float], float], limit: float, low: float, high: float, step: float) -> float | None:
    """The smallest multiple of step in (low, high] whose value is within the limit, by bisection; None where the far end is not."""
    if value(high) > limit:
        return None
    a, b = math.floor(low / step), math.ceil(high / step)
    while b - a > 1:
        middle = (a + b) // 2
        a, b = (a, middle) if value(min(middle * step, high)) <= limit else (middle, b)
    return min(b * step, high)


def ballast(r: JointResults, results: Results, allowed: tuple[float, ...]) -> Iterable[Proposal]:
    """At each allowed site that the joint carries: the least lead that brings the worst hold below each limit."""
    carried = {results.tree.ids[k] for k in results.tree.carried(r.index)}
    for site in results.figure.ballast_sites:
        if site.rides_on not in carried:
            continue

        def fitted(grams: float, site: BallastSite = site) -> Edit:
            return ballast_edit(results.figure, site, grams)

        hold = WorstHold(results, r.joint.id, fitted, 5.0, site.most_g)
        for limit in allowed:
            grams = hold.least(limit)
            if grams is not None:
                yield Proposal(fitted(grams), _ballast_label(site, grams), f"ballast {site.id}")


def best_ballast(r: JointResults, results: Results) -> Iterable[Proposal]:
    """At each allowed site that the joint carries: the lead that leaves least to hold, for verdicts that weight decides."""
    carried = {results.tree.ids[k] for k in results.tree.carried(r.index)}
    for site in results.figure.ballast_sites:
        if site.rides_on in carried:

            def fitted(grams: float, site: BallastSite = site) -> Edit:
                return ballast_edit(results.figure, site, grams)

            hold = WorstHold(results, r.joint.id, fitted, 5.0, site.most_g)
            grams = hold.lowest()
            yield Proposal(fitted(grams), _ballast_label(site, grams), f"ballast {site.id}")


def _ballast_label(site: BallastSite, grams: float) -> Sentence:
    return Sentence(f"Ballast {{0}} at {site.name}", (Quantity(grams / 1e3, "mass"),))


def range_edit(r: JointResults, results: Results, low: float, high: float) -> Edit:
    """Another wanted range, °; of a follower, that of what it follows."""
    return ranged(results.figure, r.joint, low, high, f"narrow {r.joint.name} to {low:g}° … {high:g}°")


def narrowed(r: JointResults, results: Results, allowed: tuple[float, ...]) -> Iterable[Proposal]:
    """The wanted range cut, in whole degrees, at the end where the worst hold is, until it may be held."""
    low, high = r.joint.range_deg
    at = math.degrees(float(r.hold.worst.pose[r.index]))
    middle = min(max(0.0, low), high)
    if abs(at - middle) < 1.0:
        return
    upper = at > middle

    def cut(by: float) -> Edit:
        return range_edit(r, results, *((low, high - by) if upper else (low + by, high)))

    def left_by_cut(by: float) -> float:
        return needed(results, r.joint.id, cut(by))

    most = math.floor((high - middle) if upper else (middle - low)) - 1.0
    for limit in allowed:
        by = least(left_by_cut, limit, 0.0, most, 1.0) if most >= 1 else None
        if by is None:
            continue
        end, name = (high - by, r.joint.ends[1]) if upper else (low + by, r.joint.ends[0])
        side = r.joint.ends[1] if end >= 0 else r.joint.ends[0]
        text = f"Stop {name} at {{0}}" + ("" if side == name else f" {side}")
        yield Proposal(cut(by), Sentence(text, (Quantity(math.radians(abs(end)), "angle"),)), "range")


def moved_parts(
    r: JointResults, results: Results, allowed: tuple[float, ...], most_mm: float = 60.0
) -> Iterable[Proposal]:
    """The movable part that adds most to the worst hold, moved towards the pivot by the least that is enough. At most three are tried."""
    parts = {part.id: part for part in results.figure.parts}
    tried: list[str] = []
    for i, share, _ in sorted(r.hold.shares, key=lambda row: -row[1]):
        part = parts.get(results.tree.sources[i].ref.id) if results.tree.sources[i].ref.kind == "part" else None
        if share <= 0 or part is None or not part.movable:
            continue
        towards = _towards_balance(r, results, part)
        if towards is None:
            return
        if len(tried) == 3:
            return
        tried.append(part.id)
        direction, room = towards

        def moved(mm: float, part: Part = part, direction: tuple[float, ...] = direction) -> Edit:
            at = tuple(round(a + d * mm, 1) for a, d in zip(part.at_mm, direction, strict=True))
            return Edit(f"move {part.name} by {mm:g} mm", (Set(("parts", part.id, "at_mm"), (at[0], at[1], at[2])),))

        hold = WorstHold(results, r.joint.id, moved, 1.0, min(most_mm, room))
        found = False
        for limit in allowed:
            mm = hold.least(limit)
            if mm is not None:
                label = Sentence(f"Move {part.name} {{0}} {_way(direction)}", (Quantity(mm / 1e3, "length"),))
                yield Proposal(moved(mm), label, "move")
                found = True
        if found:
            return


def _towards_balance(r: JointResults, results: Results, part: Part) -> tuple[tuple[float, float, float], float] | None:
    """Direction, along one of the figure's axes, and distance mm, that takes the carried centre of mass nearest over the pivot."""
    tree = results.tree
    centre = carried_centre(tree, place(tree, np.zeros((len(tree.ids), 1))))[r.index, :, 0]
    away = (centre - tree.pivot[r.index]) * 1e3
    away = away - tree.axis[r.index] * float(away @ tree.axis[r.index])
    k = int(np.argmax(np.abs(away)))
    body = next(b for b in tree.bodies if b.id == part.id)
    if abs(away[k]) < 0.5 or body.mass <= 0:
        return None
    direction = [0.0, 0.0, 0.0]
    direction[k] = -math.copysign(1.0, float(away[k]))
    room = abs(float(away[k])) * r.hold.mass / body.mass
    return (direction[0], direction[1], direction[2]), max(1.0, math.floor(room))


def _way(direction: tuple[float, ...]) -> str:
    names = (("back", "forward"), ("to its right", "to its left"), ("down", "up"))
    k = max(range(3), key=lambda i: abs(direction[i]))
    return names[k][1 if direction[k] > 0 else 0]
