"""Proposed edits, each studied whole: those that do not help are dropped, the rest say what they gave and what got worse."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable

from karakuri.checks.contract import Results, Rule
from karakuri.checks.rules import OF_BOTH, OF_THE_SCORE, RULES
from karakuri.checks.unjudged import is_broken
from karakuri.course import Course, GivenUp
from karakuri.errors import EditRefused
from karakuri.model.edit import Edit, apply
from karakuri.model.finding import VERDICTS, Finding, Proposal, Remedy, show_reserve
from karakuri.model.ref import name_of
from karakuri.study.reuse import Reuse
from karakuri.study.studied import Study, same_body
from karakuri.study.study import first_look, study

MOST, PATIENCE_S, LOST = 4, 3.0, 0.05


def remedies(
    before: Study, finding: Finding, reuse: Reuse, stop: Callable[[], bool] = lambda: False
) -> tuple[Remedy, ...]:
    """Remedies of one finding, best first, those that make another finding worse last.

    `stop` is asked between edits; when it says yes, what was found so far is returned.
    """
    rule = next((rule for rule in RULES if finding.rule == rule.id), None)
    if rule is None:
        return ()
    reuse.trying = True
    try:
        return _offered(before, finding, reuse, rule, stop)
    finally:
        reuse.trying = False


def _offered(before: Study, finding: Finding, reuse: Reuse, rule: Rule, stop: Callable[[], bool]) -> tuple[Remedy, ...]:
    best: dict[str, Remedy] = {}
    done: set[str] = set()
    for proposal in _proposed(rule, finding, before.results):
        if stop():
            break
        if proposal.group in done:
            continue
        remedy = _tried(before, finding, rule, proposal, reuse, stop)
        if remedy is None:
            continue
        if proposal.group not in best or VERDICTS.index(remedy.verdict) > VERDICTS.index(best[proposal.group].verdict):
            best[proposal.group] = remedy
        if remedy.verdict == "holds":
            done.add(proposal.group)
    ranked = sorted(best.values(), key=lambda r: (len(r.worse) > 0, -VERDICTS.index(r.verdict)))
    return tuple(ranked[:MOST])


def _proposed(rule: Rule, finding: Finding, results: Results) -> Iterable[Proposal]:
    """A rule's proposals, as far as it gets: a fault in one way out must not take away the finding or the other ways."""
    try:
        yield from rule.propose(finding, results)
    except Exception:  # noqa: BLE001
        return


def _tried(
    before: Study, finding: Finding, rule: Rule, proposal: Proposal, reuse: Reuse, stop: Callable[[], bool]
) -> Remedy | None:
    try:
        if not _promising(before, finding, rule, proposal, reuse, stop):
            return None
        after = _after(before, proposal.edit, reuse, stop)
    except EditRefused:
        return None
    except Exception:  # noqa: BLE001 - what cannot be studied is not offered
        return None
    if after is None or _broken(after):
        return None
    new = after.finding(finding.id)
    if new is None:
        return Remedy(proposal.edit, proposal.label, "holds", None, tuple(worse(before, after, finding.id)))
    if new.verdict == "fails" or (new.verdict == "not yet judged"):
        return None
    if finding.verdict == "holds" and new.verdict != "holds":
        return None
    if finding.verdict == "tight" and new.verdict == "tight" and (new.reserve or 0) <= (finding.reserve or 0) * 1.02:
        return None
    return Remedy(proposal.edit, proposal.label, new.verdict, new.reserve, tuple(worse(before, after, finding.id)))


def _promising(
    before: Study, finding: Finding, rule: Rule, proposal: Proposal, reuse: Reuse, stop: Callable[[], bool]
) -> bool:
    """A first look by the finding's own rule, where it is not about the score: what cures nothing then needs no more."""
    if finding.rule in OF_THE_SCORE or finding.rule in OF_BOTH or finding.verdict == "holds":
        return True
    figure = apply(before.figure, proposal.edit)
    if same_body(figure, before.figure):
        return True
    try:
        new = first_look(figure, finding, rule, reuse, Course(stop))
    except GivenUp:
        raise
    except Exception:  # noqa: BLE001 - the whole study says what went wrong
        return True
    return new is None or new.verdict in ("holds", "tight")


def _broken(after: Study) -> bool:
    """True where something of the edited figure could not be judged: what is no longer found may then not be taken as held."""
    return any(map(is_broken, after.findings))


def _after(before: Study, edit: Edit, reuse: Reuse, stop: Callable[[], bool]) -> Study | None:
    """The study of the edited figure, once for all findings it is proposed for; None where it would take too long: hours of score."""
    if reuse.tried[0] is not before.figure:
        reuse.tried = (before.figure, {})
    known = reuse.tried[1]
    if edit not in known:
        watch = frozenset(f.move for f in before.findings if f.move is not None and f.verdict != "holds")
        until = time.monotonic() + PATIENCE_S
        course = Course(lambda: stop() or time.monotonic() > until)
        try:
            known[edit] = study(
                apply(before.figure, edit), reuse, watch=watch, base=before, course=course, heard=before.results.heard
            )
        except GivenUp:
            if stop():
                raise
            known[edit] = None
    kept: Study | None = known[edit]
    return kept


def worse(before: Study, after: Study, but: str) -> Iterable[str]:
    """Every other finding that got a worse verdict, or lost a twentieth of its reserve and does not hold with the margin."""
    for new in after.findings:
        old = before.finding(new.id)
        if new.id == but:
            continue
        if old is None:
            if new.verdict == "fails":
                yield _named(after, new)
            continue
        lost = (
            new.reserve is not None and old.reserve is not None and new.reserve < old.reserve - LOST * abs(old.reserve)
        )
        if _rank(new.verdict) < _rank(old.verdict) or (new.verdict != "holds" and lost):
            yield _named(after, new)


def _rank(verdict: str) -> int:
    return {"fails": 0, "not yet judged": 1, "tight": 2, "holds": 3}[verdict]


def _named(after: Study, finding: Finding) -> str:
    subject = name_of(after.figure, finding.subject) or {"supply": "supply", "tipping": "standing"}.get(
        finding.rule, finding.rule
    )
    number = f" {show_reserve(finding.reserve)}" if finding.reserve is not None else ""
    kind = "" if finding.rule in ("hold", "supply", "tipping", "power") else f" ({finding.rule})"
    return f"{subject}{kind} then {finding.verdict}{number}"
