"""What could not be computed, each thing by name."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from karakuri.checks.contract import Results
from karakuri.model.base import plain
from karakuri.model.finding import Finding, Sentence, finding_id
from karakuri.model.ref import FIGURE, Ref, name_of

FAULT = Sentence("a fault in Karakuri")


def find(results: Results) -> Iterable[Finding]:
    yield from (broken(results, "unjudged", about, reason) for about, reason in results.broken)


def broken(results: Results, rule: str, about: Ref, reason: str) -> Finding:
    """What stands for a verdict whose computing went wrong: never silence, and never 'holds'."""
    name = name_of(results.figure, about) or results.figure.name
    what = f" by the rule '{rule}'" if rule != "unjudged" else ""
    return Finding(
        finding_id(rule, "broken", about.kind, about.id),
        rule,
        about,
        "not yet judged",
        Sentence(
            f"{name} could not be judged{what}: {reason}. The rest is; undo what you changed last, or report this."
        ),
        measure=FAULT,
    )


def is_broken(finding: Finding) -> bool:
    """Whether a finding stands for a verdict whose computing went wrong."""
    return finding.measure is FAULT


def judged(results: Results, rule: str, find: Callable[[Results], Iterable[Finding]]) -> list[Finding]:
    """What a rule finds; where it goes wrong, one finding that says so."""
    try:
        return list(find(results))
    except Exception as trouble:  # noqa: BLE001 - one rule's fault must not take the other verdicts away
        return [broken(results, rule, FIGURE, told(trouble))]


def told(trouble: Exception) -> str:
    """A fault on one line."""
    return plain(f"{type(trouble).__name__}: {trouble}"[:200])
