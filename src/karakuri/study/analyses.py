"""The analyses of a whole figure, in a table: what each finds is kept in the results under its key.

To add one: a Key in checks/contract.py, a function here, a line in ANALYSES. What it is given beyond the figure's results it takes from
requests, so that what did not change is not computed again.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from karakuri.bodies.cut import carried_only, lumped, massless, nameless
from karakuri.bodies.inertia import Array
from karakuri.bodies.rim import rim
from karakuri.bodies.tree import Tree
from karakuri.checks.contract import (
    CORDS,
    DRAGS,
    FASTENED,
    HANGS,
    LOADS,
    PACES,
    RETURNS,
    RINGS,
    RODS,
    SHAKES,
    STALLS,
    STANDING,
    STROKES,
    STRUNG,
    WORN,
    JointResults,
    Key,
)
from karakuri.course import Course
from karakuri.mechanics.hanging import Hanging
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.tipping import Tipping, footing
from karakuri.mechanics.worst import drive_inertia
from karakuri.model.drag import Bearing
from karakuri.model.element import Cord, Linear
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.ref import FIGURE, Ref
from karakuri.motion.score_motion import score_motion
from karakuri.power.supply import StallSum, stall_sum
from karakuri.sizing.cord import CordFound, cord_found
from karakuri.sizing.drag import Dragging, Returning, dragging, returning
from karakuri.sizing.fastened import FastenedFound, fastened, pressing_N
from karakuri.sizing.page import Page, ScoredJoint, page_loads, spans
from karakuri.sizing.ringing import Rung, rings
from karakuri.sizing.rods import RodFound, rod_found
from karakuri.sizing.score_loads import ScoreLoads, score_loads
from karakuri.sizing.shaking import Shaking, Told, train_of
from karakuri.sizing.stroke import Pace, StrokeFound, driven_by, pace, stroke_found
from karakuri.sizing.strung import Strung
from karakuri.sizing.worn import WayFound, ways
from karakuri.study.requests.hangs import Hangs
from karakuri.study.requests.page import pages_of
from karakuri.study.requests.shaking import Shakes
from karakuri.study.requests.standing import Standing
from karakuri.study.requests.strung import Reaches
from karakuri.study.reuse import Reuse

AT_ONCE = 32
SMALL = math.radians(10.0)
RETURN = frozenset({"spring", "elastic", "strut", "torsion"})
"""Elements that are there to bring something back."""
SCORE, WEARER = Ref("score"), Ref("wearer")


@dataclass(frozen=True, eq=False)
class Given:
    """What an analysis may use: the figure, its tree, the same with what hangs anywhere between where it hung, while a hand drags, gravities (p, 3) m/s², its judged joints, what is kept, and how it is followed."""

    figure: Figure
    tree: Tree
    loose: Tree
    gravities: Array
    joints: tuple[JointResults, ...]
    reuse: Reuse
    quick: bool
    course: Course


@dataclass(frozen=True)
class Analysis:
    """`about` is what is not judged where it goes wrong; `of_score`: it depends on what moves."""

    key: Key[Any]
    about: Ref
    run: Callable[[Given], object]
    of_score: bool = False


def standing(given: Given) -> Tipping | None:
    """Tipping over the base's outline."""
    if given.figure.base.held != "stands":
        return None
    tree = lumped(given.tree)
    if not tree.coupling.hangs:  # what is strung inside it does not move its centre of mass
        tree = replace(tree, loads=())
    known = given.reuse.last("tipping", "", len(tree.ids))
    found = given.reuse.of(Standing(tree, footing(given.figure.base), given.gravities), given.quick, known)
    if found is not None:
        given.reuse.remember("tipping", "", found.pose)
    return found


def hangs(given: Given) -> tuple[tuple[Hanging, ...], ...]:
    """What each joint that nothing drives does in each posture."""
    tree = nameless(given.tree)
    known = given.figure.assumptions
    bump = known.bump_g * known.gravity_mps2
    return tuple(given.reuse.of(Hangs(tree, j, given.gravities, bump)) for j in tree.coupling.free)


def elements(given: Given) -> tuple[Strung, ...]:
    """Between which lengths each element works."""
    tree = nameless(given.loose) if given.loose.coupling.hangs else massless(given.loose)
    return tuple(given.reuse.of(Reaches(tree, i, given.gravities)) for i in range(len(tree.loads)))


def drags(given: Given) -> tuple[Dragging, ...]:
    """What each joint rubs with by itself, where something is said of it."""
    found = (
        dragging(
            given.tree,
            given.tree.index(joint.id),
            joint,
            given.gravities,
            _tilting(given, joint.id),
            pressing_N(given.figure, joint.id),
        )
        for joint in given.figure.joints
    )
    return tuple(each for each in found if each is not None)


