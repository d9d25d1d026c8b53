"""Stops inside the wanted range: the room to a stop against tolerance + overshoot."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.body_proposals import range_edit
from karakuri.checks.contract import Results, angle, wished
from karakuri.limits.travel import allowed_range, clear_range, room, stop_reserves
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Joint
from karakuri.model.record import Calibration
from karakuri.model.ref import Ref
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    clear = {r.joint.id: clear_range(r.joint, _calibration(results, r.joint.id)) for r in results.joints}
    unmeasured = [r.joint for r in results.joints if r.joint.stops_deg is None and clear[r.joint.id] is None]
    if unmeasured:
        names = unmeasured[0].name if len(unmeasured) == 1 else f"{unmeasured[0].name} and {len(unmeasured) - 1} more"
        yield Finding(
            "stops.unmeasured",
            "stops",
            Ref("joint", unmeasured[0].id),
            "not yet judged",
            Sentence(f"How far {names} may turn is not known until the stops are measured."),
            measure=Sentence(f"stops of {names} not measured"),
            actions=(Action("Write the stops", Ref("joint", unmeasured[0].id), "stops"),),
        )
    for r in results.joints:
        known = clear[r.joint.id]
        if known is not None:
            yield _clear(results, r.joint, known)
        reserves = stop_reserves(r.joint, results.figure.assumptions)
        if reserves is not None:
            yield _one(results, r.joint.id, reserves)


def _calibration(results: Results, joint_id: str) -> Calibration | None:
    drive = results.figure.drive_of(joint_id)
    return results.figure.calibration_of(drive.id) if drive is not None else None


def _clear(results: Results, joint: Joint, known: tuple[float, float]) -> Finding:
    """Where nothing grinds at both ends of a calibration, the stops lie beyond: the wanted range and its overshoot must stay inside."""
    low, high = (math.radians(end) for end in joint.range_deg)
    room_left = min(low - known[0], known[1] - high)
    over = math.radians(results.figure.assumptions.overshoot_deg)
    verdict: Verdict = "holds" if room_left >= over - 1e-9 else "tight" if room_left >= -1e-9 else "fails"
    quantities = (Quantity(max(room_left, 0.0), "angle", rounding="down"), Quantity(over, "angle", rounding="up"), Quantity(max(-room_left, 0.0), "angle", rounding="up"))  # fmt: skip
    text = {
        "holds": f"{joint.name} stays where nothing grinds, as calibrated, with {{0}} to spare; its stops lie beyond.",
        "tight": f"{joint.name} stays where nothing grinds, as calibrated, but has {{0}} to spare for {{1}} of overshoot, an estimate.",
        "fails": f"{joint.name} is wanted {{2}} beyond where it is known that nothing grinds.",
    }[verdict]
    return Finding(
        finding_id("stops", joint.id), "stops", Ref("joint", joint.id), verdict, Sentence(text, quantities),
        measure=Sentence("{0} to spare" if verdict != "fails" else "{2} beyond", quantities),
        actions=(Action("Write the stops", Ref("joint", joint.id), "stops"),) if verdict == "fails" else (),
    )  # fmt: skip


def _one(results: Results, joint_id: str, reserves: tuple[float, float]) -> Finding:
    joint, assumptions = results.of(joint_id).joint, results.figure.assumptions
    assert joint.stops_deg is not None
    end = 0 if reserves[0] <= reserves[1] else 1
    reserve = reserves[end]
    stop, wanted = math.radians(joint.stops_deg[end]), math.radians(joint.range_deg[end])
    keep = room(joint, assumptions)
    verdict = verdict_of(reserve, wished(results))
    quantities = (angle(wanted), angle(stop), Quantity(keep, "angle", rounding="up"))
    has = "keeps clear of" if reserve >= 1 else "runs too near" if reserve >= 0 else "is wanted beyond"
    text = f"{joint.name} {has} its stop {joint.ends[end]}: wanted to {{0}}, stop at {{1}}; {{2}} must stay between."
    gap = abs(stop - wanted) * (1 if reserve >= 0 else -1)
    derivation = Derivation(
        "Room to the stop",
        "({0} − {1}) ÷ ({2} tolerance + {3} overshoot, estimate)",
        (
            Quantity(stop if end else -stop, "angle"),
            Quantity(wanted if end else -wanted, "angle"),
            Quantity(math.radians(joint.stop_tolerance_deg), "angle"),
            Quantity(math.radians(assumptions.overshoot_deg), "angle"),
        ),
        Quantity(reserve if math.isfinite(reserve) else 99.0, "ratio", rounding="down"),
    )
    return Finding(
        finding_id("stops", joint_id),
        "stops",
        Ref("joint", joint_id),
        verdict,
        Sentence(text, quantities),
        reserve=reserve,
        demand=Quantity(keep, "angle", rounding="up"),
        capacity=Quantity(gap, "angle", rounding="down"),
        derivations=(derivation,) if keep > 0 else (),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.reserve is None or finding.verdict == "holds":
        return
    r = results.of(finding.subject.id)
    allowed = allowed_range(r.joint, results.figure.assumptions)
    if allowed is None:
        return
    keep = math.degrees(room(r.joint, results.figure.assumptions))
    for wish in (wished(results), 1.0):
        extra = keep * (wish - 1)
        low = max(r.joint.range_deg[0], math.ceil(math.degrees(allowed[0]) + extra - 1e-9))
        high = min(r.joint.range_deg[1], math.floor(math.degrees(allowed[1]) - extra + 1e-9))
        if low < high:
            label = Sentence(
                "Range {0} to {1}", (Quantity(math.radians(low), "angle"), Quantity(math.radians(high), "angle"))
            )
            yield Proposal(range_edit(r, results, float(low), float(high)), label, "range")
