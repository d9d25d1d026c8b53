"""Tilts: what the score and wanted moves ask of what carries each joint, across its axis; told where that makes another verdict than standing anywhere does."""

from __future__ import annotations

from collections.abc import Iterable
from functools import reduce

from karakuri.catalogue import support_name
from karakuri.checks.contract import SWINGS, TILTS, JointResults, Results, posture_words, wished
from karakuri.checks.phrases import as_written, by_what, calmer, when
from karakuri.checks.shaft import carried, carriers, decides
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.shaft import Shaft
from karakuri.sizing.tilted import Most, worse
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for r in results.joints:
        over = _over(r, results)
        if over is None or r.shaft is None or r.missing or over[0].reserve >= r.shaft.reserve:
            continue
        if _ranks(over[0], results) > _ranks(r.shaft, results):
            yield _one(r, *over, results)


def _ranks(s: Shaft, results: Results) -> tuple[int, int]:
    """How bad it is told, and how bad it may be."""
    order = ("holds", "tight", "fails")
    worst, nominal = (order.index(verdict_of(each, wished(results))) for each in (s.interval[0], s.reserve))
    return nominal, worst


def _over(r: JointResults, results: Results) -> tuple[Shaft, Most] | None:
    """What carries a joint, with what the score or a wanted move asks of it at most, and what speaks of that; None where nothing is known of it."""
    each = [found[r.joint.id] for found in (results[TILTS], results[SWINGS]) if found and r.joint.id in found]
    if not each or r.shaft is None:
        return None
    found = reduce(worse, each)
    asked = r.shaft.asking(found.moment.value, found.side.value)
    return asked, found.side if asked.by_side else found.moment


def _one(r: JointResults, s: Shaft, most: Most, results: Results) -> Finding:
    low, high = s.interval
    what = support_name(r.joint.support.kind)
    carries, (demand, capacity) = carried(s, 1)
    text = f"{r.joint.name}: {by_what(results, most.of)} throws about what it carries{posture_words(results, most.posture)}. {what[0].upper()}{what[1:]} {carries}.{as_written(results, most.at_s, of=most.of)}"
    verdict = verdict_of(s.reserve, wished(results))
    still = Quantity(min(most.still, most.value), demand.kind)
    thrown = Derivation("More than standing in that pose", "{0} − {1}", (demand, still), Quantity(max(most.value - most.still, 0.0), demand.kind, rounding="up"))  # fmt: skip
    return Finding(
        finding_id("tilts", r.joint.id), "tilts", Ref("joint", r.joint.id), verdict, Sentence(text, (when(most.at_s), demand, capacity)),
        reserve=s.reserve, reserve_low=low, reserve_high=high, demand=demand, capacity=capacity, decides=decides(r, s, results), derivations=(thrown,), at_s=None if most.of else most.at_s,
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    over = _over(r, results)
    if finding.verdict == "holds" or over is None:
        return
    asked, most = over
    yield from carriers(r, asked, results)
    still = min(most.still / most.value, 1.0) if most.value > 0 else 0.0
    yield from calmer(asked.reserve, results, most.of, still)
