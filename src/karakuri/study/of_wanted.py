"""Analyses of wanted moves: what each throws about, whatever a score does."""

from __future__ import annotations

from functools import reduce
from typing import TypeVar

from msgspec.structs import replace

from karakuri.bodies.cut import carried_only, pressing, unstrung
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.checks.contract import STANDING, JointResults
from karakuri.mechanics.rocking import Rocking
from karakuri.mechanics.tipping import footing
from karakuri.model.element import Motor
from karakuri.model.profiles import DESCRIBED
from karakuri.model.rod import Rod
from karakuri.sizing.fastened import Thrown
from karakuri.sizing.moved import Swing
from karakuri.sizing.rods import carried_rows, link_of
from karakuri.sizing.shaft import bearing_off
from karakuri.sizing.tilted import Tilted, worse
from karakuri.sizing.wanted import AskedMove, asked_move
from karakuri.sizing.whipped import Whipped
from karakuri.sizing.whipped import worse as whipped_worse
from karakuri.study.given import Given
from karakuri.study.requests.swings import Flicks, Flings, Swings, Topples, swings_together

Q = TypeVar("Q", Swings, Topples, Flings)


def swings(given: Given) -> dict[str, Tilted]:
    """Of each joint of which it is known what carries it, by id, where wanted moves ask most of that; nothing in a quick study."""
    judged = [] if given.quick else [r for r in given.joints if r.shaft is not None]
    tree = given.tree
    bare = replace(carried_only(tree), low=tree.low, high=tree.high, linkages=(), groups=())
    found: dict[str, Tilted] = {}
    requests, about = [], []
    for moved, asked in _wants(given) if judged else ():
        if bare.coupling.leader[moved] != moved:
            continue
        felt = [r for r in judged if _feels(bare, r.index, moved)]
        offs = tuple((r.index, bearing_off(r.joint)) for r in felt)
        bad = {r.hold.worst.moment_pose.tobytes(): r.hold.worst.moment_pose for r in felt}
        swing = Swing(moved, asked, tuple(bad.values()))
        requests.append(_as_it_is_known(given, Swings(bare, swing, offs, given.gravities)))
        about.append((moved, felt))
    for (moved, felt), asks in zip(about, given.reuse.of_all(requests, swings_together, lambda _: None), strict=True):
        for r, each in zip(felt, asks, strict=True):
            asked_so = each.moved_by(tree.ids[moved])
            found[r.joint.id] = worse(found[r.joint.id], asked_so) if r.joint.id in found else asked_so
    return found


def flicks(given: Given) -> tuple[Whipped, ...]:
    """Where a wanted move throws each rod about most; nothing in a quick study."""
    if given.quick or not given.figure.rods:
        return ()
    bare, out = unstrung(given.tree), []
    for i, rod in enumerate(given.figure.rods):
        known = [
            found
            for moved, asked in _wants(given)
            if _moves(bare, rod, moved)
            if (found := given.reuse.of(Flicks(bare, rod, i, moved, asked, given.gravities))) is not None
        ]
        out += [reduce(whipped_worse, known)] if known else []
    return tuple(out)


def topples(given: Given) -> Rocking | None:
    """How the worst of all wanted moves throws a free-standing figure about on its foot; None in a quick study, and where it does not stand by itself."""
    figure, tree = given.figure, given.tree
    if given.quick or figure.base.held != "stands" or tree.unknown:
        return None
    bare = replace(pressing(tree), low=tree.low, high=tree.high)
    standing, on = given[STANDING], footing(figure.base)
    poses = () if standing is None else (standing.pose,)
    moves = (Swing(k, asked, poses) for k, asked in _wants(given) if bare.coupling.leader[k] == k)
    whole, last = Topples(bare, on, tuple(moves), given.gravities), given.reuse.last("topples", "", len(tree.ids))
    found = given.reuse.of(_as_it_is_known(given, whole, last))
    if found is None:
        return None
    worst, k = found
    given.reuse.remember("topples", "", worst.pose)
    return replace(worst, of=tree.ids[k])


def flings(given: Given) -> tuple[Thrown, ...]:
    """Where a wanted move asks most of each thing that holds something on; nothing in a quick study."""
    figure, tree = given.figure, given.tree
    if given.quick or not figure.fastenings:
        return ()
    bare = unstrung(tree)
    moves = tuple(Swing(k, asked, ()) for k, asked in _wants(given) if bare.coupling.leader[k] == k)
    each = (given.reuse.of(_as_it_is_known(given, Flings(bare, it, i, moves, given.gravities))) for i, it in enumerate(figure.fastenings))  # fmt: skip
    return tuple(replace(one[0], of=tree.ids[one[1]]) for one in each if one is not None)


def _moves(tree: Tree, rod: Rod, moved: int) -> bool:
    """Whether a joint that leads moves what holds a rod, or what that carries, by itself or by what follows it."""
    goes = [i for i, leader in enumerate(tree.coupling.leader) if leader == moved]
    link, rows = link_of(tree, rod.rides_on), carried_rows(tree, rod)
    return any((link >= 0 and i in tree.chains[link]) or bool(tree.rides[i][rows].any()) for i in goes)


def _as_it_is_known(given: Given, whole: Q, known: tuple[Array, ...] = ()) -> Q:
    """What is asked; of a figure that is only proposed, as of its joints, lightly and in poses that are known of the builder's own, but where it is the same."""
    return whole if not given.reuse.trying or given.reuse.has(whole) else whole.lighter(known)


def _wants(given: Given) -> list[tuple[int, AskedMove]]:
    """Every wanted move, with the row of its joint: of one whose servo is judged as that makes it, of one that slides, or that an actuator or a hand moves, as it is written."""
    tree, judged = given.tree, {r.joint.id for r in given.joints}
    turned_on = {each.joint for each in given.figure.elements if isinstance(each, Motor)}
    others = [
        (tree.index(joint.id), asked_move(joint, joint.move, 0.0))
        for joint in given.figure.joints
        if joint.move is not None and joint.role == "driven" and joint.id not in judged | turned_on
    ]
    return [*((r.index, asked) for r in given.joints if (asked := _asked(r)) is not None), *others]


def _asked(r: JointResults) -> AskedMove | None:
    """The wanted move of a joint; one as fast as it goes in the time its servo needs for it."""
    if r.own is None or r.opens or DESCRIBED[r.own.kind].timed or r.move is None or r.move.reserve <= 0:
        return None if r.opens else r.own
    return replace(r.own, time=min(r.own.time, r.move.least))


def _feels(tree: Tree, j: int, moved: int) -> bool:
    """Whether what carries joint j feels it when another moves: one that it carries or that carries it, or that follows such a one."""
    goes = [i for i, leader in enumerate(tree.coupling.leader) if leader == moved]
    return any(j in tree.chains[i] or i in tree.chains[j] for i in goes)
