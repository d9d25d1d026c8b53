"""What is worn: what it asks of neck, shoulders and skin beside published guidance, and where its face looks as the wearer bends.

It never says that anything is safe: guidance ends somewhere, and people differ.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import WORN, Results, not_weighed, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.model.worn import WAYS
from karakuri.sizing.wearer import Asked
from karakuri.sizing.worn import Stance, WayFound, best_pitch
from karakuri.units import Kind, Quantity

WEARER, LOOKS = Ref("wearer"), Ref("wearer", "face")
FACE = finding_id("worn", "face")
STOP = "Stop at pain, numbness or dizziness."
OFFERED = {
    "head": "On the head",
    "shoulders": "On the shoulders, a helmet turns it",
    "rods": "On rods from a harness",
    "gimbal": "In a gimbal on a support in front",
}
KINDS: dict[str, Kind] = {
    "neck": "torque",
    "condyles": "torque",
    "mass": "mass",
    "pads": "contact",
    "turning": "torque",
}


def find(results: Results) -> Iterable[Finding]:
    found = results[WORN]
    if results.figure.base.held != "worn":
        return
    if results.tree.unknown:
        unknown = tuple(results.figure.part(ident) for ident, _ in results.tree.unknown)
        yield not_weighed("worn", "worn", WEARER, "What it asks of its wearer", unknown)
    elif found:
        yield _carried(results, found[0])
    if found:
        yield from _face(results, found[0])


def _carried(results: Results, found: WayFound) -> Finding:
    worst = found.worst
    wish = wished(results)
    verdict, kind = verdict_of(worst.reserve, wish), KINDS[worst.name]
    low = min(found.asked, key=lambda each: each.interval[0])
    other = {verdict_of(low.interval[0], wish)} - {verdict}
    could = {"fails": "It could fail", "tight": "It could be tight", "holds": "It could hold"}
    decides = f"{could[other.pop()]}: {low.guess} decides, a guess or different from one person to the next." if other else ""  # fmt: skip
    demand, capacity = Quantity(worst.need, kind, rounding="up"), Quantity(worst.can, kind, rounding="down")
    return Finding(
        "worn",
        "worn",
        WEARER,
        verdict,
        _sentence(results, found, worst, demand, capacity),
        reserve=worst.reserve if math.isfinite(worst.reserve) else None,
        measure=None if math.isfinite(worst.reserve) else Sentence("asks nothing"),
        demand=demand,
        capacity=capacity,
        derivations=tuple(_derivations(found, worst)),
        decides=Sentence(decides) if decides else None,
    )


def _sentence(results: Results, found: WayFound, worst: Asked, demand: Quantity, capacity: Quantity) -> Sentence:
    stands = found.stances[worst.posture]
    where = results.figure.postures[worst.posture].name
    quantities: tuple[Quantity, ...] = (demand, capacity)
    if worst.name == "mass":
        text = "{0} rest on the head; guidance for wearing such a mass ends at {1}."
    elif worst.name == "condyles":
        text = "Upright, its weight tips the head with {0} at the joint under the skull; guidance ends at {1}."
    elif worst.name == "pads":
        on = "the head" if found.by == "head" else "the shoulders"
        text = f"Where it touches {on} the skin bears {{0}}, {where}; for long it should bear {{1}}."
        if stands.strap > 0.05 * found.weight:
            text += " It tips off its pads there: a strap must hold {2}."
            quantities = (*quantities, Quantity(stands.strap, "force", rounding="up"))
    elif worst.name == "turning":
        text = "A turn of the head takes {0} to start, and again to stop; such a neck gives {1}."
    else:
        alone = abs(stands.own) >= 0.999 * abs(worst.need)
        what = "its wearer’s own head, and nothing else" if alone else f"the figure by {WAYS[found.by]} and the head"
        lasts = f"{stands.lasts / 60:g} min" if stands.lasts >= 120 else f"{stands.lasts:g} s"
        text = f"In posture {where} the neck holds {what}: {{0}}; for {lasts} such a neck holds {{1}}."
    return Sentence(f"{text} An estimate. {STOP}", quantities)


def _derivations(found: WayFound, worst: Asked) -> Iterable[Derivation]:
    stands = found.stances[worst.posture]
    if worst.name == "neck" and found.by == "head":
        lever = (stands.moment - stands.own) / found.weight
        yield Derivation(
            "About the foot of the neck",
            "{0} × {1} ahead + {2} the head itself",
            (Quantity(found.weight, "force"), Quantity(lever, "length"), Quantity(stands.own, "torque")),
            Quantity(stands.moment, "torque"),
        )
    if worst.name == "condyles":
        yield Derivation("Its weight, ahead", "{0} × {1}", (Quantity(found.weight, "force"), Quantity(worst.need / found.weight, "length")), Quantity(worst.need, "torque", rounding="up"))  # fmt: skip
    if worst.name == "turning":
        rubs = worst.need - found.inertia * found.acceleration
        yield Derivation("To turn it", "{0} × {1} + {2} rubbing", (Quantity(found.inertia, "inertia"), Quantity(found.acceleration, "acceleration"), Quantity(rubs, "torque")), Quantity(worst.need, "torque", rounding="up"))  # fmt: skip
    yield from _minutes(stands)


def _minutes(stands: Stance) -> Iterable[Derivation]:
    if stands.share > 0 and math.isfinite(stands.share):
        strong = abs(stands.moment) / stands.share
        yield Derivation("Of the neck’s strength", "{0} ÷ {1}", (Quantity(abs(stands.moment), "torque"), Quantity(strong, "torque")), Quantity(stands.share, "percent", rounding="up"))  # fmt: skip


def _face(results: Results, found: WayFound) -> Iterable[Finding]:
    some = [each for each in found.stances if each.faces]
    if not some:
        return
    worst = max(some, key=lambda each: abs(each.face))
    band = math.radians(results.figure.assumptions.face_band_deg)
    away = abs(worst.face)
    reserve = band / away if away > 1e-9 else math.inf
    name = results.figure.postures[worst.posture].name
    way = "up" if worst.face > 0 else "down"
    text = f"Its face looks {{0}} {way}, {name}; {{1}} from straight ahead is not seen."
    if reserve < 1 and worst.face < 0:
        text = f"Its face looks at the floor, {name}: {{0}} down; {{1}} from straight ahead is not seen."
    yield Finding(
        FACE,
        "worn",
        LOOKS,
        verdict_of(reserve, 1.0),
        Sentence(text, (Quantity(away, "angle", rounding="up"), Quantity(band, "angle", rounding="down"))),
        reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("straight ahead"),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    found = results[WORN]
    if finding.verdict in ("holds", "not yet judged") or not found:
        return
    worn, own = results.figure.base.worn, found[0]
    if finding.id == FACE:
        pitch = best_pitch(own, math.radians(worn.pitch_deg))
        if pitch is not None and abs(math.degrees(pitch) - worn.pitch_deg) > 0.5:
            yield _pitched(round(math.degrees(pitch)))
        return
    worst = own.worst
    if own.by == "head" and worst.name in ("condyles", "neck", "pads"):
        yield from _further_back(results, own)
    if worst.name == "pads":
        for share in (1.5, 2.0, 3.0):
            area = round((worn.contact_mm2 or _contact(own, worst)) * share, -1)
            yield Proposal(Edit("what touches", (Set(("base", "worn", "contact_mm2"), area),)), Sentence("{0} that really touch", (Quantity(area / 1e6, "area"),)), "touches")  # fmt: skip
    if worst.name == "turning":
        for longer in (1.25, 1.5, 2.0, 3.0):
            time = round(worn.turn_s * longer, 1)
            yield Proposal(Edit("time of a turn", (Set(("base", "worn", "turn_s"), time),)), Sentence("Turn in {0}", (Quantity(time, "time"),)), "slower")  # fmt: skip
    for by in WAYS:
        if by != own.by:
            yield Proposal(Edit("what carries it", (Set(("base", "worn", "by"), by),)), Sentence(OFFERED[by]), f"by {by}")  # fmt: skip


def _pitched(degrees: float) -> Proposal:
    way = "up" if degrees >= 0 else "down"
    edit = Edit("pitch of the mount", (Set(("base", "worn", "pitch_deg"), float(degrees)),))
    return Proposal(edit, Sentence(f"Mount it pitched {{0}} {way}", (Quantity(math.radians(abs(degrees)), "angle"),)), "pitch")  # fmt: skip


def _further_back(results: Results, own: WayFound) -> Iterable[Proposal]:
    """Sit it so that its weight lies over the joint under the skull, or as far as half the way."""
    lever = next(each.need for each in own.asked if each.name == "condyles") / own.weight
    for share in (0.5, 1.0):
        by = round(lever * share * 1e3)
        if 3 <= by <= 200:
            x, y, z = (round(float(v) * 1e3, 1) for v in own.ears)
            edit = Edit("where the ears are", (Set(("base", "worn", "ears_mm"), (x + by * own.tips, y, z)),))
            words = "back" if own.tips > 0 else "ahead"
            yield Proposal(edit, Sentence(f"Sit it {{0}} further {words}", (Quantity(by / 1e3, "length"),)), "back")


def _contact(own: WayFound, worst: Asked) -> float:
    return own.contact * 1e6
