"""Everything about one driven joint: its worst poses, its bounds, its wanted move, its shaft."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import Capability, capability
from karakuri.bodies.coordinates import led
from karakuri.bodies.cut import Cut, cut, felt_by, pull_at, unladen
from karakuri.bodies.elements import not_known
from karakuri.bodies.tree import Tree, posture_gravity
from karakuri.catalogue import servo_classes
from karakuri.checks.contract import JointResults, Needed, Shares
from karakuri.digest import digest
from karakuri.mechanics.at_drive import asked_of
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.worst import Worst, joint_torque_Nm
from karakuri.model.element import Element, Hand, Motor
from karakuri.sizing.drag import Dragging, felt_drag
from karakuri.sizing.fastened import pressing_N
from karakuri.sizing.flaws import flaw
from karakuri.sizing.followed import as_driven
from karakuri.sizing.geared import Geared, geared
from karakuri.sizing.hold import Extremes, Hold, hold
from karakuri.sizing.shaft import shaft
from karakuri.sizing.stroke import pushed_by_actuators
from karakuri.sizing.wanted import asked_move, at_joint, judge
from karakuri.study.requests.joint import Bounds, HurriedPose, MovePlaces, Together, WorstPose

if TYPE_CHECKING:
    from karakuri.bodies.inertia import Array
    from karakuri.model.drive import Drive
    from karakuri.model.figure import Figure
    from karakuri.model.joint import Joint
    from karakuri.model.part import Part
    from karakuri.sizing.tries import PlacedMove
    from karakuri.study.reuse import Reuse

FAR_MORE = 4.0
"""While a hand drags, a move that left so many times as much as the hardest, and holds by as much, is not looked at."""


def gravities_of(figure: Figure) -> Array:
    """Gravity in the base's frame in every stance, (p, 3) m/s²."""
    return np.array([posture_gravity(posture, figure.assumptions.gravity_mps2) for posture in figure.stances])


def joint_results(
    figure: Figure, tree: Tree, joint: Joint, gravities: Array, reuse: Reuse, quick: bool = False
) -> JointResults:
    """Results of a driven turning joint; gravities (p, 3) m/s². Never raises for an unwise figure."""
    j = tree.index(joint.id)
    felt = cut(tree, j)
    unsaid = {id(load) for load, element in zip(tree.loads, figure.elements, strict=True) if not_known(element)}
    missing: tuple[Part | Element, ...] = (
        *(figure.part(ident) for ident, link in tree.unknown if link in felt_by(tree, j)),
        *(figure.elements[i] for i, load in enumerate(tree.loads) if id(load) in unsaid and load in pull_at(tree, j)),
    )
    drive = figure.drive_of(joint.id)
    rest = rest_pose(tree)
    rubs = tuple((each.drag, each.friction_Nm, pressing_N(figure, each.id)) for each in _followed(figure, tree, j))
    others = tuple(each for each in _moving_it(figure, felt, joint) if each.id != joint.id)
    shared = (
        others,
        tuple(figure.drive_of(each.id) for each in others),
        flaw(figure, drive) if drive is not None else "",
    )
    depends = (rubs, shared, digest((felt.tree, felt.j, gravities, rest, felt.rows, felt.sources)), joint, drive, figure.assumptions, figure.supply.voltage_V, missing)  # fmt: skip
    known = reuse.joint(joint.id, depends, quick)
    if known is None:
        known = _joint_results(figure, felt, joint, drive, missing, gravities, reuse, quick)
        reuse.keep_joint(joint.id, depends, quick, known)
    return known


