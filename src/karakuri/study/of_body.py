"""Analyses of a figure's body: what each finds of it, whatever moves."""

from __future__ import annotations

import math

from msgspec.structs import replace

from karakuri.bodies.blocks import blocks
from karakuri.bodies.cut import cut, lumped, massless, nameless, unladen, weighing
from karakuri.bodies.rim import rim
from karakuri.bodies.solids import solid_of
from karakuri.checks.contract import DRAGS, JointResults
from karakuri.limits.travel import run_past
from karakuri.mechanics.hanging import Hanging
from karakuri.mechanics.pairs import RoomFound, place_of
from karakuri.mechanics.slid import Along
from karakuri.mechanics.starts import rest_pose, with_corners
from karakuri.mechanics.tipping import Tipping, footing
from karakuri.mechanics.worst import drive_inertia
from karakuri.model.drag import Bearing
from karakuri.model.element import Cord, Hand, Linear, Motor
from karakuri.model.joint import Joint
from karakuri.power.supply import StallSum, stall_sum
from karakuri.sizing.cord import CordFound, nearest
from karakuri.sizing.drag import Dragging, Returning
from karakuri.sizing.fastened import FastenedFound, held_rows, pressing_N
from karakuri.sizing.followed import as_driven
from karakuri.sizing.hand import HandFound
from karakuri.sizing.rods import RodFound
from karakuri.sizing.shaking import Shaking, Told, pulls_of, through_of, train_of
from karakuri.sizing.stroke import StrokeFound, driven_by, pushed_by_actuators
from karakuri.sizing.strung import Strung
from karakuri.sizing.turning import TurnFound
from karakuri.sizing.wearer import neck_of
from karakuri.sizing.worn import WayFound
from karakuri.study.given import Given
from karakuri.study.requests.borne import Bends, Holds, Wears
from karakuri.study.requests.drag import Drags, Returns
from karakuri.study.requests.hangs import Hangs
from karakuri.study.requests.pulled import Pulled, Slides, Strokes
from karakuri.study.requests.room import FINE, Rooms
from karakuri.study.requests.shaking import Shakes
from karakuri.study.requests.standing import Standing
from karakuri.study.requests.strung import Reaches
from karakuri.study.requests.turning import Levered, Turned

SMALL, CORNERS = math.radians(10.0), 16
RETURN = frozenset({"spring", "elastic", "strut", "torsion"})
"""Elements that are there to bring something back."""


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
    return given.reuse.of(Hangs(tree, given.gravities, bump)) if tree.coupling.free else ()


def elements(given: Given) -> tuple[Strung, ...]:
    """Between which lengths each element works."""
    tree = nameless(given.loose) if given.loose.coupling.hangs else massless(given.loose)
    return tuple(given.reuse.of(Reaches(tree, i, given.gravities)) for i in range(len(tree.loads)))


def drags(given: Given) -> tuple[Dragging, ...]:
    """What each joint rubs with by itself, where something is said of it."""
    found = (_drag(given, joint, _tilting(given, joint.id)) for joint in given.figure.joints)
    return tuple(each for each in found if each is not None)


def _drag(given: Given, joint: Joint, tilting: float = 0.0) -> Dragging | None:
    if not joint.rubs:
        return None
    felt = cut(given.tree, given.tree.index(joint.id))
    pressing = pressing_N(given.figure, joint.id)
    found = given.reuse.of(Drags(felt.tree, felt.j, joint, given.gravities, tilting, pressing))
    return None if found is None else replace(found, j=felt.rows[felt.j])


def shakes(given: Given) -> dict[str, Shaking] | None:
    """How each driven joint comes to rest; None in a quick study."""
    return (
        None if given.quick else {r.joint.id: found for r in given.joints if (found := _shakes(given, r)) is not None}
    )


