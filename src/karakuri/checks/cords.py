"""A cord that is pulled: how far it opens what it turns, what that asks of the hand, and whether it shuts again."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import CORDS, Results, angle, angle_words, not_weighed, posture_words, torque, wished
from karakuri.model.edit import Add, Edit, Set
from karakuri.model.element import Cord, Torsion
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.sizing.cord import RUBS, CordFound
from karakuri.units import Quantity

RATES_NMM_PER_DEG = (0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
NECK_M, NEAR_NECK_M, TOUCHES_M = 0.06, 0.05, 1e-3
"""Half of a neck's thickness, from memory; a cord nearer to it than this wants a break-away: common practice, no source."""
WOUND_DEG = 30.0
"""A return spring is set so that it is wound by so much where the joint is shut: common practice, no source."""


def find(results: Results) -> Iterable[Finding]:
    for found in results[CORDS] or ():
        cord = results.figure.elements[found.i]
        assert isinstance(cord, Cord)
        yield _one(results, cord, found)


def _one(results: Results, cord: Cord, found: CordFound) -> Finding:
    joint = results.figure.joint(results.tree.ids[found.j])
    ident, about = finding_id("cords", cord.id), Ref("element", cord.id)
    unknown = results.weightless((joint.id,))
    if unknown:
        return not_weighed(ident, "cords", about, cord.name, unknown)
    derivations = tuple(_derivations(cord, found))
    if found.dead_at is None and (cord.pulled_mm is None or cord.pulled_N is None):
        text = f"{cord.name}: to open {joint.name} all the way takes {{0}} of pull and {{1}}; how far and how hard it is pulled is not known."
        actions = (Action(f"Measure who pulls {cord.name}", about, "pull"),)
        return Finding(
            ident, "cords", about, "not yet judged", Sentence(text, _asked(found)), measure=Sentence("the pull is not known"),
            derivations=derivations, actions=actions,
        )  # fmt: skip
    reserves = _reserves(cord, found)
    which = min(reserves, key=lambda name: reserves[name])
    reserve = max(reserves[which], 0.0)
    verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    highest = cord.pulled_N / found.high if cord.pulled_N and found.high > 1e-9 else math.inf
    other = {verdict_of(min(highest, reserve), wished(results))} - {verdict}
    decides = (
        "What it rubs with could make it " + other.pop() + ": two pulls with a scale would decide it." if other else ""
    )
    if not decides and found.assumed and verdict != "fails":
        decides = f"What {joint.name} rubs in is not said; a plain print on a 6 mm pin is assumed."
    sentence = _sentence(results, cord, joint, found, which, reserve)
    near = near_neck(found)
    if near is not None:
        comes = "may touch" if near < TOUCHES_M else f"comes within {{{len(sentence.quantities)}}} of"
        text = f"{sentence.text} As it moves it {comes} its wearer’s neck: give it a break-away that lets go at a light pull."
        sentence = Sentence(text, (*sentence.quantities, Quantity(near, "length", rounding="down")))
    return Finding(
        ident, "cords", about, verdict, sentence,
        reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("hardly any pull"),
        derivations=derivations, decides=Sentence(decides) if decides else None,
    )  # fmt: skip


def near_neck(found: CordFound) -> float | None:
    """How near a cord of a worn figure comes to its wearer's neck, m from its skin, however it moves; None where that is far, or nobody wears it."""
    if found.near is None or found.near - NECK_M >= NEAR_NECK_M:
        return None
    return max(found.near - NECK_M, 0.0)


def _asked(found: CordFound) -> tuple[Quantity, Quantity]:
    return Quantity(found.most_travel, "length", rounding="up"), Quantity(
        min(found.most_force, 1e6), "force", rounding="up"
    )


def _reserves(cord: Cord, found: CordFound) -> dict[str, float]:
    """What there is ÷ what is asked, of each that may fail."""
    force = found.most_force
    return {
        "dead": 0.0 if found.dead_at is not None else math.inf,
        "travel": cord.pulled_mm / 1e3 / found.most_travel if cord.pulled_mm is not None and found.most_travel > 1e-9 else math.inf,
        "force": cord.pulled_N / force if cord.pulled_N is not None and 1e-9 < force < math.inf else math.inf,
        "breaks": cord.bears_N / force if cord.bears_N is not None and 1e-9 < force < math.inf else math.inf,
        "shuts": found.shuts,
    }  # fmt: skip