def _joint_results(
    figure: Figure, felt: Cut, joint: Joint, drive: Drive | None, missing: tuple[Part | Element, ...], gravities: Array, reuse: Reuse, quick: bool
) -> JointResults:  # fmt: skip
    servo = drive.acting(figure.assumptions.together_share) if drive else None
    found = _worst(felt, joint.id, gravities, reuse, quick)
    through = _geared(felt, joint, found, reuse, quick)
    if through is not None and drive is not None:
        through = replace(through, flaw=flaw(figure, drive))
    reaches = through is None or (through.shut and not through.flaw)
    can = capability(servo, figure.supply.voltage_V, figure.assumptions) if servo and reaches else None
    # what is only proposed is judged at known poses: they are those of the builder's own figure
    lightly = quick or reuse.trying
    bounds = _bounds(felt, found, gravities, reuse, lightly)
    tree, j = felt.whole, felt.rows[felt.j]
    resting = rested(tree, j, joint)
    rest, rest_bounds = None, None
    if resting is not None:
        there = cut(resting, j)
        rest = _worst(there, f"{joint.id} at rest", gravities, reuse, quick)
        rest_bounds = _bounds(there, rest, gravities, reuse, lightly)
    held = _whole(hold(felt.tree, felt.j, found, bounds, gravities, rest, rest_bounds), felt)
    known = (found.pose, found.moment_pose, *((rest.pose,) if rest is not None else ()))
    moment = max(found.moment, rest.moment if rest is not None else 0.0)
    drag = _dragged(figure, felt, gravities, moment)
    reflected = servo.reflected_inertia_kgm2 if servo else 0.0
    every = _moving_it(figure, felt, joint) if reaches else ()

    def place(other: Joint) -> tuple[PlacedMove | None, Dragging | None]:
        theirs = drag if other.id == joint.id else _dragged_there(figure, tree, other, gravities, reuse, quick)
        rubs = theirs.value if theirs else 0.0
        return _placed(figure, felt, joint, other, rubs, gravities, known, reuse, lightly), theirs

    placed, moved, rubbing = _hardest(joint, every, place, drag, can, reflected, reuse, quick)
    rubs = rubbing.value if rubbing else 0.0
    move = judge(placed, can, reflected, rubs) if placed is not None and can is not None else None
    move_bounds = None
    if placed is not None and can is not None and rubbing is not None:
        bounds_of = (judge(placed, can, reflected, each).reserve for each in (rubbing.high, rubbing.low))
        move_bounds = (next(bounds_of), next(bounds_of))
    if move is not None:
        reuse.remember("move", joint.id, felt.pose(rest_pose(tree), move.pose))
        if through is not None:
            alone = placed is not None and through.linkage is not None
            moving = through.under(at_joint(placed, rubs)) if alone else through.while_moving(move.torque)  # type: ignore[arg-type]
            through = replace(through, moving=moving)
    return JointResults(
        joint, j, held, placed, can, move, shaft(tree, j, joint, drive, held.worst, gravities, figure.assumptions.together_share), drag, move_bounds, missing, through, moved,
        _shares(felt, found, gravities), rubs,
    )  # fmt: skip


def _dragged(figure: Figure, felt: Cut, gravities: Array, moment: float) -> Dragging | None:
    """What a joint's drive rubs with, its support tilted with so much, N·m; gravities (p, 3) m/s²."""
    inside = tuple(figure.joint(felt.whole.ids[i]) for i in felt.rows)
    presses = tuple(pressing_N(figure, each.id) for each in inside)
    return felt_drag(felt.tree, felt.j, inside, gravities, moment, presses)


def _dragged_there(
    figure: Figure, tree: Tree, other: Joint, gravities: Array, reuse: Reuse, quick: bool
) -> Dragging | None:
    """The same of another joint, as it is found for that one itself."""
    felt = cut(tree, tree.index(other.id))
    return _dragged(figure, felt, gravities, _worst(felt, other.id, gravities, reuse, quick).moment)


def _hardest(
    joint: Joint,
    every: tuple[Joint, ...],
    place: Callable[[Joint], tuple[PlacedMove | None, Dragging | None]],
    drag: Dragging | None,
    can: Capability | None,
    reflected: float,
    reuse: Reuse,
    quick: bool,
) -> tuple[PlacedMove | None, Joint, Dragging | None]:
    """Of the wanted moves of `every` joint that asks something of a joint's drive the one that leaves it least: placed, whose it is, and what rubs then; reflected
    kg·m²."""
    moving = _hard_ones(every, reuse.left(joint.id)) if quick and len(every) > 1 and not reuse.trying else every
    hardest: tuple[PlacedMove | None, Joint, Dragging | None] = (None, joint, drag)
    left: dict[str, float] = {}
    for other in moving:
        placed, rubbing = place(other)
        if placed is None:
            continue
        reserve = judge(placed, can, reflected, rubbing.value if rubbing else 0.0).reserve if can is not None else 0.0
        if not left or reserve < min(left.values()):
            hardest = (placed, other, rubbing)
        left[other.id] = reserve
    if len(left) == len(every) > 1:
        reuse.remember_left(joint.id, left)
    return hardest