def _shakes(given: Given, r: JointResults) -> Shaking | None:
    """How a joint comes to rest after its wanted move, or, where none is wanted, after a small one at once."""
    drive = given.figure.drive_of(r.joint.id)
    if drive is None or drive.actuator.stepper is not None or r.can is None or r.missing:
        return None  # a stepper has no loop of its own: how it swings after a move is not told
    tree, known = given.tree, given.figure.assumptions
    width = float(tree.high[r.index] - tree.low[r.index])
    told = Told(min(SMALL, width), 1.0, "sudden", 0.0)
    if r.own is not None:
        told = Told(r.own.by, r.own.time, r.own.kind, r.own.shape)
    if r.placed is not None and tree.group(r.index) is None:
        inertia = float(r.placed.pull.inertia.max())
    else:  # what is known of a move it shares is known at its servo
        poses = with_corners(tree, tree.below[r.index], CORNERS) if r.shares else rest_pose(tree)[:, None]
        inertia = float(drive_inertia(tree, poses, r.index).max())
    if told.by <= 0:
        return None
    through = through_of(r.geared)
    train = train_of(drive, r.can, inertia, r.drag, known, through)
    pulls = pulls_of(r.hold, through)
    thorough, out = not given.reuse.trying, rim(given.figure, tree, r.index)
    visible = (math.radians(known.visible_deg), known.visible_mm / 1e3)
    return given.reuse.of(Shakes(train, told, pulls, visible, out, width if thorough else 0.0, thorough))


def returns(given: Given) -> tuple[Returning, ...]:
    """What brings back each joint that rubs, has a spring and no drive."""
    tree, out = given.tree, []
    for j in tree.coupling.free:
        joint = given.figure.joint(tree.ids[j])
        springs = [load for load in tree.loaded[j] if given.figure.elements[tree.loads.index(load)].kind in RETURN]
        if springs and joint.rubs:
            felt = cut(tree, j)
            found = given.reuse.of(Returns(felt.tree, felt.j, _wanted(joint), given.gravities))
            out.append(found and replace(found, j=j))
    return tuple(each for each in out if each is not None)


def _wanted(joint: Joint) -> tuple[float, float]:
    """Its wanted range, rad (m)."""
    low, high = (end * joint.measure.si for end in joint.range)
    return low, high


def _tilting(given: Given, joint_id: str) -> float:
    return next((r.hold.worst.moment for r in given.joints if r.joint.id == joint_id), 0.0)


def rods(given: Given) -> tuple[RodFound, ...]:
    """How each rod bends."""
    bump, some = given.figure.assumptions.bump_g, enumerate(given.figure.rods)
    return tuple(given.reuse.of(Bends(given.tree, rod, i, given.gravities, bump)) for i, rod in some)


def cords(given: Given) -> tuple[CordFound, ...]:
    """What each cord that is pulled does to the outermost joint that nothing drives and that it turns."""
    tree, figure, out = given.tree, given.figure, []
    neck = neck_of(figure, tree)
    for i, cord in enumerate(figure.elements):
        if not isinstance(cord, Cord):
            continue
        turned = [j for j in tree.spanned(tree.loads[i]) if j in tree.coupling.free and not tree.slides[j]]
        if turned:
            joint, felt = figure.joint(tree.ids[turned[-1]]), cut(tree, turned[-1])
            drag = _drag(given, joint)
            assumed = drag is None
            if assumed:  # a joint that rubs with nothing would always shut
                drag = _drag(given, Joint(**(dict(joint) | {"drag": Bearing()})))
            load = felt.sources.index(len(tree.bodies) + i) - len(felt.bodies)
            wanted = _wanted(joint)
            found = given.reuse.of(Pulled(felt.tree, load, cord, felt.j, wanted, drag, given.gravities, assumed))
            if found is not None:
                back = found.back and replace(found.back, j=turned[-1])
                near = nearest(tree, i, *neck) if neck is not None else None
                out.append(replace(found, i=i, j=turned[-1], back=back, near=near))
    return tuple(out)


def slides(given: Given) -> dict[str, Along]:
    """What holds each slide that no linear actuator drives and that does not hang free."""
    tree, out = given.loose, {}
    pushed = pushed_by_actuators(given.figure, tree)
    for j, ident in enumerate(tree.ids):
        if tree.slides[j] and j not in pushed and j not in tree.coupling.free:
            felt = cut(tree, j)
            found = given.reuse.of(Slides(felt.tree, felt.j, given.gravities), given.quick)
            rest = rest_pose(tree)
            poses = (felt.pose(rest, found.pose), felt.pose(rest, found.low_pose))
            out[ident] = replace(found, pose=poses[0], low_pose=poses[1])
    return out


