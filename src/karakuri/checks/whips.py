"""Whips: what the score, or a wanted move, does to a rod by throwing it about; told where it asks more than the bump that is stood anyway."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import FLICKS, RODS, WHIPS, Results, posture_words, wished
from karakuri.checks.phrases import as_written, by_what, calmer, when
from karakuri.checks.rods import BREAKS, at_foot, firmer
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.rods import EULER_FACTOR, RodFound
from karakuri.sizing.whipped import Whipped, worse
from karakuri.units import Quantity

RINGS_S = 2.0
"""So long before, what moved may still be felt."""


def find(results: Results) -> Iterable[Finding]:
    standing = {each.i: each for each in results[RODS] or ()}
    for found in worst_of(results):
        rod = results.figure.rods[found.i]
        if results.weightless(rod.carries) or (found.i in standing and found.low >= _stands(results, standing[found.i])):  # fmt: skip
            continue
        more = standing[found.i].more if found.i in standing else 1.0
        yield Finding(
            finding_id("whips", rod.id), "whips", Ref("rod", rod.id), verdict_of(found.reserve, wished(results)), _sentence(results, found),
            reserve=found.reserve, reserve_low=found.low / more, reserve_high=found.reserve, at_s=None if found.of else found.at_s, decides=_decides(found, more, results), derivations=(at_foot(found.beam, found.bent),),
        )  # fmt: skip


def _decides(found: Whipped, more: float, results: Results) -> Sentence | None:
    """Where how fast it sways, or what it carries at its highest, so many times as much, could make another verdict."""
    verdict = verdict_of(found.reserve, wished(results))
    swayed, loaded = (verdict_of(each, wished(results)) for each in (found.low, found.low / more))
    if swayed != verdict:
        return Sentence(f"How fast it sways is an estimate: a little slower or faster it could come out as {swayed}. Pluck it and count.")  # fmt: skip
    if loaded != verdict:
        return Sentence(f"What it carries, at its highest, could make it {loaded}: weigh it.")
    return None


def worst_of(results: Results) -> list[Whipped]:
    """What throws each rod about most, by its number: the score, or a wanted move."""
    out: dict[int, Whipped] = {}
    for one in (*(results[WHIPS] or ()), *(results[FLICKS] or ())):
        out[one.i] = worse(out[one.i], one) if one.i in out else one
    return list(out.values())


def _stands(results: Results, found: RodFound) -> float:
    """The least it has standing, with a bump: how far it sags is no matter of bearing it."""
    each = found.reserves(results.figure.assumptions.sags_share)
    return min(value for name, value in each.items() if name != "sags")


def _sentence(results: Results, found: Whipped) -> Sentence:
    rod, bent = results.figure.rods[found.i], found.bent
    fails = found.reserve < 1
    if found.what == "buckles":
        has = (Quantity(bent.pressed, "force", rounding="up"), Quantity(found.beam.euler / EULER_FACTOR, "force", rounding="down"))  # fmt: skip
        does = "it may buckle, {2} press along it, and {3}" if fails else "{2} press along it, and {3}"
        does += ", a third of what buckles it, should at most"
    elif found.what == "slips":
        has = (Quantity(bent.pulled, "force", rounding="up"), Quantity(bent.gripped, "force", rounding="down"))
        does = f"{{2}} draw at it, {{3}} hold it{': it may slip out of its socket' if fails else ''}"
    else:
        has = (Quantity(bent.stress, "pressure", rounding="up"), Quantity(found.beam.bears, "pressure", rounding="down"))  # fmt: skip
        does = ("it breaks at its foot" if rod.stuff in BREAKS else "it bends for good at its foot") if fails else "it bears that at its foot"  # fmt: skip
        does += ", {2} of {3}"
    times = Quantity(found.hard / results.figure.assumptions.gravity_mps2, "ratio", rounding="up")
    text = f"{rod.name}: {by_what(results, found.of)} throws it, swinging at its own pace of {{4}}, with {{1}} times its weight{posture_words(results, found.posture)}: {does}.{as_written(results, found.at_s, RINGS_S, found.of)}"
    return Sentence(text, (when(found.at_s), times, *has, Quantity(found.sways, "frequency")))


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds" or finding.reserve is None:
        return
    yield from firmer(next(each for each in results.figure.rods if each.id == finding.subject.id))
    found = next(each for each in worst_of(results) if results.figure.rods[each.i].id == finding.subject.id)
    yield from calmer(finding.reserve, results, found.of)
