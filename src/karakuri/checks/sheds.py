"""Sheds: what the score, or a wanted move, throws off that is held on by magnets, hook and loop or elastic; told where it asks more than the bump that is stood anyway."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import FASTENED, FLINGS, SHEDS, Results, posture_words, wished
from karakuri.checks.fastenings import propose as firmer
from karakuri.checks.phrases import as_written, by_what, calmer, when
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.fastened import Thrown
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    bumped = {each.i: each for each in results[FASTENED] or ()}
    for found in worst_of(results):
        it = results.figure.fastenings[found.i]
        if results.weightless(it.carries) or (found.i in bumped and bumped[found.i].used >= found.used):
            continue
        does = "lets go of" if found.reserve < 1 else "holds"
        times = Quantity(found.hard / results.figure.assumptions.gravity_mps2, "ratio", rounding="up")
        text = f"{by_what(results, found.of, 'At')} throws {{1}} about with {{2}} times its weight{posture_words(results, found.posture)}: {it.name} {does} it, that is {{3}} of what it can.{as_written(results, found.at_s, of=found.of)}"
        used = Quantity(found.used, "percent", rounding="up")
        yield Finding(
            finding_id("sheds", it.id), "sheds", Ref("fastening", it.id), verdict_of(found.reserve, wished(results)),
            Sentence(text, (when(found.at_s), Quantity(found.mass, "mass"), times, used)), reserve=found.reserve, at_s=None if found.of else found.at_s,
        )  # fmt: skip


def worst_of(results: Results) -> list[Thrown]:
    """What asks most of each thing that holds something on, by its number: the score, or a wanted move."""
    out: dict[int, Thrown] = {}
    for one in (*(results[SHEDS] or ()), *(results[FLINGS] or ())):
        if one.i not in out or one.used > out[one.i].used:
            out[one.i] = one
    return list(out.values())


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds" or finding.reserve is None:
        return
    yield from firmer(finding, results)
    found = next(one for one in worst_of(results) if results.figure.fastenings[one.i].id == finding.subject.id)
    yield from calmer(finding.reserve, results, found.of)
