"""Analyses of a figure's score: what each finds of what moves."""

from __future__ import annotations

from functools import reduce
from weakref import WeakKeyDictionary

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.cut import carried_only, pressing, unstrung
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.checks.contract import LOADS, SHAKES, STROKES, AtServo, JointResults, PowerFound
from karakuri.mechanics.rocking import Rocking
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.tipping import footing
from karakuri.model.element import Motor
from karakuri.model.figure import Figure
from karakuri.model.makers import Voice
from karakuri.motion.score_motion import ScoreMotion, score_motion
from karakuri.power.fed import asked, servo_V
from karakuri.power.over_score import Fed, parts_of, servo_A, staggered, unwritten
from karakuri.power.supply import stall_sum
from karakuri.power.wire import drop_V
from karakuri.sizing.fastened import Thrown
from karakuri.sizing.page import PAGE_S, SAMPLE_S, Page, ScoredJoint, page_loads, spans
from karakuri.sizing.ringing import Rung, rings
from karakuri.sizing.score_loads import ScoreLoads, score_loads
from karakuri.sizing.shaft import bearing_off
from karakuri.sizing.speaking import Speaking, speaking
from karakuri.sizing.stroke import Pace, pace
from karakuri.sizing.tilted import Tilted, worse
from karakuri.sizing.whipped import Whipped, lead_s
from karakuri.sizing.whipped import worse as whipped_worse
from karakuri.study.given import Given
from karakuri.study.requests.page import pages_of
from karakuri.study.requests.stretch import Leap, Rocks, Sheds, Stretch, Tilts, Whips, rocks_together, tilts_together
from karakuri.wiring.table import wires

WORST = 50
LONG_S = 20.0
"""A stretch of what still feels what was before: longer than a page, for each begins so much earlier."""


def loads(given: Given) -> ScoreLoads | None:
    """What the score asks of every drive, page by page. None where nothing moves."""
    figure, tree, reuse = given.figure, given.tree, given.reuse
    if not figure.score.moves_something:
        return None
    motion = score_motion(figure, tree, rest_pose(tree), reuse.tracks)
    joints = tuple(_scored(figure, motion.source[r.index], r) for r in given.joints)
    joints += tuple(ScoredJoint(each.j, motion.source[each.j], None, 0.0, each.rubs) for each in given[STROKES] or ())
    leads = [tree.coupling.leader[joint.joint] for joint in joints]  # a track goes as the leader does
    limits = tuple((float(tree.low[k]), float(tree.high[k])) for k in leads)
    bare = carried_only(tree)
    whole = Page(bare, motion, joints, given.gravities, 0.0, motion.length)
    requests = pages_of(whole, spans(motion.length)) if joints else []  # of what no servo drives only the way is known
    found = given.reuse.of_all(
        requests,
        lambda missing: page_loads([request.page for request in missing]),
        lambda request: _went(given, request.page.begin),
    )
    return score_loads(motion, joints, limits, found, figure.assumptions.heat_window_s, figure.score.loops)


def _went(given: Given, begin: float) -> None:
    """How far the score is judged, s; raises GivenUp where nobody waits any more."""
    length = given.figure.score.length_s
    given.course.at(f"the score, {begin:.0f} of {length:.0f} s", begin / length)


def moves(figure: Figure) -> bool:
    """Whether anything is thrown about: by the score in hand, or by a motor that turns on whatever that plays."""
    return figure.score.moves_something or any(isinstance(each, Motor) for each in figure.elements)


def rocks(given: Given) -> Rocking | None:
    """How the score throws a free-standing figure about on its foot; None in a quick study, which leaves that as it was found, and where it does not stand by itself."""
    figure, tree = given.figure, given.tree
    if given.quick or figure.base.held != "stands" or not moves(figure) or tree.unknown:
        return None
    bare, on = pressing(tree), footing(figure.base)
    each = given.reuse.of_all(
        [Rocks(bare, on, given.gravities, over) for over in _stretches(given)],
        rocks_together,
        lambda request: _went(given, request.over.begin),
    )
    return min((one for one in each if one is not None), key=lambda one: one.reserve, default=None)


def sheds(given: Given) -> tuple[Thrown, ...]:
    """Where the score asks most of each thing that holds something on; nothing in a quick study."""
    figure, tree = given.figure, given.tree
    if given.quick or not figure.fastenings or not moves(figure):
        return ()
    bare, stretches = _as_it_moves(tree), _stretches(given)
    out = []
    for i, it in enumerate(figure.fastenings):
        each = (given.reuse.of(Sheds(bare, it, i, given.gravities, over)) for over in stretches)
        out.append(max((one for one in each if one is not None), key=lambda one: one.used, default=None))
    return tuple(one for one in out if one is not None)


