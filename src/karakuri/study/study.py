"""One figure, every analysis, every rule, ranked. Pure but for the Reuse it is given."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from msgspec.structs import replace

from karakuri.bodies.cut import loosened
from karakuri.bodies.tree import Tree, build_tree
from karakuri.checks.contract import HANGS, LIVED, JointResults, Needed, Results, Rule
from karakuri.checks.rules import LATER, OF_BOTH, OF_THE_SCORE, RULES
from karakuri.course import ALONE, Course
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.loudness import Loudness
from karakuri.model.ref import Ref, item_of
from karakuri.study.analyses import ANALYSES, SCORE
from karakuri.study.given import Given, Late, guarded
from karakuri.study.joints import gravities_of, joint_results, judged_joints, needed
from karakuri.study.reuse import Reuse
from karakuri.study.studied import Study, same_body, same_moves
from karakuri.study.telling import telling

A_LITTLE = 0.05
"""By so much, rad or m, what hangs may lie beyond where it was found at rest, while a hand drags."""


def study(
    figure: Figure,
    reuse: Reuse | None = None,
    quick: bool = False,
    watch: frozenset[Ref] = frozenset(),
    course: Course = ALONE,
    base: Study | None = None,
    heard: Mapping[str, Loudness] | None = None,
    apart: bool = False,
) -> Study:
    """Compute everything about a figure. Never raises for an unwise figure: that is a finding. Raises GivenUp where `course` says stop.

    `watch` are moves to be told of even if they hold; `heard` is how loud the sounds are that lie beside it, by their digests; None: nobody has listened yet.
    `base` is a study of a figure that may differ in nothing but what moves: what it found about the body is then taken over.
    `quick` searches worst poses from the last ones and a few starts, for the hand that is still dragging, and leaves what was found
    about the score as it was in `base` while only the body changes, or unjudged where there is no base; `settled` is then False and a
    study without it must follow. `apart`: what it does by itself stands as it was found in `base`; `further` judges it then.
    """
    reuse = reuse if reuse is not None else Reuse()
    if base is not None and same_body(figure, base.figure) and (base.settled or quick):
        return _moved(figure, reuse, base, watch, course, heard, quick or apart)
    stale = base if quick and base is not None and same_moves(figure, base) else None
    known = _without_score(stale) if quick else {}
    if quick or apart:
        known[LIVED.name] = _as_lived(figure, base)
    given = _given(figure, reuse, quick, course, base, known, heard=heard)
    joints = tuple(given.joints)
    results = replace(_results_of(given, dict(given.found), watch), joints=joints)
    stand = (LATER if quick and base is not None else frozenset()) | (
        OF_THE_SCORE if stale is not None else frozenset()
    )
    found = telling([rule for rule in RULES if rule.id not in stand], results, reuse)
    if base is not None and stand:
        found += [each for each in base.findings if each.rule in stand and item_of(figure, each.subject) is not None]
    return Study(figure, results, tuple(sorted(found, key=Finding.sort_key)), not quick)


def _as_lived(figure: Figure, base: Study | None) -> object:
    """What was found of what it does by itself, where it still does something."""
    lives = figure.behaviour is not None and bool(figure.behaviour.states)
    return base.results.found.get(LIVED.name) if base is not None and lives else None


def _swung(base: Study | None, tree: Tree) -> dict[int, tuple[float, float]]:
    """Between which places, rad or m, each joint that hangs was found at rest, a little on either side: there it is looked for while a hand
    drags."""
    out = {}
    for each in (base.results[HANGS] or ()) if base is not None and base.results.tree.ids == tree.ids else ():
        rests = [hung.rests for hung in each if hung.converged]
        if rests and each[0].j in tree.coupling.hangs:
            out[each[0].j] = (min(rests) - A_LITTLE, max(rests) + A_LITTLE)
    return out


def _moved(
    figure: Figure,
    reuse: Reuse,
    base: Study,
    watch: frozenset[Ref],
    course: Course,
    heard: Mapping[str, Loudness] | None,
    apart: bool,
) -> Study:
    old = base.results
    broken = [(about, reason) for about, reason in old.broken if about != SCORE]
    known = {name: found for name, found in old.found.items() if not ANALYSES[name].of_score}
    if apart:
        known[LIVED.name] = _as_lived(figure, base)
    given = Given(
        figure,
        old.tree,
        old.tree,
        old.gravities,
        old.joints,
        reuse,
        False,
        course,
        ANALYSES,
        known,
        broken,
        heard=heard,
    )
    found = dict(given.found)
    results = replace(old, figure=figure, found=found, watch=watch, broken=tuple(broken), heard=heard)
    anew = OF_THE_SCORE | OF_BOTH
    kept = [finding for finding in base.findings if finding.rule not in anew]
    again = telling([rule for rule in RULES if rule.id in anew], results, reuse)
    return Study(figure, results, tuple(sorted(kept + again, key=Finding.sort_key)), base.settled)


def further(done: Study, reuse: Reuse, course: Course = ALONE) -> Study | None:
    """A settled study with what the figure does by itself judged too; None where it does nothing. Raises GivenUp where `course` says stop."""
    old, figure = done.results, done.figure
    if figure.behaviour is None or not figure.behaviour.states:
        return None
    broken = [each for each in old.broken if each[0] != ANALYSES[LIVED.name].about]
    known = {name: found for name, found in old.found.items() if name != LIVED.name}
    given = Given(figure, old.tree, old.tree, old.gravities, old.joints, reuse, False, course, ANALYSES, known, broken, heard=old.heard)  # fmt: skip
    results = replace(old, found=dict(given.found), broken=tuple(broken))
    anew = frozenset({"lived", "unjudged"})
    found = [each for each in done.findings if each.rule not in anew]
    found += telling([rule for rule in RULES if rule.id in anew], results, reuse)
    return Study(figure, results, tuple(sorted(found, key=Finding.sort_key)), done.settled)


def first_look(figure: Figure, finding: Finding, rule: Rule, reuse: Reuse, course: Course) -> Finding | None:
    """What a rule of the body tells of an edited figure where it told `finding`, quickly and nothing beside: only what the rule asks for is
    worked out. None where it tells nothing there; GivenUp where `course` says stop. Raises what went wrong.
    """
    one = finding.subject.id if rule.each is not None else ""
    given = _given(figure, reuse, True, course, None, _without_score(None), one)
    results = _results_of(given, given.found, frozenset())
    found = next((new for new in rule.find(results) if new.id == finding.id), None)
    if given.broken:
        raise ValueError(given.broken[0][1])
    return found


def _without_score(stale: Study | None) -> dict[str, object]:
    """What was found of the score as it was, or nothing."""
    return {
        name: stale.results.found.get(name) if stale is not None else None
        for name, analysis in ANALYSES.items()
        if analysis.of_score
    }


def _given(
    figure: Figure,
    reuse: Reuse,
    quick: bool,
    course: Course,
    base: Study | None,
    known: Mapping[str, object],
    one: str = "",
    heard: Mapping[str, Loudness] | None = None,
) -> Given:
    """What analyses of a figure are given; its joints, or `one` of them, are judged when one is first asked for."""
    tree = build_tree(figure)
    gravities = gravities_of(figure)
    broken: list[tuple[Ref, str]] = []
    loose = loosened(tree, _swung(base, tree)) if quick else tree
    judged = [joint for joint in judged_joints(figure, tree) if one in ("", joint.id)]

    def judge_joints() -> tuple[JointResults, ...]:
        each = []
        for k, joint in enumerate(judged):
            course.at(f"joint {k + 1} of {len(judged)}, {joint.name}", k / len(judged))
            judge = partial(joint_results, figure, loose, joint, gravities, reuse, quick)
            each.append(guarded(broken, Ref("joint", joint.id), judge))
        return tuple(results for results in each if results is not None)

    return Given(
        figure,
        tree,
        loose,
        gravities,
        Late(judge_joints),
        reuse,
        quick,
        course,
        ANALYSES,
        known,
        broken,
        quick and base is not None,
        heard,
    )


def _results_of(given: Given, found: Mapping[str, object], watch: frozenset[Ref]) -> Results:
    """What the rules are given of what was found."""

    def need_of(edited: Figure, joint_id: str) -> Needed | None:
        other = build_tree(edited)
        return needed(edited, other, joint_id, gravities_of(edited), given.reuse) if joint_id in other.ids else None

    return Results(
        given.figure, given.tree, given.gravities, given.joints, found, need_of, watch, tuple(given.broken), given.heard
    )
