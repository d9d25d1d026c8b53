"""One figure, every analysis, every rule, ranked. Pure but for the Reuse it is given."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import TypeVar

import numpy as np

from karakuri.bodies.cut import loosened
from karakuri.bodies.tree import Tree, build_tree, posture_gravity
from karakuri.checks import LATER, OF_BOTH, OF_THE_SCORE, RULES
from karakuri.checks.contract import HANGS, LOADS, Needed, Results
from karakuri.checks.unjudged import told
from karakuri.course import ALONE, Course, GivenUp
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.ref import Ref, item_of
from karakuri.sizing.stroke import pushed_by_actuators
from karakuri.study.analyses import ANALYSES, SCORE, Given
from karakuri.study.joints import joint_results, needed
from karakuri.study.reuse import Reuse
from karakuri.study.telling import telling

T = TypeVar("T")
A_LITTLE = 0.05
"""By so much, rad or m, what hangs may lie beyond where it was found at rest, while a hand drags."""
MOVING = frozenset({"score", "poses", "pictures", "name", "currency", "format", "version"})


@dataclass(frozen=True, eq=False)
class Study:
    """A figure with its results and its findings, worst first."""

    figure: Figure
    results: Results
    findings: tuple[Finding, ...]
    settled: bool = True

    def finding(self, ident: str) -> Finding | None:
        """The finding of that id, or None."""
        return next((finding for finding in self.findings if finding.id == ident), None)

    def count(self, verdict: str) -> int:
        """How many findings have a verdict."""
        return sum(1 for finding in self.findings if finding.verdict == verdict)


def study(
    figure: Figure,
    reuse: Reuse | None = None,
    quick: bool = False,
    watch: frozenset[Ref] = frozenset(),
    course: Course = ALONE,
    base: Study | None = None,
) -> Study:
    """Compute everything about a figure. Never raises for an unwise figure: that is a finding. Raises GivenUp where `course` says stop.

    `watch` are moves to be told of even if they hold.
    `base` is a study of a figure that may differ in nothing but what moves: what it found about the body is then taken over.
    `quick` searches worst poses from the last ones and a few starts, for the hand that is still dragging, and leaves what was found
    about the score as it was in `base` while only the body changes, or unjudged where there is no base; `settled` is then False and a
    study without it must follow.
    """
    reuse = reuse if reuse is not None else Reuse()
    if base is not None and same_body(figure, base.figure) and (base.settled or quick):
        return _moved(figure, reuse, base, watch, course)
    stale = base if quick and base is not None and _same_moves(figure, base) else None
    results = _results(figure, reuse, quick, watch, course, stale, first=quick and base is None, base=base)
    stand = (LATER if quick and base is not None else frozenset()) | (
        OF_THE_SCORE if stale is not None else frozenset()
    )
    found = telling([rule for rule in RULES if rule.id not in stand], results, reuse)
    if base is not None and stand:
        found += [each for each in base.findings if each.rule in stand and item_of(figure, each.subject) is not None]
    return Study(figure, results, tuple(sorted(found, key=Finding.sort_key)), not quick)


def _swung(base: Study | None, tree: Tree) -> dict[int, tuple[float, float]]:
    """Between which places, rad or m, each joint that hangs was found at rest, a little on either side: there it is looked for while a hand
    drags."""
    out = {}
    for each in (base.results[HANGS] or ()) if base is not None and base.results.tree.ids == tree.ids else ():
        rests = [hung.rests for hung in each if hung.converged]
        if rests and each[0].j in tree.coupling.hangs:
            out[each[0].j] = (min(rests) - A_LITTLE, max(rests) + A_LITTLE)
    return out


def _same_moves(figure: Figure, base: Study) -> bool:
    """True where a body in a dragging hand leaves what moves as it was: what was found about the score then stands until it settles."""
    same = (
        _same(figure.score.channels, base.figure.score.channels) and figure.score.length_s == base.figure.score.length_s
    )
    return (
        same and [j.id for j in figure.joints] == [j.id for j in base.figure.joints] and base.results.loads is not None
    )


def same_body(a: Figure, b: Figure) -> bool:
    """True where nothing but the moving fields differs. Items keep their identity through an edit, tuples and numbers do not."""
    return all(_same(getattr(a, name), getattr(b, name)) for name in type(a).model_fields if name not in MOVING)


def _same(a: object, b: object) -> bool:
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))
    return a is b or (isinstance(a, str | int | float) and a == b)


def _moved(figure: Figure, reuse: Reuse, base: Study, watch: frozenset[Ref], course: Course) -> Study:
    old = base.results
    broken = [(about, reason) for about, reason in old.broken if about != SCORE]
    given = Given(figure, old.tree, old.tree, old.gravities, old.joints, reuse, False, course)
    found = {**old.found, **_analysed(given, broken, of_score=True)}
    results = replace(old, figure=figure, found=found, watch=watch, broken=tuple(broken))
    anew = OF_THE_SCORE | OF_BOTH
    kept = [finding for finding in base.findings if finding.rule not in anew]
    again = telling([rule for rule in RULES if rule.id in anew], results, reuse)
    return Study(figure, results, tuple(sorted(kept + again, key=Finding.sort_key)), base.settled)


def _results(
    figure: Figure,
    reuse: Reuse,
    quick: bool,
    watch: frozenset[Ref],
    course: Course,
    stale: Study | None = None,
    first: bool = False,
    base: Study | None = None,
) -> Results:
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(posture, figure.assumptions.gravity_mps2) for posture in figure.stances])
    broken: list[tuple[Ref, str]] = []
    pushed = {tree.ids[j] for j in pushed_by_actuators(figure, tree)}
    driven = [joint for joint in figure.joints if joint.kind == "turn" and joint.role == "driven" and (joint.id not in pushed or figure.drive_of(joint.id))]  # fmt: skip
    each = []
    loose = loosened(tree, _swung(base, tree)) if quick else tree
    for k, joint in enumerate(driven):
        course.at(f"joint {k + 1} of {len(driven)}, {joint.name}", k / len(driven))
        one = partial(joint_results, figure, loose, joint, gravities, reuse, quick)
        each.append(guarded(broken, Ref("joint", joint.id), one))
    joints = tuple(results for results in each if results is not None)

    def need_of(edited: Figure, joint_id: str) -> Needed | None:
        other = build_tree(edited)
        if joint_id not in other.ids:
            return None
        pulls = np.array([posture_gravity(posture, edited.assumptions.gravity_mps2) for posture in edited.stances])
        return needed(edited, other, joint_id, pulls, reuse)

    given = Given(figure, tree, loose, gravities, joints, reuse, quick, course)
    found = _analysed(given, broken, of_score=False)
    if stale is not None:
        found[LOADS.name] = stale.results.loads
    elif not first:
        found |= _analysed(given, broken, of_score=True)
    return Results(figure, tree, gravities, joints, found, need_of, watch, tuple(broken))


def _analysed(given: Given, broken: list[tuple[Ref, str]], of_score: bool) -> dict[str, object]:
    """What the analyses of the body, or of the score, find, by their keys."""
    return {
        analysis.key.name: guarded(broken, analysis.about, partial(analysis.run, given))
        for analysis in ANALYSES
        if analysis.of_score == of_score
    }


def guarded(broken: list[tuple[Ref, str]], about: Ref, make: Callable[[], T]) -> T | None:
    """What `make` gives; where it goes wrong, None, and what was said beside what it was about: the rest is judged without it."""
    try:
        return make()
    except GivenUp:
        raise
    except Exception as trouble:  # noqa: BLE001 - one joint's fault must not take the other verdicts away
        broken.append((about, told(trouble)))
        return None
