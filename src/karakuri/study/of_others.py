"""The scores that are not in hand, judged as if each were: what is worst in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from karakuri.checks import OF_BOTH, OF_THE_SCORE, RULES
from karakuri.checks.contract import LOADS, OTHERS, PACES, RINGS, Needed, OtherScore, Results
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.study.given import Analysis, Found, Given
from karakuri.study.telling import telling

OF_SCORES = (LOADS, RINGS, PACES)


def others(given: Given) -> tuple[OtherScore, ...] | None:
    """What is worst in every score that is not in hand; None in a quick study, which leaves them as they were found."""
    figure = given.figure
    waiting = [score for score in figure.scores if score is not figure.score and score.moves_something]
    if given.quick:
        return None
    out = []
    for score in waiting:
        found = _findings(given, Figure(**(dict(figure) | {"playing": score.id})))
        wrong = sorted((f for f in found if f.verdict != "holds"), key=Finding.sort_key)
        out.append(OtherScore(score, len(found), tuple(wrong)))
    return tuple(out)


def _findings(given: Given, figure: Figure) -> list[Finding]:
    """What the rules tell of a figure's score in hand; of rules that know body and score, what they would not tell without it."""
    body = {name: given.found[name] for name in given.table if name not in _names(given.table)}
    broken = list(given.broken)
    inner = replace(given, figure=figure, known=body | {OTHERS.name: ()}, broken=broken)
    told = _told(inner, Found(inner), OF_THE_SCORE | OF_BOTH)
    without = {finding.id: finding for finding in _told(inner, body | dict.fromkeys(_names(given.table)), OF_BOTH)}
    return [f for f in told if f.rule in OF_THE_SCORE or without.get(f.id) != f]


def _names(table: Mapping[str, Analysis]) -> set[str]:
    return {name for name, analysis in table.items() if analysis.of_score}


def _told(given: Given, found: Mapping[str, object], ids: frozenset[str]) -> list[Finding]:
    results = Results(
        given.figure,
        given.tree,
        given.gravities,
        tuple(given.joints),
        found,
        _nobody,
        broken=tuple(given.broken),
        heard=given.heard,
    )
    return telling([rule for rule in RULES if rule.id in ids], results, given.reuse)


def _nobody(figure: Figure, joint_id: str) -> Needed | None:
    """Nothing is proposed for a score that is not in hand."""
    return None
