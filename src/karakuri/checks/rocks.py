"""Rocks: what the score, or a wanted move, throws about, against what keeps a free-standing figure on its foot."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import ROCKS, TOPPLES, Results, posture_words, wished
from karakuri.checks.phrases import as_written, by_what, calmer, when
from karakuri.checks.tipping import wider
from karakuri.mechanics.rocking import Rocking
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import FIGURE
from karakuri.units import Quantity

OFF_M = 1.0
"""So far, or more, is no shift any more: next to nothing presses it down."""


def find(results: Results) -> Iterable[Finding]:
    found = worst_of(results)
    if found is None or results.tree.unknown or results.figure.base.held != "stands":
        return
    may, shifts = (
        Quantity(found.may, "length", rounding="down"),
        Quantity(min(found.shifts, OFF_M), "length", rounding="up"),
    )
    where = posture_words(results, found.posture)
    who, edge = by_what(results, found.of, "At"), f"the {_edge(found)} of its foot"
    if found.shifts >= OFF_M:
        text = f"{who} throws the figure off its foot{where}, to the {_edge(found)}: what moves is heavy beside all the rest."
    elif found.reserve < 1.0:
        text = f"{who} throws the figure about so that it lifts off its foot{where}: towards {edge} the load goes {{1}}, and has {{2}}. It rocks, and may go over."
    else:
        text = f"{who} shifts the load on its foot most{where}: {{1}} of {{2}} towards {edge}. It stays on the floor."
    text += as_written(results, found.at_s, of=found.of)
    yield Finding(
        finding_id("rocks", "score"), "rocks", FIGURE, verdict_of(found.reserve, wished(results)), Sentence(text, (when(found.at_s), shifts, may)),
        reserve=found.reserve, demand=shifts, capacity=may, at_s=None if found.of else found.at_s,
    )  # fmt: skip


def worst_of(results: Results) -> Rocking | None:
    """What shifts its load most, the score or a wanted move."""
    each = [found for found in (results[ROCKS], results[TOPPLES]) if found is not None]
    return min(each, key=lambda found: found.reserve, default=None)


def _edge(found: Rocking) -> str:
    ahead, left = float(found.out[0]), float(found.out[1])
    if abs(ahead) >= abs(left):
        return "front" if ahead > 0 else "back"
    return "left" if left > 0 else "right"


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    found = worst_of(results)
    if found is None or finding.verdict == "holds":
        return
    for wish in (wished(results), 1.0):
        foot = wider(results, wish * min(found.shifts, OFF_M) - found.may)
        if foot is not None:
            yield foot
    yield from calmer(found.reserve, results, found.of)
