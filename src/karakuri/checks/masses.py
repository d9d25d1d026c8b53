"""Masses that are missing; masses and forces that are only guessed where it decides; and which three to weigh or measure next."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import JointResults, Results, torque, verdict_of_interval
from karakuri.frozen import Frozen
from karakuri.model.finding import Action, Derivation, Finding, Sentence, finding_id
from karakuri.model.ref import Ref
from karakuri.units import Quantity

FIELD = {"part": "mass", "drive": "mass", "element": "force"}
"""Which field of a source's card is where its uncertainty is."""


class Weighing(Frozen):
    """What is worth weighing (an element: measuring): what that takes off a joint's need, N·m, and the product that says so."""

    source: Ref
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
        guessed = "guessed masses decide it" if not results.tree.loaded[r.index] else "what is guessed decides it"
        yield Finding(
            finding_id("weigh", r.joint.id),
            "weigh",
            weigh[0].source,
            "tight",
            Sentence(
                f"{r.joint.name}: {guessed}, its need is ± {{0}} at worst, ± {{1}} likely. {to_do(weigh)} next.",
                (torque(off, "up"), torque(r.hold.likely, "up")),
            ),
            measure=Sentence("± {0}", (torque(off, "up"),)),
            derivations=tuple(w.derivation for w in weigh),
            actions=(Action(to_do(weigh[:1]), weigh[0].source, FIELD[weigh[0].source.kind]),),
        )


def to_do(found: tuple[Weighing, ...]) -> str:
    """'Weigh shell, beak and measure spring', for what is worth it."""
    parts = [w.name for w in found if w.source.kind != "element"]
    elements = [w.name for w in found if w.source.kind == "element"]
    text = " and ".join(
        f"{verb} {', '.join(names)}" for verb, names in (("weigh", parts), ("measure", elements)) if names
    )
    return text[:1].upper() + text[1:]


def weigh_next(r: JointResults, results: Results, most: int = 3) -> tuple[Weighing, ...]:
    """What was not weighed or measured yet and takes most off the uncertainty of a joint's worst hold."""
    out: list[Weighing] = []
    size = float((results.gravities[r.hold.worst.posture] ** 2).sum() ** 0.5)
    off, bodies = results.tree.amount_bounds, len(results.tree.bodies)
    for i, _, bound in r.hold.shares:
        source = results.tree.sources[i]
        if source.origin == "weighed" or bound <= 1e-9 or off[i] <= 0 or len(out) == most:
            continue
        arm = bound / float(off[i])
        if i < bodies:
            parts = (Quantity(float(off[i]), "mass"), Quantity(size, "gravity"), Quantity(arm / size, "length"))
            product = Derivation(source.name, "{0} × {1} × {2}", parts, torque(bound, "up"))
        else:
            share = (Quantity(float(off[i]), "ratio"), torque(arm))
            product = Derivation(source.name, "{0} × {1}", share, torque(bound, "up"))
        out.append(Weighing(source.ref, source.name, bound, product))
    return tuple(out)


def masses_decide(r: JointResults, results: Results, other: Iterable[str]) -> Sentence:
    """That masses at their bounds make another verdict of a joint, and which to weigh next."""
    what = "masses and forces" if results.tree.loaded[r.index] else "masses"
    text = f"If {what} are off by as much as they may be, it could come out as {' or '.join(sorted(other))}"
    words = to_do(weigh_next(r, results))
    return Sentence(f"{text}: {words[0].lower()}{words[1:]}." if words else f"{text}.")
