"""One figure, every analysis, every rule, ranked. Pure but for the Reuse it is given."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from karakuri.actuators.servo import ability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree, build_tree, posture_gravity
from karakuri.checks import OF_THE_SCORE, RULES
from karakuri.checks.contract import JointResults, Results
from karakuri.mechanics.tipping import Tipping, worst_tipping
from karakuri.mechanics.worst import QUICK_STARTS, STARTS, Worst, largest_inertia, rest_pose, worst_pose
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.joint import Joint
from karakuri.motion.whole import whole
from karakuri.power.supply import stall_sum
from karakuri.sizing.hold import Hold, holds
from karakuri.sizing.move import move_bound
from karakuri.sizing.playing import Player, Playing, Share, page_loads, playing
from karakuri.sizing.shaft import shaft
from karakuri.study.reuse import Reuse, hold_key, inertia_key, playing_key, tipping_key

MOVING = frozenset({"score", "poses", "name", "currency", "format", "version"})


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
    watch: frozenset[str] = frozenset(),
    stop: Callable[[], bool] = lambda: False,
    base: Study | None = None,
) -> Study:
    """Compute everything about a figure. Never raises for an unwise figure: that is a finding.

    `watch` are ids of findings to be told even if they hold; `stop`, asked between pages of the score, leaves the score unjudged.
    `base` is a study of a figure that may differ in nothing but what moves: what it found about the body is then taken over.
    `quick` searches worst poses from the last ones and a few starts, for the hand that is still dragging, and leaves what was found
    about the score as it was in `base` while only the body changes, or unjudged where there is no base; `settled` is then False and a
    study without it must follow.
    """
    reuse = reuse if reuse is not None else Reuse()
    if base is not None and same_body(figure, base.figure) and (base.settled or quick):
        return _moved(figure, reuse, base, watch, stop)
    stale = base if quick and base is not None and _same_moves(figure, base) else None
    results = _results(figure, reuse, quick, watch, stop, stale, first=quick and base is None)
    found = [
        finding for rule in RULES if stale is None or rule.id not in OF_THE_SCORE for finding in rule.find(results)
    ]
    if stale is not None:
        found += [finding for finding in stale.findings if finding.rule in OF_THE_SCORE]
    return Study(figure, results, tuple(sorted(found, key=Finding.sort_key)), not quick)


def _same_moves(figure: Figure, base: Study) -> bool:
    """True where a body in a dragging hand leaves what moves as it was: what was found about the score then stands until it settles."""
    same = (
        _same(figure.score.channels, base.figure.score.channels) and figure.score.length_s == base.figure.score.length_s
    )
    return (
        same
        and [j.id for j in figure.joints] == [j.id for j in base.figure.joints]
        and base.results.playing is not None
    )


def same_body(a: Figure, b: Figure) -> bool:
    """True where nothing but the moving fields differs. Items keep their identity through an edit, tuples and numbers do not."""
    return all(_same(getattr(a, name), getattr(b, name)) for name in type(a).model_fields if name not in MOVING)


def _same(a: object, b: object) -> bool:
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(x is y for x, y in zip(a, b, strict=True))
    return a is b or (isinstance(a, str | int | float) and a == b)


def _moved(figure: Figure, reuse: Reuse, base: Study, watch: frozenset[str], stop: Callable[[], bool]) -> Study:
    old = base.results
    playing_now = played(figure, old.tree, old.gravities, old.joints, reuse, stop)
    results = replace(old, figure=figure, playing=playing_now, watch=watch)
    kept = [finding for finding in base.findings if finding.rule not in OF_THE_SCORE]
    found = [finding for rule in RULES if rule.id in OF_THE_SCORE for finding in rule.find(results)]
    return Study(figure, results, tuple(sorted(kept + found, key=Finding.sort_key)), base.settled)


def _results(
    figure: Figure,
    reuse: Reuse,
    quick: bool,
    watch: frozenset[str],
    stop: Callable[[], bool],
    stale: Study | None = None,
    first: bool = False,
) -> Results:
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(posture, figure.assumptions.gravity_mps2) for posture in figure.postures])
    judged = tuple(joint for joint in figure.joints if joint.kind == "turn" and joint.role == "driven")
    places = tuple(tree.index(joint.id) for joint in judged)
    held = holds(tree, places, tuple(worst(tree, j, gravities, reuse, quick) for j in places), gravities)
    joints = tuple(_joint(figure, tree, joint, each, reuse) for joint, each in zip(judged, held, strict=True))

    def worst_of(edited: Figure, joint_id: str) -> Worst | None:
        other = build_tree(edited)
        pulls = np.array([posture_gravity(posture, edited.assumptions.gravity_mps2) for posture in edited.postures])
        return worst(other, other.index(joint_id), pulls, reuse, quick=True) if joint_id in other.ids else None

    asked = stale.results.playing if stale is not None else None
    if stale is None and not first:
        asked = played(figure, tree, gravities, joints, reuse, stop)
    return Results(
        figure,
        tree,
        gravities,
        joints,
        tipping(figure, tree, gravities, reuse, quick),
        stall_sum(figure),
        worst_of,
        asked,
        watch,
    )


def worst(tree: Tree, j: int, gravities: Array, reuse: Reuse, quick: bool = False) -> Worst:
    """The worst pose of a joint, reused where nothing it depends on changed; the last ones are among the starts."""
    ident, key = tree.ids[j], hold_key(tree, j, gravities)

    def make() -> Worst:
        found = worst_pose(tree, j, gravities, QUICK_STARTS if quick else STARTS, reuse.last.get(ident, ()), not quick)
        if not reuse.trying:
            reuse.last[ident] = (found.pose, found.moment_pose)
        return found

    kind = "quick worst pose" if quick and not reuse.has("worst pose", key) else "worst pose"
    return reuse.get(kind, key, make)


def tipping(figure: Figure, tree: Tree, gravities: Array, reuse: Reuse, quick: bool = False) -> Tipping | None:
    """Tipping over the base's outline, reused where nothing it depends on changed."""
    key = tipping_key(tree, np.array(figure.base.outline_mm), figure.base.floor_mm, gravities)

    def make() -> Tipping | None:
        warm = reuse.last_tipping(len(tree.ids))
        found = worst_tipping(tree, figure.base, gravities, 1 if quick and warm is not None else 6, warm)
        if not reuse.trying:
            reuse.tipped = found.pose if found is not None else None
        return found

    return reuse.get("quick tipping" if quick and not reuse.has("tipping", key) else "tipping", key, make)