def _sentence(results: Results, cord: Cord, joint: Joint, found: CordFound, which: str, reserve: float) -> Sentence:
    name = cord.name
    if which == "dead":
        at = found.dead_at or 0.0
        where = angle_words(joint, at)
        return Sentence(f"{name} goes dead on the way: at {where.removeprefix('at ')} it pulls along {joint.name} and no longer turns it.", (angle(at),))  # fmt: skip
    if which == "shuts" and reserve < 1:
        back = found.back
        assert back is not None
        posture = posture_words(results, back.posture)
        rubs = torque(found.drag.value if found.drag else 0.0, "up")
        text = f"{joint.name} does not shut by itself{posture} when {name} is let go: {{0}} bring it back where that is least, {{1}} rub."
        return Sentence(text, (torque(max(back.torque, 0.0), "down"), rubs))
    if which == "breaks" and reserve < 1:
        return Sentence(f"{name} breaks first: {{0}} on it, and it bears {{1}}.", (_asked(found)[1], Quantity(cord.bears_N or 0.0, "force", rounding="down")))  # fmt: skip
    travel, force = _asked(found)
    share = found.opens((cord.pulled_mm or 0.0) / 1e3, cord.pulled_N or 0.0)
    opened = angle(share * (float(found.angles[-1]) - float(found.angles[0])))
    whole = angle(float(found.angles[-1]) - float(found.angles[0]))
    given = (
        Quantity((cord.pulled_mm or 0.0) / 1e3, "length", rounding="down"),
        Quantity(cord.pulled_N or 0.0, "force", rounding="down"),
    )
    if share < 1:
        lacks = "it moves too little" if which == "travel" else "it is pulled too softly"
        text = f"{name} opens {joint.name} by {{0}} of {{1}}: {lacks}. All the way takes {{2}} and {{3}}; it gets {{4}} and {{5}}."
        return Sentence(text, (opened, whole, travel, force, *given))
    slack = ", slack up to {4} of it" if found.own > 1e-3 else ""
    text = f"{name} opens {joint.name} all its {{1}} with {{2}} of pull and {{3}}{slack}, and it shuts again."
    return Sentence(text, (opened, whole, travel, force, angle(found.own)))


def _derivations(cord: Cord, found: CordFound) -> Iterable[Derivation]:
    k = int(found.force.argmax())
    arm = float(found.arm.min())
    if arm > 0:
        yield Derivation(
            "Arm it pulls with, where least",
            "{0}",
            (Quantity(arm, "length"),),
            Quantity(arm, "length", rounding="down"),
        )
    wrap, share = float(found.wrap[k]), RUBS[cord.guided]
    if wrap > 1e-3:
        lost = math.exp(share * wrap)
        yield Derivation(
            "Bends at its guides and in tubes, in all", "{0}", (Quantity(wrap, "angle"),), Quantity(wrap, "angle")
        )
        yield Derivation(
            "so that the hand pulls harder, times",
            "{0}",
            (Quantity(lost, "ratio"),),
            Quantity(lost, "ratio", rounding="up"),
        )
    if found.own > 1e-3:
        yield Derivation("Opens by itself up to", "{0}", (angle(found.own),), angle(found.own))


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    cord = next(each for each in results.figure.elements if each.id == finding.subject.id)
    found = next((each for each in results[CORDS] or () if results.figure.elements[each.i].id == cord.id), None)
    if finding.verdict in ("holds", "not yet judged") or not isinstance(cord, Cord) or found is None:
        return
    path = ("elements", cord.id)
    places = {
        "none": "no moving pulley",
        "jaw": "a moving pulley on what it turns: half the force",
        "hand": "a moving pulley on the puller’s side: twice the movement",
    }
    for moving in ("hand", "jaw", "none"):
        if moving != cord.moving:
            words = places[moving]
            yield Proposal(
                Edit(f"{words} for {cord.name}"[:120], (Set((*path, "moving"), moving),)),
                Sentence(f"{words[0].upper()}{words[1:]}"),
                f"pulley {moving}",
            )
    if cord.guided != "pulley" and (len(cord.over) or cord.bends_deg):
        yield Proposal(
            Edit(f"pulleys for {cord.name}", (Set((*path, "guided"), "pulley"), Set((*path, "bends_deg"), 0.0))),
            Sentence("Lead it over pulleys"),
            "guides",
        )
    yield from _return_spring(results, found)


def _return_spring(results: Results, found: CordFound) -> Iterable[Proposal]:
    """The weakest of common rates that shuts it, wound a little where it is shut."""
    joint = results.figure.joint(results.tree.ids[found.j])
    way = math.copysign(1.0, float(found.angles[-1] - found.angles[0]))
    for rate in RATES_NMM_PER_DEG:
        spring = Torsion(
            id=new_id(results.figure, f"{joint.id}_return"), name=f"return spring of {joint.name}"[:80], joint=joint.id,
            free_deg=round(math.degrees(float(found.angles[0])) - way * WOUND_DEG, 1), rate_Nm_per_deg=rate / 1e3, origin="typical",
        )  # fmt: skip
        yield Proposal(
            Edit(f"a return spring on {joint.name}", (Add("elements", spring),)),
            Sentence("Return spring {0}", (Quantity(rate / 1e3 * 180 / math.pi, "twist"),)),
            "return spring",
        )
