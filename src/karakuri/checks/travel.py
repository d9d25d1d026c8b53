"""Servo travel too small for the wanted range of a direct drive."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.actuators.pulses import own_pulses
from karakuri.checks.body_proposals import range_edit
from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, turned, wished
from karakuri.model.drive import Drive
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Joint
from karakuri.model.record import Calibration
from karakuri.model.ref import Ref
from karakuri.units import Quantity


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    drive = results.figure.drive_of(r.joint.id)
    if drive is None:
        return
    calibration = results.figure.calibration_of(drive.id)
    if calibration is not None:
        yield _calibrated_together(r, drive, results) if r.shares and r.geared else _calibrated(r.joint, calibration)
        return
    if r.opens:
        return
    width, travel = turned(r), math.radians(drive.actuator.travel_deg)
    reserve = travel / width if width > 0 else math.inf
    verdict = verdict_of(reserve, wished(results))
    has = "turns far enough" if reserve >= 1 else "cannot turn far enough"
    wanted = "{0} is wanted" if r.geared is None else "{0} is wanted of it for its range"
    text = f"{r.joint.name}: its servo {has}: {wanted}, it turns {{1}}."
    quantities = (Quantity(width, "angle", rounding="up"), Quantity(travel, "angle", rounding="down"))
    derivations = (
        ()
        if width <= 0 or r.geared is not None
        else (
            Derivation(
                "Wanted width",
                "{0} − {1}",
                tuple(Quantity(math.radians(d), "angle") for d in reversed(r.joint.range_deg)),
                quantities[0],
            ),
        )
    )
    yield Finding(
        finding_id("travel", r.joint.id),
        "travel",
        Ref("joint", r.joint.id),
        verdict,
        Sentence(text, quantities),
        reserve=reserve,
        demand=quantities[0],
        capacity=quantities[1],
        derivations=derivations,
    )


def _calibrated(joint: Joint, calibration: Calibration) -> Finding:
    """Its ends are measured: the wanted range lies between them or it does not."""
    ends = (calibration.angles_deg[0], calibration.angles_deg[2])
    past = max(ends[0] - joint.range_deg[0], joint.range_deg[1] - ends[1])
    by = Quantity(math.radians(max(past, 0.0)), "angle", rounding="up")
    verdict: Verdict
    if past > 1e-6:
        side = joint.ends[0] if ends[0] - joint.range_deg[0] == past else joint.ends[1]
        text, verdict, measure = (
            f"{joint.name} is wanted {{0}} farther to the side “{side}” than its servo was calibrated.",
            "fails",
            "{0} too far",
        )
    else:
        text, verdict, measure = (
            f"{joint.name} stays between the ends its servo was calibrated to.",
            "holds",
            "between its ends",
        )
    return Finding(
        finding_id("travel", joint.id),
        "travel",
        Ref("joint", joint.id),
        verdict,
        Sentence(text, (by,)),
        measure=Sentence(measure, (by,)),
    )


def _calibrated_together(r: JointResults, drive: Drive, results: Results) -> Finding:
    """Its ends are measured with all that it shares at rest: wherever those may be it is asked for no more than was measured, or it is."""
    assert r.geared is not None
    known = own_pulses(results.figure, drive).angles
    wanted = (float(r.geared.drive.min()), float(r.geared.drive.max()))
    past = max(known[0] - wanted[0], wanted[1] - known[-1])
    by = Quantity(max(past, 0.0), "angle", rounding="up")
    if past > 1e-6:
        verdict: Verdict = "fails"
        text = f"{r.joint.name}: with all that its servo shares where it may be, that has to go {{0}} farther than it was calibrated."
        measure = "{0} too far"
    else:
        verdict, measure = "holds", "between its ends"
        text = f"{r.joint.name}: its servo stays between the ends it was calibrated to, wherever all that it shares may be."
    return Finding(
        finding_id("travel", r.joint.id), "travel", Ref("joint", r.joint.id), verdict, Sentence(text, (by,)), measure=Sentence(measure, (by,)),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    r, drive = results.of(finding.subject.id), results.figure.drive_of(finding.subject.id)
    if drive is None:
        return
    calibration = results.figure.calibration_of(drive.id)
    if calibration is not None:
        low = max(r.joint.range_deg[0], float(math.ceil(calibration.angles_deg[0])))
        high = min(r.joint.range_deg[1], float(math.floor(calibration.angles_deg[2])))
        if low < high:
            label = Sentence(
                "Range {0} to {1}", (Quantity(math.radians(low), "angle"), Quantity(math.radians(high), "angle"))
            )
            yield Proposal(range_edit(r, results, low, high), label, "range")
        return
    yield from class_proposals(r, results)
    if r.geared is not None:
        return
    middle = sum(r.joint.range_deg) / 2
    for wish in (wished(results), 1.0):
        half = drive.actuator.travel_deg / 2 / wish
        low, high = float(math.ceil(middle - half)), float(math.floor(middle + half))
        if low < high:
            label = Sentence(
                "Range {0} to {1}", (Quantity(math.radians(low), "angle"), Quantity(math.radians(high), "angle"))
            )
            yield Proposal(range_edit(r, results, low, high), label, "range")
