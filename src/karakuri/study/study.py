"""One figure, every analysis, every rule, ranked. Pure but for the Reuse it is given."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import TypeVar

import numpy as np

from karakuri.actuators.servo import Capability, capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree, build_tree, posture_gravity
from karakuri.catalogue import servo_classes
from karakuri.checks import OF_BOTH, OF_THE_SCORE, RULES
from karakuri.checks.contract import JointResults, Needed, Results
from karakuri.checks.unjudged import judged, told
from karakuri.mechanics.tipping import Tipping, worst_tipping
from karakuri.mechanics.worst import QUICK_STARTS, STARTS, Worst, rest_pose, worst_pose
from karakuri.model.drive import Actuator
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.joint import Joint
from karakuri.model.ref import FIGURE, Ref
from karakuri.motion.whole import whole
from karakuri.power.supply import stall_sum
from karakuri.sizing.hold import Extremes, Hold, extremes, hold
from karakuri.sizing.playing import Player, Playing, Share, page_loads, playing
from karakuri.sizing.shaft import shaft
from karakuri.sizing.wanted import PlacedMove, judge, place_move
from karakuri.study.reuse import Reuse, extremes_key, hold_key, move_key, playing_key, tipping_key

T = TypeVar("T")
SCORE = Ref("score")
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
    watch: frozenset[Ref] = frozenset(),
    stop: Callable[[], bool] = lambda: False,
    base: Study | None = None,
) -> Study:
    """Compute everything about a figure. Never raises for an unwise figure: that is a finding.

    `watch` are moves to be told of even if they hold; `stop`, asked between pages of the score, leaves the score unjudged.
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
    rules = [rule for rule in RULES if stale is None or rule.id not in OF_THE_SCORE]
    found = [finding for rule in rules for finding in judged(results, rule.id, rule.find)]
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


def _moved(figure: Figure, reuse: Reuse, base: Study, watch: frozenset[Ref], stop: Callable[[], bool]) -> Study:
    old = base.results
    broken = [(about, said) for about, said in old.broken if about != SCORE]
    playing_now = guarded(broken, SCORE, lambda: played(figure, old.tree, old.gravities, old.joints, reuse, stop))
    results = replace(old, figure=figure, playing=playing_now, watch=watch, broken=tuple(broken))
    anew = OF_THE_SCORE | OF_BOTH
    kept = [finding for finding in base.findings if finding.rule not in anew]
    found = [finding for rule in RULES if rule.id in anew for finding in judged(results, rule.id, rule.find)]
    return Study(figure, results, tuple(sorted(kept + found, key=Finding.sort_key)), base.settled)


def _results(
    figure: Figure,
    reuse: Reuse,
    quick: bool,
    watch: frozenset[Ref],
    stop: Callable[[], bool],
    stale: Study | None = None,
    first: bool = False,
) -> Results:
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(posture, figure.assumptions.gravity_mps2) for posture in figure.postures])
    broken: list[tuple[Ref, str]] = []
    found = (
        guarded(
            broken,
            Ref("joint", joint.id),
            partial(_joint, figure, tree, joint, tree.index(joint.id), gravities, reuse, quick),
        )
        for joint in figure.joints
        if joint.kind == "turn" and joint.role == "driven"
    )
    joints = tuple(results for results in found if results is not None)

    def need_of(edited: Figure, joint_id: str) -> Needed | None:
        other = build_tree(edited)
        if joint_id not in other.ids:
            return None
        pulls = np.array([posture_gravity(posture, edited.assumptions.gravity_mps2) for posture in edited.postures])
        return _needed(edited, other, other.index(joint_id), pulls, reuse)

    asked = stale.results.playing if stale is not None else None
    if stale is None and not first:
        asked = guarded(broken, SCORE, lambda: played(figure, tree, gravities, joints, reuse, stop))
    stands = guarded(broken, FIGURE, lambda: tipping(figure, tree, gravities, reuse, quick))
    return Results(
        figure,
        tree,
        gravities,
        joints,
        stands,
        stall_sum(figure),
        need_of,
        asked,
        watch,
        tuple(broken),
    )


def guarded(broken: list[tuple[Ref, str]], about: Ref, make: Callable[[], T]) -> T | None:
    """What `make` gives; where it goes wrong, None, and what was said beside what it was about: the rest is judged without it."""
    try:
        return make()
    except Exception as trouble:  # noqa: BLE001 - one joint's fault must not take the other verdicts away
        broken.append((about, told(trouble)))
        return None


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
        Player(r.index, score.source[r.index], r.can, _reflected(figure, r.joint), _friction(figure, tree, r.index))
        for r in joints
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

    return playing(score, players, bands, load, stop, figure.assumptions.heat_window_s, figure.score.loops)


def _friction(figure: Figure, tree: Tree, j: int) -> float:
    """Friction at joint j's drive, N·m: its own, and that of what follows it."""
    return sum(abs(gain) * figure.joint(tree.ids[k]).friction_Nm for k, gain in tree.coupling.loads[j])