def shakes(given: Given) -> dict[str, Shaking] | None:
    """How each driven joint comes to rest; None in a quick study."""
    return (
        None if given.quick else {r.joint.id: found for r in given.joints if (found := shakes_of(given, r)) is not None}
    )


def shakes_of(given: Given, r: JointResults) -> Shaking | None:
    """How a joint comes to rest after its wanted move, or, where none is wanted, after a small one at once."""
    drive = given.figure.drive_of(r.joint.id)
    if drive is None or r.can is None or r.missing:
        return None
    tree, known = given.tree, given.figure.assumptions
    width = float(tree.high[r.index] - tree.low[r.index])
    if r.placed is not None:
        told = Told(r.placed.by, r.placed.time, r.placed.kind, r.placed.shape)
        inertia = float(r.placed.pull.inertia.max())
    else:
        told = Told(min(SMALL, width), 1.0, "sudden", 0.0)
        inertia = float(drive_inertia(tree, rest_pose(tree)[:, None], r.index)[0])
    if told.by <= 0:
        return None
    train = train_of(drive, r.can, inertia, r.drag, known)
    pulls = (r.hold.worst.lowest, r.hold.worst.highest)
    thorough, out = not given.reuse.trying, rim(given.figure, tree, r.index)
    visible = (math.radians(known.visible_deg), known.visible_mm / 1e3)
    return given.reuse.of(Shakes(train, told, pulls, visible, out, width if thorough else 0.0, thorough))


def returns(given: Given) -> tuple[Returning, ...]:
    """What brings back each joint that rubs, has a spring and no drive."""
    tree, out = given.tree, []
    for j in tree.coupling.free:
        joint = given.figure.joint(tree.ids[j])
        springs = [load for load in tree.loaded[j] if given.figure.elements[tree.loads.index(load)].kind in RETURN]
        if springs and (joint.drag is not None or joint.friction_Nm > 0):
            low, high = (end * joint.measure.si for end in joint.range)
            out.append(returning(tree, j, (low, high), given.gravities))
    return tuple(each for each in out if each is not None)


def _tilting(given: Given, joint_id: str) -> float:
    return next((r.hold.worst.moment for r in given.joints if r.joint.id == joint_id), 0.0)


def rods(given: Given) -> tuple[RodFound, ...]:
    """How each rod bends."""
    bump = given.figure.assumptions.bump_g
    return tuple(rod_found(given.tree, rod, i, given.gravities, bump) for i, rod in enumerate(given.figure.rods))


def cords(given: Given) -> tuple[CordFound, ...]:
    """What each cord that is pulled does to the outermost joint that nothing drives and that it turns."""
    tree, figure, out = given.tree, given.figure, []
    for i, cord in enumerate(figure.elements):
        if not isinstance(cord, Cord):
            continue
        turned = [j for j in tree.spanned(tree.loads[i]) if j in tree.coupling.free and not tree.slides[j]]
        if turned:
            joint = figure.joint(tree.ids[turned[-1]])
            low, high = (end * joint.measure.si for end in joint.range)
            drag = dragging(tree, turned[-1], joint, given.gravities, pressing=pressing_N(figure, joint.id))
            assumed = drag is None
            if assumed:  # a joint that rubs with nothing would always shut
                drag = dragging(tree, turned[-1], Joint(**(dict(joint) | {"drag": Bearing()})), given.gravities)
            out.append(cord_found(tree, i, cord, turned[-1], (low, high), drag, given.gravities, assumed))
    return tuple(each for each in out if each is not None)


def strokes(given: Given) -> tuple[StrokeFound, ...]:
    """What each linear actuator pushes and pulls over the range of what it drives."""
    tree, figure, out = given.loose, given.figure, []
    for i, it in enumerate(figure.elements):
        j = driven_by(tree, i) if isinstance(it, Linear) else None
        if isinstance(it, Linear) and j is not None:
            joint = figure.joint(tree.ids[j])
            wanted = (joint.range[0] * joint.measure.si, joint.range[1] * joint.measure.si)
            drag = next((each for each in drags(given) if each.j == j), None)
            out.append(stroke_found(tree, i, it, wanted, drag.high if drag else 0.0, given.gravities))
    return tuple(each for each in out if each is not None)


