"""A stepper: whether it keeps in step at the asked speed, how fine it stands, how long it takes to find where it is, how hot it gets while it stands."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.actuators.stepper import AMBIENT, finest, gives_way, kelvin_per_W, pull_out, settles_at, worth
from karakuri.checks.contract import JointResults, Results, torque, wished
from karakuri.model.drive import Drive, Stepper
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.units import Quantity

MARGIN = 0.3
"""Of what it keeps in step with so much is left: 30 to 50 % is common practice, no source."""
HOTTEST = 80.0
"""Of its case, °C: what it is screwed to and fingers bear less; common practice, no source."""
LONG_S = 15.0
"""A figure that looks for itself longer than this seems broken: common practice, no source."""


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    drive = results.figure.drive_of(r.joint.id)
    stepper = drive.actuator.stepper if drive is not None else None
    if drive is None or stepper is None or r.can is None or r.missing:
        return
    yield _fine(r, drive, stepper, results)
    if r.move is not None:
        yield _kept(r, stepper, results)
    yield _found(r, stepper)
    yield _hot(r, drive, stepper, results)


def _gain(r: JointResults) -> float:
    """Turns of the stepper for one of the joint where that is least, 1 where it turns it itself."""
    return r.geared.ratios[0] if r.geared is not None else 1.0


def _fine(r: JointResults, drive: Drive, stepper: Stepper, results: Results) -> Finding:
    """Steps a degree; microsteps that what rubs swallows."""
    assert r.can is not None
    gain = _gain(r)
    per = finest(stepper) / gain
    holds = r.can.stall * stepper.held
    one = worth(stepper, holds)
    comes = r.geared.efficiency if r.geared is not None else 1.0
    rubs = r.drag.value / gain / comes if r.drag is not None else None
    gives = gives_way(stepper, holds, r.hold.need) / gain
    quantities = (
        Quantity(per, "angle"),
        Quantity(1 / math.degrees(per), "ratio"),
        torque(one, "down"),
        torque(rubs or 0.0, "up"),
    )
    ident, about = finding_id("steps", r.joint.id), Ref("joint", r.joint.id)
    derivations = (
        Derivation(
            "Steps a degree", "{0} steps × {1} micro × {2} turns ÷ 360", (Quantity(float(stepper.steps), "count"), Quantity(float(stepper.micro), "count"), Quantity(gain, "ratio")),
            quantities[1],
        ),
        *((Derivation("Gives by, at its hardest hold", "{0}", (Quantity(gives, "angle"),), Quantity(gives, "angle", rounding="up")),) if math.isfinite(gives) else ()),
    )  # fmt: skip
    if rubs is None or rubs <= 0:
        text = f"{r.joint.name} stands to {{1}} microsteps a degree; what rubs is not said, so that fine steps may be lost."
        return Finding(
            ident,
            "steps",
            about,
            "holds",
            Sentence(text, quantities),
            measure=Sentence("{1} a degree", quantities),
            derivations=derivations,
        )
    reserve = one / rubs
    does = "stands" if reserve >= 1 else "cannot stand"
    text = f"{r.joint.name} {does} to {{1}} microsteps a degree: each is worth {{2}}, {{3}} rubs."
    # what is lost is fineness, not the joint: never worse than tight
    verdict: Verdict = "tight" if reserve < 1 else "holds"
    return Finding(ident, "steps", about, verdict, Sentence(text, quantities), reserve=reserve if reserve >= 1 else None, measure=Sentence("{1} a degree, not all of them", quantities) if reserve < 1 else None, derivations=derivations)  # fmt: skip


def _kept(r: JointResults, stepper: Stepper, results: Results) -> Finding:
    """What is left before steps are lost, at the largest torque and speed of the wanted move together: a bound."""
    assert r.move is not None and r.can is not None
    has = pull_out(stepper, r.can.stall, r.move.speed)
    may = has * (1 - MARGIN)
    reserve = may / r.move.torque if r.move.torque > 1e-12 else math.inf
    left = 1 - r.move.torque / has
    does = "keeps in step" if reserve >= 1 else "may lose steps"
    quantities = (
        torque(r.move.torque, "up"),
        torque(has, "down"),
        Quantity(r.move.speed, "speed"),
        Quantity(max(left, 0.0), "percent", rounding="down"),
    )
    text = f"{r.joint.name} {does} in its wanted move: {{0}} at {{2}}, where it has {{1}}; {{3}} left, 30 % wanted."
    return Finding(
        finding_id("steps", r.joint.id, "margin"), "steps", Ref("joint", r.joint.id), verdict_of(reserve, 1.0) if math.isfinite(reserve) else "holds",
        Sentence(text, quantities), reserve=reserve if math.isfinite(reserve) else None, measure=None if math.isfinite(reserve) else Sentence("hardly any torque"),
        demand=quantities[0], capacity=torque(may, "down"),
        derivations=(Derivation("Left before it loses steps", "1 − {0} ÷ {1}", quantities[:2], quantities[3]),),
    )  # fmt: skip


def _found(r: JointResults, stepper: Stepper) -> Finding:
    """How long it takes to find where it stands."""
    ident, about = finding_id("steps", r.joint.id, "home"), Ref("joint", r.joint.id)
    if stepper.finds == "nothing":
        text = f"{r.joint.name}: nobody knows where it stands when power comes on: a stepper needs a switch, or a stop that it may run against."
        return Finding(ident, "steps", about, "fails", Sentence(text), measure=Sentence("never knows where it stands"))
    wide = math.radians(r.joint.range_deg[1] - r.joint.range_deg[0])
    takes = wide / math.radians(stepper.finds_deg_per_s)
    quantities = (
        Quantity(takes, "time", rounding="up"),
        Quantity(wide, "angle"),
        Quantity(math.radians(stepper.finds_deg_per_s), "speed"),
    )
    how = "by its switch" if stepper.finds == "switch" else "against its stop, with a knock"
    verdict: Verdict = "tight" if takes > LONG_S else "holds"
    return Finding(
        ident, "steps", about, verdict, Sentence(f"{r.joint.name} finds where it stands within {{0}}, {how}, wherever it was left.", quantities),
        measure=Sentence("{0} to find itself", quantities), derivations=(Derivation("At the longest", "{0} ÷ {1}", (quantities[1], quantities[2]), quantities[0]),),
    )  # fmt: skip


def _hot(r: JointResults, drive: Drive, stepper: Stepper, results: Results) -> Finding:
    """How hot it gets while it stands for good; an estimate."""
    amps, per = stepper.amps * stepper.held, kelvin_per_W(drive.actuator.mass_g)
    at = settles_at(amps, stepper.ohms, per)
    reserve = (
        (HOTTEST - AMBIENT) / (at - AMBIENT)
        if math.isfinite(at) and at > AMBIENT
        else math.inf
        if at <= AMBIENT
        else 0.0
    )
    does = "stays cool enough" if reserve >= 1 else "gets too hot"
    degrees = Quantity(at if math.isfinite(at) else 999.0, "count", rounding="up")
    watts = Quantity(2 * amps**2 * stepper.ohms, "ratio", rounding="up")
    text = f"The stepper of {r.joint.name} {does} while it stands: {{0}} °C for good, {{1}} W, an estimate; {{2}} °C are wished at most."
    return Finding(
        finding_id("steps", r.joint.id, "heat"), "steps", Ref("joint", r.joint.id), verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds",
        Sentence(text, (degrees, watts, Quantity(HOTTEST, "count"))), reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("no current while it stands"),
        derivations=(Derivation("Heat while it stands", "2 × {0} × {0} × {1}", (Quantity(amps, "ratio"), Quantity(stepper.ohms, "ratio")), watts),),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    drive = results.figure.drive_of(finding.subject.id)
    stepper = drive.actuator.stepper if drive is not None else None
    if drive is None or stepper is None or finding.verdict == "holds":
        return
    name, path = results.figure.joint(drive.joint).name, ("drives", drive.id, "actuator", "stepper")

    def put(field: str, value: object, words: str, *quantities: Quantity) -> Proposal:
        return Proposal(Edit(f"stepper of {name}", (Set((*path, field), value),)), Sentence(words, quantities), field)

    if finding.id == finding_id("steps", drive.joint, "home"):
        if stepper.finds == "nothing":
            yield put("finds", "switch", "A switch at one end")
        else:
            quicker = math.ceil(
                (results.figure.joint(drive.joint).range_deg[1] - results.figure.joint(drive.joint).range_deg[0])
                / LONG_S
            )
            yield put("finds_deg_per_s", float(quicker), "Look for it at {0}", Quantity(math.radians(quicker), "speed"))
    elif finding.id == finding_id("steps", drive.joint, "heat"):
        for held in (0.7, 0.5, 0.35, 0.25):
            if held < stepper.held:
                yield put("held", held, "{0} of its current while it stands", Quantity(held, "percent"))
    elif finding.id == finding_id("steps", drive.joint, "margin"):
        for volts in (24.0, 36.0):
            if volts > stepper.volts:
                yield put("volts", volts, "{0} on its driver", Quantity(volts, "voltage"))