def strokes(given: Given) -> tuple[StrokeFound, ...]:
    """What each linear actuator pushes and pulls over the range of what it drives."""
    tree, figure, out = given.loose, given.figure, []
    for i, it in enumerate(figure.elements):
        j = driven_by(tree, i) if isinstance(it, Linear) else None
        if isinstance(it, Linear) and j is not None:
            joint = as_driven(figure, figure.joint(tree.ids[j]))
            drag = next((each for each in given[DRAGS] or () if each.j == j), None)
            rubs = drag.high if drag else 0.0
            out.append(given.reuse.of(Strokes(nameless(tree), i, it, _wanted(joint), rubs, given.gravities)))
    return tuple(each for each in out if each is not None)


def turning(given: Given) -> tuple[TurnFound, ...]:
    """What each motor that turns on must turn with."""
    tree, figure, out = given.loose, given.figure, []
    for i, it in enumerate(figure.elements):
        if isinstance(it, Motor) and figure.joint(it.joint).kind == "turn":
            j = tree.index(it.joint)
            drag = next((each for each in given[DRAGS] or () if each.j == j), None)
            out.append(given.reuse.of(Turned(nameless(tree), i, j, it, drag.high if drag else 0.0, given.gravities)))
    return tuple(out)


def hands(given: Given) -> tuple[HandFound, ...]:
    """What each hand at a lever must push and pull."""
    tree, figure, out = given.loose, given.figure, []
    for i, it in enumerate(figure.elements):
        if isinstance(it, Hand) and figure.joint(it.joint).kind == "turn":
            j = tree.index(it.joint)
            joint = as_driven(figure, figure.joint(it.joint))
            drag = next((each for each in given[DRAGS] or () if each.j == j), None)
            rubs, arm = drag.high if drag else 0.0, it.arm_mm / 1e3
            out.append(
                given.reuse.of(Levered(nameless(tree), i, j, arm, it.turns, _wanted(joint), rubs, given.gravities))
            )
    return tuple(out)


def room(given: Given) -> RoomFound | None:
    """Whether all parts go past each other; None where nobody asked, and while a hand drags. At first, quickly, from a few poses."""
    figure = given.figure
    if figure.room is None:
        return None
    rows, solids = [], []
    every = blocks(figure)
    for row, part in enumerate(every):
        solid = solid_of(part, place_of(given.tree, part.rides_on))
        if solid is not None:
            rows.append(row)
            solids.append(solid)
    place = {every[row].id: k for k, row in enumerate(rows)}
    pairs = ((place.get(pair.one), place.get(pair.other)) for pair in figure.room.together)
    skipped = sorted({(min(a, b), max(a, b)) for a, b in pairs if a is not None and b is not None and a != b})
    must = figure.room.gap_mm / 1e3
    enough = must * figure.assumptions.wished_margin
    asked = Rooms(unladen(run_past(figure, given.tree)), tuple(solids), tuple(skipped), enough, must)
    if given.quick and not given.reuse.has(asked):
        return None if given.dragging else replace(asked.glance(), rows=tuple(rows))
    if not given.reuse.trying and not given.reuse.has(asked):
        given.reuse.keep(asked, asked.look(FINE, given.course))
    found = given.reuse.of(asked, given.reuse.trying)
    return replace(found, rows=tuple(rows))


def fastenings(given: Given) -> tuple[FastenedFound, ...]:
    """What holds something on, against its weight and a bump."""
    figure, tree, known = given.figure, given.loose, given.figure.assumptions
    bump = known.bump_g * known.gravity_mps2
    found = (
        given.reuse.of(Holds(weighing(tree, held_rows(tree, it.carries)), it, i, given.gravities, bump))
        for i, it in enumerate(figure.fastenings)
    )
    return tuple(each for each in found if each is not None)


def worn(given: Given) -> tuple[WayFound, ...]:
    """What a worn figure asks of its wearer; beside its own way the other three, except while remedies are tried or a hand drags."""
    figure, tree = given.figure, replace(nameless(given.tree), loads=())
    if figure.base.held != "worn" or float(tree.mass.sum()) <= 0:
        return ()
    others = not (given.quick or given.reuse.trying)
    return given.reuse.of(Wears(tree, figure.base, figure.postures, figure.assumptions.gravity_mps2, others))


def stalls(given: Given) -> StallSum:
    """All stall currents, A, against the supply."""
    return stall_sum(given.figure)