def whips(given: Given) -> tuple[Whipped, ...]:
    """Where the score throws each rod about most, of those that it moves; nothing in a quick study."""
    figure, tree = given.figure, given.tree
    if given.quick or not figure.rods or not moves(figure):
        return ()
    bare = _as_it_moves(tree)
    out = []
    for i, rod in enumerate(figure.rods):
        stretches = _stretches(given, LONG_S, lead_s(bare, rod))
        each = (given.reuse.of(Whips(bare, rod, i, given.gravities, over)) for over in stretches)
        known = [one for one in each if one is not None]
        out += [reduce(whipped_worse, known)] if known else []
    return tuple(out)


def _as_it_moves(tree: Tree) -> Tree:
    """The tree as far as it decides where all is that is moved as given; ranges of what hangs and what is strung matter where something does."""
    moved = carried_only(tree)
    return replace(unstrung(tree), low=moved.low, high=moved.high)


def tilts(given: Given) -> dict[str, Tilted]:
    """Of each joint of which it is known what carries it, by id, where the score asks most of that; nothing in a quick study."""
    judged = [r for r in given.joints if r.shaft is not None]
    if given.quick or not judged or not moves(given.figure):
        return {}
    bare = replace(carried_only(given.tree), linkages=(), groups=())
    offs = tuple((r.index, bearing_off(r.joint)) for r in judged)
    requests = [Tilts(bare, offs, given.gravities, over) for over in _stretches(given)]
    each = given.reuse.of_all(requests, tilts_together, lambda request: _went(given, request.over.begin))
    return {r.joint.id: reduce(worse, found) for r, found in zip(judged, zip(*each, strict=True), strict=True)}


_lately: WeakKeyDictionary[Given, dict[tuple[float, float], list[Stretch]]] = WeakKeyDictionary()
"""Stretches of a study under way: several analyses ask for the same, and what they are sampled at is kept with them."""


def _stretches(given: Given, long: float = PAGE_S, lead: float = 0.0) -> list[Stretch]:
    """The score's motion in stretches `long` s each, each from `lead` s before, with what goes at once in it."""
    known = _lately.setdefault(given, {})
    if (long, lead) not in known:
        tree, found = given.tree, given[LOADS]
        motion = score_motion(given.figure, tree, rest_pose(tree), given.reuse.tracks)
        leaps = _leaps(motion, found) if found is not None else ()
        each = [(max(a - lead, 0.0), b) for a, b in spans(motion.length, long)]
        known[long, lead] = [Stretch(motion, a, b, tuple(leap for leap in leaps if a <= leap[0] < b)) for a, b in each]
    return known[long, lead]


def _leaps(motion: ScoreMotion, found: ScoreLoads) -> tuple[Leap, ...]:
    """Moves that go at once as triangles of speed over their least time."""
    out = []
    for c, track in enumerate(motion.tracks):
        rows = tuple(j for j, source in enumerate(motion.source) if source == c)
        loads = [load for load in found.joints if load.joint.channel == c and load.joint.can is not None]
        for k in np.flatnonzero(track.at_once) if rows and loads else ():
            needs = max(float(load.moves.least[k]) for load in loads)
            if 0.0 < needs < np.inf:
                pushed, departs = 4.0 * float(track.distance[k]) / needs**2, float(track.departs[k])
                out.append((departs, departs + needs, rows, tuple(float(motion.gain[j]) * pushed for j in rows)))
    return tuple(out)


def ringing(given: Given) -> dict[str, tuple[Rung, ...]]:
    """How the moves of each judged joint end; nothing in a quick study."""
    figure, tree = given.figure, given.tree
    if given.quick or not figure.score.moves_something:
        return {}
    motion, out = score_motion(figure, tree, rest_pose(tree), given.reuse.tracks), {}
    shaking = given[SHAKES] or {}
    for r in given.joints:
        channel, found = motion.source[r.index], shaking.get(r.joint.id)
        if channel >= 0 and found is not None:
            track, gain = motion.tracks[channel], float(motion.gain[r.index])
            out[r.joint.id] = rings(track, r.index, gain, found, motion.length)
    return out


def spoken(given: Given) -> tuple[Speaking, ...]:
    """How each voice goes with its jaw."""
    figure = given.figure
    voices = [maker for maker in figure.score.makers if isinstance(maker, Voice)]
    if not voices:
        return ()
    channels = figure.score.moved
    motion = score_motion(figure, given.tree, rest_pose(given.tree), given.reuse.tracks)
    place = {channel.id: k for k, channel in enumerate(channels)}
    return tuple(speaking(figure, voice, given.heard or {}, motion.tracks[place[voice.jaw]]) for voice in voices)


