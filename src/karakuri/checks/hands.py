"""A hand at a lever: how hard it pushes and pulls, how far it goes; a longer lever or a counterweight."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.catalogue import hand_gives_N
from karakuri.checks.contract import HANDS, Results, angle_words, not_weighed, torque, wished
from karakuri.checks.counterweight import balanced
from karakuri.model.element import Hand
from karakuri.model.element_edits import set_element
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.hand import HandFound
from karakuri.units import Quantity

FARTHEST_MM = 600.0
"""A hand goes so far without a step: common practice, no source."""
LEVERS_MM = (200.0, 300.0, 400.0, 500.0, 600.0, 800.0, 1000.0, 1200.0, 1500.0)


def find(results: Results) -> Iterable[Finding]:
    for found in results[HANDS] or ():
        hand = results.figure.elements[found.i]
        assert isinstance(hand, Hand)
        yield _one(results, hand, found)


def _one(results: Results, hand: Hand, found: HandFound) -> Finding:
    joint = results.figure.joint(hand.joint)
    ident, about = finding_id("hands", hand.id), Ref("element", hand.id)
    unknown = results.weightless((joint.id,))
    if unknown:
        return not_weighed(ident, "hands", about, hand.name, unknown)
    most, at = found.most
    guide, frequent = hand_gives_N()
    where = angle_words(joint, at).replace("{0}", "{2}")
    quantities = (
        Quantity(most, "force", rounding="up"),
        Quantity(found.way, "length"),
        Quantity(abs(at), "angle"),
        Quantity(guide * frequent, "force", rounding="down"),
    )
    derivation = Derivation(
        "Where it is hardest", "({0} held + {1} rubbed) ÷ {2}", (torque(most * found.gain - found.rubs), torque(found.rubs), Quantity(found.gain, "length")), quantities[0],
    )  # fmt: skip
    if hand.gives_N is None:
        text = f"{hand.name}: {{0}} are needed at its grip {where}, {{1}} of way; how hard whoever holds it pulls with ease is not known. Guidance is {{3}}, often and without a rest for the body."
        return Finding(
            ident, "hands", about, "not yet judged", Sentence(text, quantities), measure=Sentence("the hand is not known"), derivations=(derivation,),
            actions=(Action(f"Measure who holds {hand.name}", about, "grip"),),
        )  # fmt: skip
    gives = hand.gives_N * hand.count
    force = gives / most if most > 1e-9 else math.inf
    far = FARTHEST_MM / 1e3 / found.way if found.way > 1e-9 else math.inf
    reserve = min(force, far)
    verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    capacity = Quantity(gives, "force", rounding="down")
    if far < force:
        does = "is moved" if far >= 1 else "goes farther than a hand without a step"
        text = f"{hand.name} {does}: its grip goes {{1}}, {{5}} are a hand’s way; {{0}} at most."
        demand, has = quantities[1], Quantity(FARTHEST_MM / 1e3, "length")
    else:
        does = "is moved with ease" if force >= 1 else "is too heavy for the hand"
        text = f"{hand.name} {does}: {{0}} at its grip {where}, {{4}} are given, {{1}} of way."
        demand, has = quantities[0], capacity
    return Finding(
        ident, "hands", about, verdict, Sentence(text, (*quantities, capacity, Quantity(FARTHEST_MM / 1e3, "length"))), reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("hardly any force"), demand=demand, capacity=has, derivations=(derivation,),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    found = next((f for f in results[HANDS] or () if results.figure.elements[f.i].id == finding.subject.id), None)
    if found is None or finding.verdict == "holds":
        return
    hand = results.figure.elements[found.i]
    assert isinstance(hand, Hand)
    for arm in LEVERS_MM:
        if arm > hand.arm_mm:
            label = Sentence("Grip {0} from the pivot", (Quantity(arm / 1e3, "length"),))
            yield Proposal(set_element(hand, "a longer lever", arm_mm=arm), label, "lever")
    yield from balanced(results, results.figure.joint(hand.joint), found.off, found.reach)
