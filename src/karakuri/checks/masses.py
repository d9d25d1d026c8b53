"""Masses that are missing, or only guessed where it decides; and which three to weigh next."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from karakuri.checks.contract import JointResults, Results, torque, verdict_of_interval
from karakuri.model.finding import Action, Derivation, Finding, Sentence, finding_id
from karakuri.model.ref import Ref
from karakuri.units import Quantity


@dataclass(frozen=True)
class Weighing:
    """A part worth weighing: what weighing it takes off a joint's need, N·m, and the product that says so."""

    body: Ref
    name: str
    takes_off: float
    derivation: Derivation


def find(results: Results) -> Iterable[Finding]:
    for ident, _ in results.tree.unknown:
        part = results.figure.part(ident)
        yield Finding(
            finding_id("mass", ident),
            "mass",
            Ref("part", ident),
            "not yet judged",
            Sentence(f"{part.name} has no mass yet; nothing that carries it can be judged."),
            measure=Sentence(f"mass of {part.name} unknown"),
            actions=(Action("Write the mass", Ref("part", ident), "mass"),),
        )
    for r in results.joints:
        if r.can is None or r.missing or not verdict_of_interval(r, results):
            continue
        weigh = weigh_next(r, results)
        if not weigh:
            continue
        off = r.hold.high - r.hold.need
        if off <= 0:
            continue
        names = ", ".join(w.name for w in weigh)
        yield Finding(
            finding_id("weigh", r.joint.id),
            "weigh",
            weigh[0].body,
            "tight",
            Sentence(
                f"{r.joint.name}: guessed masses decide it, its need is ± {{0}} at worst, ± {{1}} likely. Weigh {names} next.",
                (torque(off, "up"), torque(r.hold.likely, "up")),
            ),
            measure=Sentence("± {0}", (torque(off, "up"),)),
            derivations=tuple(w.derivation for w in weigh),
            actions=(Action(f"Weigh {weigh[0].name}", weigh[0].body, "mass"),),
        )


def weigh_next(r: JointResults, results: Results, most: int = 3) -> tuple[Weighing, ...]:
    """The parts, not weighed yet, whose weighing takes most off the uncertainty of a joint's worst hold."""
    out: list[Weighing] = []
    size = float((results.gravities[r.hold.worst.posture] ** 2).sum() ** 0.5)
    for i, _, bound in r.hold.shares:
        body = results.tree.bodies[i]
        if body.origin == "weighed" or bound <= 1e-9 or body.bound <= 0 or len(out) == most:
            continue
        arm = bound / (body.bound * size)
        out.append(
            Weighing(
                body.ref,
                body.name,
                bound,
                Derivation(
                    body.name,
                    "{0} × {1} × {2}",
                    (Quantity(body.bound, "mass"), Quantity(size, "gravity"), Quantity(arm, "length")),
                    torque(bound, "up"),
                ),
            )
        )
    return tuple(out)