def paces(given: Given) -> tuple[Pace, ...]:
    """How fast the score asks each linear actuator to go, and with what force."""
    figure, tree = given.figure, given.tree
    if not given[STROKES] or not figure.score.moves_something:
        return ()
    motion = score_motion(figure, tree, rest_pose(tree), given.reuse.tracks)
    loads, out = given[LOADS], []
    for each in given[STROKES] or ():
        c, load = motion.source[each.j], loads.of(each.j) if loads is not None else None
        if c >= 0:
            ratio = (float(motion.gain[each.j]), float(motion.offset[each.j]))
            out.append(pace(each, motion.tracks[c], *ratio, motion.length, load.effort if load is not None else None))
    return tuple(out)


def power(given: Given) -> PowerFound | None:
    """What is drawn over the score and what that asks of what feeds the figure; None where nothing is said of that.

    A servo whose load is not known, or that no score moves, may draw anything up to its stall current."""
    figure = given.figure
    if figure.power is None:
        return None
    loads, stalls = given[LOADS], dict(stall_sum(figure).each)
    by_joint = {r.joint.id: r for r in given.joints}
    fed, unknown = [], []
    for joint, stall_A in stalls.items():
        r = by_joint.get(joint)
        load = loads.of(r.index) if loads is not None and r is not None else None
        if r is None or r.can is None or r.missing or load is None:
            unknown.append(joint)
            continue
        torque, speed = load.samples.astype(float)
        fed.append(Fed(joint, r.joint.region, stall_A, r.can.stall, torque, speed))
    sounds = {sound.id: sound for sound in figure.sounds}
    motion = loads.motion if loads is not None else None
    parts = parts_of(figure.power.loads, figure.score, motion, fed, given.heard or {}, sounds, SAMPLE_S)
    total = np.sum([part.amps for part in parts], axis=0) if parts else np.zeros(1)
    jam = sum(stalls.values()) + sum(load.amps for load in figure.power.loads)
    regions = sorted({each.region for each in fed})
    later = None if given.quick else staggered(parts, regions, SAMPLE_S)  # a hand that drags does not wait for advice
    wire_C, volts, more = figure.assumptions.wire_C, figure.supply.voltage_V, sum(stalls[joint] for joint in unknown)
    return PowerFound(
        parts, total, SAMPLE_S, float(total.argmax()) * SAMPLE_S, float(sum(part.amps.max() for part in parts)),
        asked(figure.power, volts, total, SAMPLE_S, jam, wire_C), asked(figure.power, volts, total + more, SAMPLE_S, jam, wire_C),
        tuple(figure.joint(joint).name for joint in unknown), tuple(unwritten(figure)), later, at_servos(figure, total, more, fed),
    )  # fmt: skip


def at_servos(figure: Figure, total: Array, more: float, fed: list[Fed]) -> tuple[AtServo, ...]:
    """What reaches each servo along its own wires, of total (n,) A all together and `more` A of what nobody knows: at its worst moment, looked for among those of
    most current of all and of its own, and no less than with both at once."""
    power, volts, by_joint = figure.power, figure.supply.voltage_V, {each.joint: each for each in fed}
    if power is None:
        return ()
    drives, plugs, mean = (
        {drive.id: drive for drive in figure.drives},
        {plug.id: plug for plug in figure.plugs},
        float(total.mean()),
    )
    at_C = figure.assumptions.wire_C
    peak, out = servo_V(power, volts, float(total.max()) + more, mean, at_C), []
    busiest, stalls = np.argsort(total)[-WORST:], dict(stall_sum(figure).each)
    for wire in wires(figure):
        plug = plugs.get(wire.plug)
        if plug is None or plug.of != "drive" or wire.lead != "plus" or wire.length is None:
            continue
        drive, each = drives[plug.item], by_joint.get(drives[plug.item].joint)
        if drive.actuator.stepper is not None:
            continue
        if each is None:
            amps = stalls[drive.joint]
            least = peak - drop_V(amps, wire.length, wire.awg, at_C)
            out.append(AtServo(plug.id, amps, least, least, False))
            continue
        drawn = np.pad(servo_A(each)[: len(total)], (0, max(0, len(total) - len(each.torque))), mode="edge")
        moments = np.unique(np.concatenate([busiest, np.argsort(drawn)[-WORST:]]))
        seen = min(
            servo_V(power, volts, float(total[k]), mean, at_C) - drop_V(float(drawn[k]), wire.length, wire.awg, at_C)
            for k in moments
        )
        amps = float(drawn.max())
        out.append(AtServo(plug.id, amps, seen, peak - drop_V(amps, wire.length, wire.awg, at_C), True))
    return tuple(sorted(out, key=lambda each: each.least))


def _scored(figure: Figure, channel: int, r: JointResults) -> ScoredJoint:
    """A judged joint over the score."""
    drive = figure.drive_of(r.joint.id)
    reflected = drive.acting(1.0).reflected_inertia_kgm2 if drive else 0.0
    return ScoredJoint(r.index, channel, r.can, reflected, r.drag.value if r.drag else 0.0)