def _hard_ones(moving: tuple[Joint, ...], left: dict[str, float]) -> tuple[Joint, ...]:
    """Those of the joints that move which may leave a drive least, by what each last left it; all, where one of them is new."""
    if not all(each.id in left for each in moving):
        return moving
    least = min(left.values(), default=0.0)
    return tuple(each for each in moving if left[each.id] <= FAR_MORE * max(least, 1.0))


def _moving_it(figure: Figure, felt: Cut, joint: Joint) -> tuple[Joint, ...]:
    """The joints whose wanted moves ask something of a joint's drive: its own first, then those of drives that share joints with it."""
    others = (felt.whole.ids[felt.rows[k]] for k in asked_of(felt.tree, felt.j) if k != felt.j)
    return (joint, *(as_driven(figure, figure.joint(ident)) for ident in others))


def _shares(felt: Cut, found: Worst, gravities: Array) -> tuple[Shares, ...]:
    """What each joint asks of a drive that shares them, at its worst pose; nothing of one that turns its joint alone."""
    group = felt.tree.group(felt.j)
    if group is None:
        return ()
    q, g = found.pose[:, None], gravities[found.posture]
    weights = group.weights(felt.j, q)[:, 0]
    asked = (float(joint_torque_Nm(felt.tree, k, q, g)[0]) for k in group.joints)
    way = math.copysign(1.0, found.hold)
    return tuple(
        Shares(felt.whole.ids[felt.rows[k]], torque, way * float(weight))
        for k, torque, weight in zip(group.joints, asked, weights, strict=True)
    )


def _geared(felt: Cut, joint: Joint, found: Worst, reuse: Reuse, quick: bool) -> Geared | None:
    """What lies between the joint and its servo, where its worst poses were found."""
    if felt.tree.group(felt.j) is not None:
        together = reuse.of(Together(replace(unladen(felt.tree), groups=felt.tree.groups), felt.j), quick)
        return replace(together, force=found.force, force_at=found.force_at)
    linkage = felt.tree.linkage(felt.j)
    return None if linkage is None else geared(linkage, joint, found.force, found.force_at)


def _followed(figure: Figure, tree: Tree, j: int) -> tuple[Joint, ...]:
    """The joint and all that follow it."""
    return tuple(figure.joint(tree.ids[k]) for k, _ in tree.coupling.loads[j])


def needed(figure: Figure, tree: Tree, joint_id: str, gravities: Array, reuse: Reuse) -> Needed:
    """What decides a joint's hold in an edited figure, as a torque, N·m, that would have to be held for long; from a few starts. gravities (p, 3) m/s²."""
    joint, j = as_driven(figure, figure.joint(joint_id)), tree.index(joint_id)
    felt = cut(tree, j)
    everywhere = _in_whole(_worst(felt, joint.id, gravities, reuse, quick=True), felt)
    resting = rested(tree, j, joint)
    rest = everywhere
    if resting is not None:
        rest = _in_whole(_worst(cut(resting, j), f"{joint.id} at rest", gravities, reuse, quick=True), felt)
    assumptions, drive = figure.assumptions, figure.drive_of(joint.id)
    metal = drive is not None and drive.actuator.gears == "metal"
    share = assumptions.held_share if metal else assumptions.held_share_plastic
    factor = min(1.0, share / assumptions.passing_share) if resting is not None else 1.0
    if abs(rest.hold) >= factor * abs(everywhere.hold):
        return Needed(abs(rest.hold), 1.0, rest)
    return Needed(factor * abs(everywhere.hold), factor, everywhere)