def _reflected(figure: Figure, joint: Joint) -> float:
    drive = figure.drive_of(joint.id)
    return drive.actuator.reflected_inertia_kgm2 if drive else 0.0


def _needed(figure: Figure, tree: Tree, j: int, gravities: Array, reuse: Reuse) -> Needed:
    """What decides a joint's hold in an edited figure, as a torque that would have to be held for long; from a few starts."""
    joint = figure.joint(tree.ids[j])
    whole = worst(tree, j, gravities, reuse, quick=True)
    at_rest = resting(tree, j, joint)
    rest = worst(at_rest, j, gravities, reuse, quick=True) if at_rest is not None else whole
    assumptions, drive = figure.assumptions, figure.drive_of(joint.id)
    held = (
        assumptions.held_share
        if drive is not None and drive.actuator.gears == "metal"
        else assumptions.held_share_plastic
    )
    factor = min(1.0, held / assumptions.passing_share) if at_rest is not None else 1.0
    if abs(rest.hold) >= factor * abs(whole.hold):
        return Needed(abs(rest.hold), 1.0, rest)
    return Needed(factor * abs(whole.hold), factor, whole)


def resting(tree: Tree, j: int, joint: Joint) -> Tree | None:
    """The tree with joint j only where it may rest, or None where that is all of its wanted range."""
    if joint.rests_deg is None:
        return None
    low, high = (min(max(math.radians(end), float(tree.low[j])), float(tree.high[j])) for end in joint.rests_deg)
    if low <= tree.low[j] and high >= tree.high[j]:
        return None
    lows, highs = tree.low.copy(), tree.high.copy()
    lows[j], highs[j] = low, high
    return replace(tree, low=lows, high=highs)


def bounds(tree: Tree, j: int, gravities: Array, found: Worst, reuse: Reuse, quick: bool) -> Extremes:
    """Joint j's extremes over uncertain masses, reused where nothing they depend on changed."""

    def search(other: Tree, gravity: Array, poses: tuple[Array, ...]) -> Worst:
        return worst_pose(other, j, gravity, QUICK_STARTS, poses, plain=False)

    key = extremes_key(tree, j, gravities)
    quick = quick or reuse.trying
    kind = "quick bounds" if quick and not reuse.has("bounds", key) else "bounds"
    return reuse.get(kind, key, lambda: extremes(tree, j, gravities, found, None if quick else search))


def _joint(
    figure: Figure, tree: Tree, joint: Joint, j: int, gravities: Array, reuse: Reuse, quick: bool
) -> JointResults:
    carried = {i for k, _ in tree.coupling.loads[j] for i in tree.carried(k)}
    missing = tuple(figure.part(ident) for ident, link in tree.unknown if link in carried)
    drive = figure.drive_of(joint.id)
    servo = drive.actuator if drive else None
    can = capability(servo, figure.supply.voltage_V, figure.assumptions) if servo else None
    found = worst(tree, j, gravities, reuse, quick)
    at_rest = resting(tree, j, joint)
    rest = worst(at_rest, j, gravities, reuse, quick) if at_rest is not None else None
    rest_bounds = (
        bounds(at_rest, j, gravities, rest, reuse, quick) if at_rest is not None and rest is not None else None
    )
    held = hold(tree, j, found, bounds(tree, j, gravities, found, reuse, quick), gravities, rest, rest_bounds)
    placed = _placed(figure, tree, joint, j, gravities, held, can, servo, reuse, quick)
    reflected = servo.reflected_inertia_kgm2 if servo else 0.0
    move = judge(placed, can, reflected, joint.friction_Nm) if placed is not None and can is not None else None
    return JointResults(joint, j, held, placed, can, move, shaft(tree, j, joint, servo, held.worst), missing)


def _placed(
    figure: Figure, tree: Tree, joint: Joint, j: int, gravities: Array, held: Hold, can: Capability | None, servo: Actuator | None,
    reuse: Reuse, quick: bool,
) -> PlacedMove | None:  # fmt: skip
    """The wanted move where it is worst; a joint without a drive is tried with the strongest class."""
    if joint.move is None:
        return None
    with_servo = servo or servo_classes()[-1]
    drives = can or capability(with_servo, figure.supply.voltage_V, figure.assumptions)
    reflected = with_servo.reflected_inertia_kgm2
    key = move_key(tree, j, gravities, joint, drives, reflected)
    known = reuse.last_move.get(joint.id)
    tried = (held.worst.pose, held.worst.moment_pose, held.resting.pose, *((known,) if known is not None else ()))

    def make() -> PlacedMove:
        placed = place_move(tree, j, joint, joint.move, drives, reflected, gravities, tried, not quick)  # type: ignore[arg-type]
        if not reuse.trying:
            reuse.last_move[joint.id] = judge(placed, drives, reflected, joint.friction_Nm).pose
        return placed

    kind = "quick move" if (quick or reuse.trying) and not reuse.has("move", key) else "move"
    if kind == "quick move":
        quick = True
    return reuse.get(kind, key, make)
