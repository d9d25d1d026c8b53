"""Stops inside the wanted range: the room to a stop against tolerance + overshoot."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import Results, angle, wished
from karakuri.checks.helps import range_edit
from karakuri.limits.travel import allowed_range, room, stop_reserves
from karakuri.model.finding import Deed, Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    unmeasured = [r.joint for r in results.joints if r.joint.stops_deg is None]
    if unmeasured:
        names = unmeasured[0].name if len(unmeasured) == 1 else f"{unmeasured[0].name} and {len(unmeasured) - 1} more"
        yield Finding(
            "stops.unmeasured",
            "stops",
            unmeasured[0].id,
            "limits",
            "not yet judged",
            Sentence(f"How far {names} may turn is not known until the stops are measured."),
            measure=Sentence(f"stops of {names} not measured"),
            deeds=(Deed("Write the stops", unmeasured[0].id, "stops"),),
        )
    for r in results.joints:
        reserves = stop_reserves(r.joint, results.figure.assumptions)
        if reserves is not None:
            yield _one(results, r.joint.id, reserves)


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
        f"stops.{joint_id}",
        "stops",
        joint_id,
        "limits",
        verdict,
        Sentence(text, quantities),
        reserve,
        None,
        None,
        Quantity(keep, "angle", rounding="up"),
        Quantity(gap, "angle", rounding="down"),
        derivations=(derivation,) if keep > 0 else (),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.reserve is None or finding.verdict == "holds":
        return
    r = results.of(finding.subject)
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
            yield Proposal(range_edit(r, float(low), float(high)), label, "range")
