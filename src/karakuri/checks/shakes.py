"""Shakes after a move, or hunts at rest: a servo's loop with what it turns, what gives and what has play. All of it an estimate."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import capability
from karakuri.catalogue import servo_classes
from karakuri.checks.contract import SHAKES, JointResults, Results, torque, turned, wished
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.statics import carried_centre
from karakuri.model.drive import Drive, Mount
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import fit_servo
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.part import BASE, Point
from karakuri.model.profiles import DESCRIBED
from karakuri.model.ref import Ref
from karakuri.motion.frames import HOME_RAD_PER_S
from karakuri.sizing.shaking import Shaking, Through, Told, pulls_of, shaking, through_of, train_of
from karakuri.units import Quantity

HARDLY = math.radians(0.02)
SIZELESS = 0.1
SLOWER, LONGEST_S = 1.15, 8.0
DEAD_DEG = (0.6, 0.8, 1.0, 1.5, 2.0)
DEAD_ZONES_DEG = (1.0, 1.5, 2.0, 3.0, 5.0)
LEVER_MM = 10.0
"""A pivot moved by less is not worth it: common practice, no source."""
PADS = (0.02, 0.04, 0.07, 0.1, 0.15)
"""Shares of stall torque that a friction pad may rub with."""


def find(results: Results) -> Iterable[Finding]:
    for r in results.joints:
        found = (results[SHAKES] or {}).get(r.joint.id)
        if found is not None and (found.hunts or r.joint.move is not None):
            yield _one(results, r, found)


def _reserve(found: Shaking) -> float:
    size = max(found.past, found.answer.swing)
    return found.visible / size if size > 1e-9 else math.inf


def verdict_on(found: Shaking, margin: float) -> Verdict:
    """What runs past its end by less than what is seen does not shake; what never rests is at most tight. `margin` is the wished one, a ratio."""
    verdict = verdict_of(_reserve(found), margin)
    return "tight" if found.hunts and verdict == "holds" else verdict


def _one(results: Results, r: JointResults, found: Shaking) -> Finding:
    visible = found.visible
    verdict, reserve = verdict_on(found, wished(results)), _reserve(found)
    past = Quantity(found.past, "angle", rounding="up")
    rim = Quantity(found.past * found.rim, "length", rounding="up")
    own = "its own loop" if found.train.pulsed is not None else "its servo"
    swing = Quantity(found.answer.swing, "angle", rounding="up")
    quantities: tuple[Quantity, ...]
    if found.hunts:
        text = f"{r.joint.name} hunts at rest: it goes on swinging {{0}}, {own} starts {{1}} a minute; an estimate."
        quantities = (swing, Quantity(found.answer.starts * 60, "count"))
    else:
        how = _how(r)
        does = "shakes after a move" if verdict == "fails" else "comes to rest"
        runs = (
            "it runs {0} past its end, {1} at the rim, and"
            if found.past > HARDLY
            else "it does not run past its end, and"
        )
        rests = "stays within {5} of it from {2} on" if found.answer.rests else "still swings {6} three seconds later"
        text = f"{r.joint.name} {does}: {how} {runs} {rests}; an estimate."
        quantities = (
            past,
            rim,
            Quantity(found.rested, "time", rounding="up"),
            *_asked(r),
            Quantity(visible, "angle"),
            swing,
        )
    low, high = (_ratio(visible, each) for each in reversed(found.past_bounds)) if found.past_bounds else (None, None)
    return Finding(
        finding_id("shakes", r.joint.id),
        "shakes",
        Ref("joint", r.joint.id),
        verdict,
        Sentence(text, quantities),
        reserve=reserve if math.isfinite(reserve) else None,
        reserve_low=low,
        reserve_high=high,
        demand=past,
        capacity=Quantity(visible, "angle"),
        measure=None if math.isfinite(reserve) else Sentence("no overshoot"),
        derivations=tuple(_derivations(r, found)),
        decides=_decides(results, r, found, verdict, visible),
    )


def _ratio(visible: float, past: float) -> float | None:
    return visible / past if past > 1e-9 else None


def _how(r: JointResults) -> str:
    move = r.own
    if move is None:
        return "after a small move"
    return (
        f"after {{3}} in {{4}} ({DESCRIBED[move.kind].spoken})" if DESCRIBED[move.kind].timed else "after {3} at once"
    )


def _asked(r: JointResults) -> tuple[Quantity, ...]:
    return (Quantity(r.own.by, "angle"), Quantity(r.own.time, "time")) if r.own is not None else ()


def _sizeless(results: Results, r: JointResults) -> str:
    """The heaviest part it carries that has no size, where it is a good part of all it carries; '' where there is none."""
    tree, figure = results.tree, results.figure
    carried = [p for p in figure.parts if p.rides_on != BASE and r.index in tree.chains[tree.index(p.rides_on)]]
    whole = sum(p.mass_g or 0.0 for p in carried)
    flat = max((p for p in carried if isinstance(p.shape, Point)), key=lambda p: p.mass_g or 0.0, default=None)
    return flat.name if flat is not None and (flat.mass_g or 0.0) > SIZELESS * whole > 0 else ""


def _decides(results: Results, r: JointResults, found: Shaking, verdict: Verdict, visible: float) -> Sentence | None:
    if verdict != "fails" and (flat := _sizeless(results, r)):
        return Sentence(f"Of {flat} nobody said the size: what it adds to turning is not counted.")
    if found.past_bounds is None or found.hunts:
        return None
    others = {verdict_of(visible / max(each, 1e-9), wished(results)) for each in found.past_bounds} - {verdict}
    if not others:
        return None
    band = Quantity(found.train.band, "angle")
    text = f"How soon a servo pushes with all it has is assumed, {{0}} off; that could make it {' or '.join(sorted(others))}: film a sudden move."
    return Sentence(text, (band,))


def _derivations(r: JointResults, found: Shaking) -> Iterable[Derivation]:
    train = found.train
    inertia = train.motor + train.load
    held = train.stall / train.band
    yield Derivation(
        "Its loop holds with",
        "{0} ÷ {1}",
        (torque(train.stall), Quantity(train.band, "angle")),
        Quantity(held, "twist"),
    )
    yield Derivation(
        "Turns, gears with it",
        "{0} carried + {1} servo",
        (Quantity(train.load, "inertia"), Quantity(train.motor, "inertia")),
        Quantity(inertia, "inertia"),
    )
    swings = Quantity(train.natural_Hz, "frequency")
    stiff = (2 * math.pi * train.natural_Hz) ** 2 * inertia
    parts = (swings, Quantity(inertia, "inertia"))
    yield Derivation(
        "Swings {0}: on that and what gives", "39.48 × {0} × {0} × {1}", parts, Quantity(stiff, "twist"), (swings,)
    )
    if found.slam > 0 and found.rim > 0:
        speed = Quantity(found.slam, "speed")
        yield Derivation(
            "When power comes on, its rim may come at",
            "{0} × {1}",
            (speed, Quantity(found.rim, "length")),
            Quantity(found.slam * found.rim, "velocity", rounding="up"),
        )
        for title, rate in (("with the energy of", found.slam), ("with a slow start only", float(HOME_RAD_PER_S))):
            turning = Quantity(rate, "speed")
            yield Derivation(
                title,
                "{0} × {1} × {1} ÷ 2",
                (Quantity(inertia, "inertia"), turning),
                Quantity(inertia * rate * rate / 2, "energy", rounding="up"),
            )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    found, drive = (results[SHAKES] or {}).get(r.joint.id), results.figure.drive_of(r.joint.id)
    if finding.verdict == "holds" or found is None or drive is None:
        return
    if found.train.pulsed is not None:
        yield from _own_loop(r, drive)
        return
    yield from _eased(results, r, found)
    yield from _stiffer(results, r, found, drive)
    yield from _inwards(results, r)
    yield from _shorter(results, r)
    if found.hunts:
        for dead in DEAD_DEG:
            if dead > drive.actuator.dead_band_deg:
                step = Set(("drives", drive.id, "actuator", "dead_band_deg"), dead)
                edit = Edit(f"a dead band of {dead:g}° for {r.joint.name}", (step,))
                yield Proposal(edit, Sentence("Dead band {0}", (Quantity(math.radians(dead), "angle"),)), "dead band")
    if r.joint.drag is None:
        for share in PADS:
            rubs = round(share * found.train.stall, 4)
            if rubs > r.joint.friction_Nm:
                edit = Edit(f"a friction pad on {r.joint.name}", (Set(("joints", r.joint.id, "friction_Nm"), rubs),))
                yield Proposal(edit, Sentence("Friction pad {0}", (torque(rubs),)), "friction pad")


def _inwards(results: Results, r: JointResults) -> Iterable[Proposal]:
    """What may be moved nearer to the axis: half and nearly all of the way."""
    tree, axis, pivot = results.tree, results.tree.axis[r.index], results.tree.pivot[r.index] * 1e3
    for part in results.figure.parts:
        if not part.movable or part.rides_on not in tree.ids or r.index not in tree.chains[tree.index(part.rides_on)]:
            continue
        off = np.array(part.at_mm) - pivot
        out = off - axis * float(off @ axis)
        far = float(np.linalg.norm(out))
        for share in (0.5, 0.2):
            by = far * (1 - share)
            if by >= 10.0:
                x, y, z = (round(float(a - (1 - share) * b), 1) for a, b in zip(part.at_mm, out, strict=True))
                edit = Edit(f"{part.name} nearer to the axis", (Set(("parts", part.id, "at_mm"), (x, y, z)),))
                yield Proposal(edit, Sentence(f"{part.name} {{0}} nearer to the axis", (Quantity(by / 1e3, "length"),)), f"inwards {part.id}")  # fmt: skip


def _shorter(results: Results, r: JointResults) -> Iterable[Proposal]:
    """The pivot nearer to what it carries, so that its lever is shorter: half and most of the way across the axis."""
    tree, j, axis = results.tree, r.index, results.tree.axis[r.index]
    off = carried_centre(tree, place(tree, np.zeros((len(tree.ids), 1))))[j, :, 0] - tree.pivot[j]
    across = 1e3 * (off - axis * float(off @ axis))
    far = float(np.linalg.norm(across))
    for share in (0.5, 0.8):
        if far * share >= LEVER_MM:
            x, y, z = (round(a + share * float(b), 1) for a, b in zip(r.joint.at_mm, across, strict=True))
            edit = Edit(
                f"pivot of {r.joint.name} nearer to what it carries", (Set(("joints", r.joint.id, "at_mm"), (x, y, z)),)
            )
            yield Proposal(edit, Sentence("Pivot {0} nearer to what it carries", (Quantity(far * share / 1e3, "length"),)), "lever")  # fmt: skip


def _own_loop(r: JointResults, drive: Drive) -> Iterable[Proposal]:
    assert drive.loop is not None
    for dead in DEAD_ZONES_DEG:
        if dead > drive.loop.dead_deg:
            edit = Edit(
                f"a dead zone of {dead:g}° for {r.joint.name}", (Set(("drives", drive.id, "loop", "dead_deg"), dead),)
            )
            yield Proposal(edit, Sentence("Dead zone {0}", (Quantity(math.radians(dead), "angle"),)), "dead zone")


def _again(r: JointResults, found: Shaking, told: Told | None = None) -> Shaking:
    visible = (found.visible, 0.0)
    pulls = pulls_of(r.hold, _through(r))
    return shaking(replace(found.train, pulls=0.0), told or found.told, pulls, visible, found.rim, 0.0, False)


def _through(r: JointResults) -> Through:
    return through_of(r.geared)


def _eased(results: Results, r: JointResults, found: Shaking) -> Iterable[Proposal]:
    """The shortest eased move from which on no longer one is seen to shake."""
    if r.own is None or r.joint.move is None:
        return
    margin = wished(results)
    least = max(r.move.least if r.move is not None and math.isfinite(r.move.least) else 0.0, 0.05)
    times = [least]
    while times[-1] < min(max(4.0 / found.train.natural_Hz, 4 * least), LONGEST_S):
        times.append(times[-1] * SLOWER)
    best = None
    for time in reversed(times):
        told = Told(r.own.by, time, "minimum jerk", 0.0)
        if verdict_on(_again(r, found, told), margin) != "holds":
            break
        best = time
    if best is None:
        return
    seconds = math.ceil(best * 20 - 1e-9) / 20
    if DESCRIBED[r.own.kind].timed and seconds <= r.joint.move.time_s:
        return
    seconds = max(seconds, r.joint.move.time_s) if DESCRIBED[r.own.kind].timed else seconds
    steps = (
        Set(("joints", r.joint.id, "move", "time_s"), seconds),
        Set(("joints", r.joint.id, "move", "profile"), "minimum jerk"),
    )
    yield Proposal(
        Edit(f"ease {r.joint.name}'s move over {seconds:g} s", steps),
        Sentence("Ease the move over {0}", (Quantity(seconds, "time"),)),
        "ease",
    )


def _stiffer(results: Results, r: JointResults, found: Shaking, drive: Drive) -> Iterable[Proposal]:
    """Horn and bracket of metal; the next stronger classes with which it does not shake."""
    figure, known = results.figure, results.figure.assumptions
    firm = Mount(horn="metal", bracket="metal")
    for servo in (drive.actuator, *servo_classes()):
        same = servo is drive.actuator
        if not same and servo.torque_Nm <= drive.actuator.torque_Nm * 1.001:
            continue
        if math.radians(servo.travel_deg) < turned(r):
            continue
        other = Drive(**(dict(drive) | {"actuator": servo} | ({"mount": firm} if same else {})))
        can = capability(other.acting(known.together_share), figure.supply.voltage_V, known)
        tried = _again(r, replace(found, train=train_of(other, can, found.train.load, r.drag, known, _through(r))))
        if verdict_on(tried, wished(results)) == "fails":
            continue
        if same:
            if drive.mount != firm:
                edit = Edit(
                    f"horn and bracket of metal for {r.joint.name}", (Set(("drives", drive.id, "mount"), firm),)
                )
                yield Proposal(edit, Sentence("Horn and bracket of metal"), "mount")
            continue
        yield Proposal(fit_servo(figure, r.joint.id, servo), Sentence(f"Fit {servo.name.split(',')[0]}"), "class")
