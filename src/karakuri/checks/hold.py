"""Cannot hold: 'drops' beyond the usable torque, 'sags and heats' between held for long and usable."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, angle, angle_words, posture_words, torque, wished
from karakuri.checks.helps import ballast, moved_parts, narrowed
from karakuri.model.finding import Deed, Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for joint in results.joints:
        yield _one(joint, results)


def _one(r: JointResults, results: Results) -> Finding:
    name, ident = r.joint.name, f"hold.{r.joint.id}"
    if r.missing:
        text = f"{name} cannot be judged: the mass of {_some(r.missing)} is unknown."
        deeds = (Deed("Write the mass", _part_named(results, r.missing[0]), "mass"),)
        return Finding(
            ident,
            "hold",
            r.joint.id,
            "drive",
            "not yet judged",
            Sentence(text),
            measure=Sentence(f"mass of {r.missing[0]} unknown"),
            deeds=deeds,
        )
    if r.can is None:
        text = f"{name} has no servo yet; it must hold {{0}} at its worst pose."
        return Finding(
            ident,
            "hold",
            r.joint.id,
            "drive",
            "not yet judged",
            Sentence(text, (torque(r.hold.need, "up"),)),
            measure=Sentence("no servo yet"),
            derivations=(_need(r, results),),
        )
    reserve = r.can.held / r.hold.need if r.hold.need > 1e-9 else math.inf
    low, high = _ratio(r.can.held, r.hold.high), _ratio(r.can.held, r.hold.low)
    verdict = verdict_of(reserve, wished(results))
    return Finding(
        ident,
        "hold",
        r.joint.id,
        "drive",
        verdict,
        _sentence(r, results, reserve),
        reserve,
        low,
        high,
        torque(r.hold.need, "up"),
        torque(r.can.held, "down"),
        derivations=(_need(r, results), _held(r, results), _usable(r, results)),
        decides=_decides(r, results, verdict, low, high),
    )


def _ratio(capacity: float, need: float) -> float:
    return capacity / need if need > 1e-9 else math.inf


def _some(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"


def _part_named(results: Results, name: str) -> str:
    return next((part.id for part in results.figure.parts if part.name == name), "")


def _sentence(r: JointResults, results: Results, reserve: float) -> Sentence:
    assert r.can is not None
    at = float(r.hold.worst.pose[r.index])
    where, posture = angle_words(r.joint, at), posture_words(results, r.hold.worst.posture)
    quantities = (angle(at), torque(r.hold.need, "up"), torque(r.can.held, "down"), torque(r.can.usable, "down"))
    if r.hold.need > r.can.usable:
        text = f"{r.joint.name} drops {where}{posture}: needs {{1}}; the servo gives {{3}} at most, {{2}} for long."
    elif reserve < 1:
        text = f"{r.joint.name} cannot hold {where} for long{posture}: needs {{1}}; {{2}} may be held for long, {{3}} before it stalls."
    elif reserve > results.figure.assumptions.oversized_from and _smaller_holds(r, results):
        text = f"{r.joint.name} holds {where}{posture}: needs {{1}}, may hold {{2}} for long. Oversized: a smaller class holds too."
    else:
        text = f"{r.joint.name} holds {where}{posture}: needs {{1}}; {{2}} may be held for long."
    return Sentence(text, quantities)


def _smaller_holds(r: JointResults, results: Results) -> bool:
    return any(True for _ in class_proposals(r, results, smaller=True))


def _need(r: JointResults, results: Results) -> Derivation:
    g = float((results.gravities[r.hold.worst.posture] ** 2).sum() ** 0.5)
    return Derivation(
        "Needs at its worst pose",
        "{0} carried × {1} × {2} arm",
        (Quantity(r.hold.mass, "mass"), Quantity(g, "gravity"), Quantity(r.hold.arm, "length")),
        torque(r.hold.need, "up"),
    )


def _held(r: JointResults, results: Results) -> Derivation:
    assert r.can is not None
    return Derivation(
        "May be held for long",
        "{0} usable × {1} held for long",
        (torque(r.can.usable), Quantity(r.can.held_share, "ratio")),
        torque(r.can.held, "down"),
    )


def _usable(r: JointResults, results: Results) -> Derivation:
    assert r.can is not None
    drive = results.figure.drive_of(r.joint.id)
    assert drive is not None
    servo = drive.actuator
    return Derivation(
        "Usable before it stalls",
        "{0} advertised × {1} ÷ {2} × {3} really there",
        (
            torque(servo.torque_Nm),
            Quantity(r.can.voltage, "voltage"),
            Quantity(servo.at_voltage_V, "voltage"),
            Quantity(results.figure.assumptions.stall_share, "ratio"),
        ),
        torque(r.can.usable, "down"),
    )


def _decides(r: JointResults, results: Results, verdict: str, low: float, high: float) -> Sentence | None:
    other = {verdict_of(low, wished(results)), verdict_of(high, wished(results))} - {verdict}
    if not other or not r.hold.shares:
        return None
    names = [results.tree.bodies[i].name for i, _, bound in r.hold.shares[:3] if bound > 1e-6]
    return Sentence(
        f"With masses at their bounds it could come out as {' or '.join(sorted(other))}: weigh {', '.join(names)}."
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.measure is not None and results.of(finding.subject).missing:
        return
    r = results.of(finding.subject)
    if finding.verdict == "holds":
        yield from class_proposals(r, results, smaller=True)
        return
    yield from class_proposals(r, results)
    if r.can is not None:
        wish = (r.can.held / wished(results),)
        allowed = (*wish, r.can.held) if finding.verdict == "fails" else wish
        yield from ballast(r, results, allowed)
        yield from narrowed(r, results, allowed)
        yield from moved_parts(r, results, allowed)