def paces(given: Given) -> tuple[Pace, ...]:
    """How fast the score asks each linear actuator to go."""
    figure, tree = given.figure, given.tree
    if not any(len(channel.moves) for channel in figure.score.channels):
        return ()
    motion = score_motion(figure, tree, rest_pose(tree), given.reuse.tracks)
    found = ((each, motion.source[each.j]) for each in strokes(given))
    return tuple(
        pace(each, motion.tracks[c], float(motion.gain[each.j]), float(motion.offset[each.j]), motion.length)
        for each, c in found
        if c >= 0
    )


def fastenings(given: Given) -> tuple[FastenedFound, ...]:
    """What holds something on, against its weight and a bump."""
    figure, known = given.figure, given.figure.assumptions
    bump = known.bump_g * known.gravity_mps2
    found = (fastened(figure, given.loose, i, given.gravities, bump) for i in range(len(figure.fastenings)))
    return tuple(each for each in found if each is not None)


def worn(given: Given) -> tuple[WayFound, ...]:
    """What a worn figure asks of its wearer; beside its own way the other three, except while remedies are tried or a hand drags."""
    figure, tree = given.figure, given.tree
    if figure.base.held != "worn" or float(tree.mass.sum()) <= 0:
        return ()
    return ways(figure, tree, others=not (given.quick or given.reuse.trying))


def stalls(given: Given) -> StallSum:
    """All stall currents, A, against the supply."""
    return stall_sum(given.figure)


def loads(given: Given) -> ScoreLoads | None:
    """What the score asks of every drive, page by page. None where nothing moves."""
    figure, tree, reuse = given.figure, given.tree, given.reuse
    if not any(len(channel.moves) for channel in figure.score.channels):
        return None
    motion = score_motion(figure, tree, rest_pose(tree), reuse.tracks)
    joints = tuple(_scored(figure, motion.source[r.index], r) for r in given.joints)
    limits = tuple((float(tree.low[joint.joint]), float(tree.high[joint.joint])) for joint in joints)
    bare = carried_only(tree)
    whole = Page(bare, motion, joints, given.gravities, 0.0, motion.length)
    requests = pages_of(whole, spans(motion.length)) if joints else []  # of what no servo drives only the way is known
    found = []
    for first in range(0, len(requests), AT_ONCE):
        at, length = requests[first].page.begin, motion.length
        given.course.at(f"the score, {at:.0f} of {length:.0f} s", at / length)
        some = requests[first : first + AT_ONCE]
        missing = [request for request in some if not reuse.has(request)]
        made = page_loads([request.page for request in missing]) if missing else []
        fresh = {id(request): reuse.keep(request, load) for request, load in zip(missing, made, strict=True)}
        found += [fresh.get(id(request)) or reuse.of(request) for request in some]
    return score_loads(motion, joints, limits, found, figure.assumptions.heat_window_s, figure.score.loops)


def ringing(given: Given) -> dict[str, tuple[Rung, ...]]:
    """How the moves of each judged joint end; nothing in a quick study."""
    figure, tree = given.figure, given.tree
    if given.quick or not any(len(channel.moves) for channel in figure.score.channels):
        return {}
    motion, out = score_motion(figure, tree, rest_pose(tree), given.reuse.tracks), {}
    for r in given.joints:
        channel, found = motion.source[r.index], shakes_of(given, r)
        if channel >= 0 and found is not None:
            track, gain = motion.tracks[channel], float(motion.gain[r.index])
            out[r.joint.id] = rings(track, r.index, gain, found, motion.length)
    return out


def _scored(figure: Figure, channel: int, r: JointResults) -> ScoredJoint:
    """A judged joint over the score."""
    drive = figure.drive_of(r.joint.id)
    reflected = drive.actuator.reflected_inertia_kgm2 if drive else 0.0
    return ScoredJoint(r.index, channel, r.can, reflected, r.drag.value if r.drag else 0.0)


ANALYSES = (
    Analysis(STANDING, FIGURE, standing),
    Analysis(HANGS, FIGURE, hangs),
    Analysis(STRUNG, FIGURE, elements),
    Analysis(DRAGS, FIGURE, drags),
    Analysis(RETURNS, FIGURE, returns),
    Analysis(SHAKES, FIGURE, shakes),
    Analysis(RODS, FIGURE, rods),
    Analysis(CORDS, FIGURE, cords),
    Analysis(STROKES, FIGURE, strokes),
    Analysis(FASTENED, FIGURE, fastenings),
    Analysis(WORN, WEARER, worn),
    Analysis(STALLS, FIGURE, stalls),
    Analysis(LOADS, SCORE, loads, of_score=True),
    Analysis(RINGS, SCORE, ringing, of_score=True),
    Analysis(PACES, SCORE, paces, of_score=True),
)