def rested(tree: Tree, j: int, joint: Joint) -> Tree | None:
    """The tree with joint j only where it may rest, or None where that is all of its wanted range; what leads it stands accordingly."""
    if joint.rests_deg is None:
        return None
    low, high = (min(max(math.radians(end), float(tree.low[j])), float(tree.high[j])) for end in joint.rests_deg)
    if low <= tree.low[j] and high >= tree.high[j]:
        return None
    tied, lows, highs = tree.coupling, tree.low.copy(), tree.high.copy()
    k = tied.leader[j]
    lows[k], highs[k] = sorted(tied.to_leader(j, end) for end in (low, high))
    lows, highs = led(tied, lows, highs)
    return replace(tree, low=lows, high=highs)


def judged_joints(figure: Figure, tree: Tree) -> tuple[Joint, ...]:
    """Turning joints that are moved: driven ones, but those that a linear actuator, a motor that turns on or a hand moves, and followers, by a servo of their own or
    a link."""
    pushed = {tree.ids[j] for j in pushed_by_actuators(figure, tree)} | {
        e.joint for e in figure.elements if isinstance(e, Motor | Hand)
    }
    served = {drive.joint for drive in figure.drives}
    return tuple(
        as_driven(figure, joint)
        for joint in figure.joints
        if joint.kind == "turn" and joint.role != "free" and (joint.id not in pushed or joint.id in served)
    )


def _worst(felt: Cut, about: str, gravities: Array, reuse: Reuse, quick: bool) -> Worst:
    """The worst poses, of the joints that are felt; the last ones are among the starts."""
    known = tuple(map(felt.inner, reuse.last("worst pose", about, len(felt.whole.ids))))
    asked = WorstPose(felt.tree, felt.j, gravities)
    if quick and known and not reuse.trying and not reuse.has(asked):
        asked = HurriedPose(felt.tree, felt.j, gravities)
    found = reuse.of(asked, quick, known)
    rest = rest_pose(felt.whole)
    reuse.remember("worst pose", about, felt.pose(rest, found.pose), felt.pose(rest, found.moment_pose))
    return found


def _bounds(felt: Cut, found: Worst, gravities: Array, reuse: Reuse, quick: bool) -> Extremes:
    """Extremes over uncertain masses, of the bodies that are felt."""
    return reuse.of(Bounds(felt.tree, felt.j, gravities, found.pose), quick, (found.moment_pose,))


def _whole(held: Hold, felt: Cut) -> Hold:
    """A hold over the cut as one over the whole tree: its poses and bodies."""
    shares = tuple((felt.sources[i], adds, off) for i, adds, off in held.shares)
    worst = _in_whole(held.worst, felt)
    return replace(
        held, shares=shares, worst=worst, resting=worst if held.resting is held.worst else _in_whole(held.resting, felt)
    )


def _in_whole(found: Worst, felt: Cut) -> Worst:
    rest = rest_pose(felt.whole)
    return replace(found, pose=felt.pose(rest, found.pose), moment_pose=felt.pose(rest, found.moment_pose))


def _placed(
    figure: Figure,
    felt: Cut,
    joint: Joint,
    moved: Joint,
    rubs: float,
    gravities: Array,
    known: tuple[Array, ...],
    reuse: Reuse,
    quick: bool,
) -> PlacedMove | None:
    """The wanted move of `moved` where it is worst for the joint's drive, its poses those of the joints that feels; without a drive, tried with the strongest
    class."""
    if moved.move is None:
        return None
    drive = figure.drive_of(joint.id)
    servo = drive.acting(figure.assumptions.together_share) if drive else servo_classes()[-1]
    can = capability(servo, figure.supply.voltage_V, figure.assumptions)
    row = felt.rows.index(felt.whole.index(moved.id))
    request = MovePlaces(
        felt.tree, row, gravities, asked_move(moved, moved.move, rubs), can, servo.reflected_inertia_kgm2, felt.j
    )
    last = map(felt.inner, reuse.last("move", joint.id, len(felt.whole.ids)))
    return reuse.of(request, quick, (*known, *last))