def played(
    figure: Figure,
    tree: Tree,
    gravities: Array,
    joints: tuple[JointResults, ...],
    reuse: Reuse,
    stop: Callable[[], bool] = lambda: False,
) -> Playing | None:
    """What the score asks of every drive; pages are reused where nothing that reaches into them changed. None where nothing moves."""
    if not any(len(channel.moves) for channel in figure.score.channels):
        return None
    score = whole(figure, tree, rest_pose(tree), reuse.tracks)
    players = tuple(
        Player(r.index, score.source[r.index], r.can, _reflected(figure, r.joint), r.joint.friction_Nm) for r in joints
    )
    bands = tuple((float(tree.low[p.joint]), float(tree.high[p.joint])) for p in players)
    figure_key = playing_key(tree, gravities, players, score)

    sources = sorted(set(score.source) - {-1})

    def load(wanted: list[int]) -> list[tuple[Share, ...]]:
        keys = {page: (figure_key, page, *(reuse.page_key(score.tracks[c], page) for c in sources)) for page in wanted}
        missing = [page for page in wanted if not reuse.has("page", keys[page])]
        made = page_loads(tree, score, players, gravities, missing) if missing else []
        fresh = dict(zip(missing, made, strict=True))
        return [reuse.get("page", keys[page], partial(fresh.__getitem__, page)) for page in wanted]

    return playing(score, players, bands, load, stop)


def _reflected(figure: Figure, joint: Joint) -> float:
    drive = figure.drive_of(joint.id)
    return drive.actuator.reflected_inertia_kgm2 if drive else 0.0


def _joint(figure: Figure, tree: Tree, joint: Joint, held: Hold, reuse: Reuse) -> JointResults:
    j = tree.index(joint.id)
    carried = tree.carried(j)
    missing = tuple(figure.part(ident).name for ident, link in tree.unknown if link in carried)
    drive = figure.drive_of(joint.id)
    servo = drive.actuator if drive else None
    can = ability(servo, figure.supply.voltage_V, figure.assumptions) if servo else None
    inertia = reuse.get("inertia", inertia_key(tree, j), lambda: largest_inertia(tree, j))
    move = None
    if can is not None and servo is not None and joint.move is not None:
        move = move_bound(joint.move, held.need, inertia, servo.reflected_inertia_kgm2, joint.friction_Nm, can)
    return JointResults(joint, j, held, inertia, can, move, shaft(tree, j, joint, servo, held.worst), missing)
