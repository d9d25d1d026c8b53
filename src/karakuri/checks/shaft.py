"""Side load and tilting moment on what carries a joint; on a bare spline also the lean it gives at the rim."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.catalogue import permitted_moment_Nm, support_name
from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, torque, wished
from karakuri.checks.masses import masses_decide
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.statics import carried_centre
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.joint import SUPPORT_KINDS, Support
from karakuri.model.ref import Ref
from karakuri.sizing.shaft import Shaft
from karakuri.units import Quantity


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    if r.shaft is not None and not r.missing:
        yield _one(r, r.shaft, results)


def _one(r: JointResults, s: Shaft, results: Results) -> Finding:
    verdict = verdict_of(s.reserve, wished(results))
    low, high = s.interval
    what = support_name(r.joint.support.kind)
    lean = "; leans {2} at the rim" if s.lean is not None else ""
    third = Quantity(s.lean or 0.0, "length", rounding="up")
    carries, (demand, capacity) = carried(s)
    text = f"{r.joint.name}: {what} {carries}{lean}."
    return Finding(
        finding_id("shaft", r.joint.id),
        "shaft",
        Ref("joint", r.joint.id),
        verdict,
        Sentence(text, (demand, capacity, third)),
        reserve=s.reserve,
        reserve_low=low,
        reserve_high=high,
        demand=demand,
        capacity=capacity,
        derivations=_derivations(s),
        decides=decides(r, s, results),
    )


def carried(s: Shaft, first: int = 0) -> tuple[str, tuple[Quantity, Quantity]]:
    """What speaks of it, side load or moment, in words with what is asked and what is permitted from number `first` on, and both."""
    does = "carries" if s.reserve >= 1 else "cannot carry"
    guess = ", an estimate ± 50 %" if (s.side_spread if s.by_side else s.spread) else ""
    if s.by_side and s.permitted_side is not None:
        way, both = "from the side", (Quantity(s.side, "force", rounding="up"), Quantity(s.permitted_side, "force", rounding="down"))  # fmt: skip
    else:
        way, both = "of tilting moment", (torque(s.moment, "up"), torque(s.permitted, "down"))
    return f"{does} {{{first}}} {way}; {{{first + 1}}} is permitted{guess}", both


def decides(r: JointResults, s: Shaft, results: Results) -> Sentence | None:
    """Where what is only estimated could make another verdict: what would decide it."""
    verdict = verdict_of(s.reserve, wished(results))
    if {verdict_of(each, wished(results)) for each in s.interval} == {verdict}:
        return None
    other = {verdict_of(each, wished(results)) for each in s.by_weight} - {verdict}
    if not other:
        return Sentence("What its shaft may carry is an estimate; its data sheet, or a bearing, would decide it.")
    return masses_decide(r, results, other)


def _derivations(s: Shaft) -> tuple[Derivation, ...]:
    if s.lean is None or s.reach <= 0:
        return ()
    return (
        Derivation(
            "Leans at the rim, estimate",
            "({0} play ÷ 2 + {1} ÷ {2} shaft + {1} ÷ {4} bracket) × {3}",
            (
                Quantity(s.play, "angle"),
                torque(s.moment),
                Quantity(s.stiffness, "stiffness"),
                Quantity(s.reach, "length"),
                Quantity(s.bracket, "stiffness"),
            ),
            Quantity(s.lean, "length", rounding="up"),
        ),
        Derivation(
            "Plays at its farthest part",
            "{0} × {1}",
            (Quantity(s.play, "angle"), Quantity(s.reach, "length")),
            Quantity(s.play * s.reach, "length", rounding="up"),
        ),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    r = results.of(finding.subject.id)
    if r.shaft is None:
        return
    yield from _towards_the_middle(r, results)
    yield from carriers(r, r.shaft, results)


def carriers(r: JointResults, asked: Shaft, results: Results) -> Iterable[Proposal]:
    """What carries a joint better: sturdier supports, each with what turns it made smaller too."""
    for kind in SUPPORT_KINDS[SUPPORT_KINDS.index(r.joint.support.kind) + 1 :]:
        permitted = permitted_moment_Nm(kind)
        if permitted is None or (asked.moment > 0 and permitted / asked.moment < 1):
            continue
        step = Set(("joints", r.joint.id, "support"), Support(kind=kind))
        name = support_name(kind)
        label = f"{name[0].upper()}{name[1:]}"
        yield Proposal(Edit(f"put {name} under {r.joint.name}", (step,)), Sentence(label), "bearing")
        for smaller in class_proposals(r, results, smaller=True):
            both = Edit(f"put {name} under {r.joint.name}, {smaller.edit.name}", (step, *smaller.edit.steps))
            yield Proposal(
                both,
                Sentence(f"{label}, then {smaller.label.text[0].lower()}{smaller.label.text[1:]}"),
                "bearing and class",
            )
            break


def _towards_the_middle(r: JointResults, results: Results) -> Iterable[Proposal]:
    """What may be moved, nearer to the axis: along the direction in which what it carries lies off the pivot, by growing steps."""
    if r.shaft is None:
        return
    tree = results.tree
    parts = {part.id: part for part in results.figure.parts}
    off = carried_centre(tree, place(tree, rest_pose(tree)[:, None]))[r.index, :, 0] - tree.pivot[r.index]
    carried = [b for b in tree.bodies if b.movable and b.id in parts and tree.rides[r.index][tree.bodies.index(b)]]
    for body in sorted(carried, key=lambda b: -b.mass)[:2]:
        part = parts[body.id]
        k = max(range(3), key=lambda i: abs(float(off[i])))
        if abs(float(off[k])) < 1e-3:
            return
        for mm in (5.0, 10.0, 20.0, 35.0, 60.0):
            at = list(part.at_mm)
            at[k] = round(at[k] - math.copysign(mm, float(off[k])), 1)
            names = (("back", "forward"), ("to its right", "to its left"), ("down", "up"))[k]
            way = names[0] if off[k] > 0 else names[1]
            edit = Edit(f"move {part.name} by {mm:g} mm", (Set(("parts", part.id, "at_mm"), (at[0], at[1], at[2])),))
            yield Proposal(
                edit, Sentence(f"Move {part.name} {{0}} {way}", (Quantity(mm / 1e3, "length"),)), f"middle {part.id}"
            )
