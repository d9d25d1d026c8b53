"""Cannot hold: 'drops' beyond the usable torque, 'sags and heats' between held for long and usable."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.assist import assist
from karakuri.checks.body_proposals import ballast, moved_parts, narrowed
from karakuri.checks.classes import beside, class_proposals, smaller_holds
from karakuri.checks.contract import JointResults, Results, angle, angle_words, lacks, posture_words, torque, wished
from karakuri.checks.gearing import gain_at, gentler, via
from karakuri.checks.masses import masses_decide
from karakuri.mechanics.worst import Worst
from karakuri.model.element import Element
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.part import Part
from karakuri.model.ref import Ref
from karakuri.units import Quantity


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    yield _one(r, results)


def _one(r: JointResults, results: Results) -> Finding:
    name, ident = r.joint.name, finding_id("hold", r.joint.id)
    if r.missing:
        _, short, action = lacks(r.missing[0])
        text = f"{name} cannot be judged: {_unknown(r.missing)}."
        return Finding(
            ident,
            "hold",
            Ref("joint", r.joint.id),
            "not yet judged",
            Sentence(text),
            measure=Sentence(short),
            actions=(action,),
        )
    if r.opens:
        return Finding(
            ident, "hold", Ref("joint", r.joint.id), "not yet judged",
            Sentence(f"{r.joint.name} cannot be judged while {_why(r, results)}."), measure=Sentence("what turns it does not work yet"),
        )  # fmt: skip
    if r.can is None and r.joint.role == "follows":
        return _led(r, results)
    if r.can is None:
        text = f"{name} has no servo yet; it must hold {{0}} at its worst pose."
        return Finding(
            ident,
            "hold",
            Ref("joint", r.joint.id),
            "not yet judged",
            Sentence(text, (torque(r.hold.need, "up"),)),
            measure=Sentence("no servo yet"),
            derivations=(_need(r, results),),
        )
    reserve = r.hold.reserve(r.can)
    low, high = r.hold.bounds(r.can)
    passing = r.hold.passing_binds(r.can)
    need, capacity = (r.hold.need, r.can.intermittent) if passing else (r.hold.rest, r.can.continuous)
    verdict = verdict_of(reserve, wished(results))
    return Finding(
        ident,
        "hold",
        Ref("joint", r.joint.id),
        verdict,
        _sentence(r, results, reserve),
        reserve=reserve,
        reserve_low=low,
        reserve_high=high,
        demand=torque(need, "up"),
        capacity=torque(capacity, "down"),
        derivations=(
            _need(r, results),
            *_rest(r),
            _passing(r, results) if passing else _held(r, results),
            _usable(r, results),
        ),
        decides=_decides(r, results, verdict, low, high),
    )


def _unknown(missing: tuple[Part | Element, ...]) -> str:
    """What is not known, the first by name."""
    clause, _, _ = lacks(missing[0])
    if len(missing) == 1:
        return clause
    if all(isinstance(each, Part) for each in missing):
        return f"the mass of {missing[0].name} and {len(missing) - 1} more is unknown"
    return f"{clause}, and so of {len(missing) - 1} more"


def _why(r: JointResults, results: Results) -> str:
    if r.geared is not None and r.geared.flaw:
        return "what lies between it and its servo is not said in full"
    others = [results.figure.joint(each.joint).name for each in r.shares if each.joint != r.joint.id]
    if others:
        return f"a rod of it or of {', '.join(others)} does not reach all of the wanted ranges"
    return "its rod does not reach all of the wanted range"


def _led(r: JointResults, results: Results) -> Finding:
    """What a follower without a servo of its own asks of the link that moves it; its leader's servo is judged with that."""
    leader = results.figure.joint(results.tree.ids[results.tree.coupling.leader[r.index]])
    worst = r.hold.worst
    at = float(worst.pose[r.index])
    where, posture = angle_words(r.joint, at), posture_words(results, worst.posture)
    text = f"{r.joint.name} follows {leader.name}, which is judged with its load; what joins them must bear {{1}} {where}{posture}, standing still."
    return Finding(
        finding_id("hold", r.joint.id), "hold", Ref("joint", r.joint.id), "holds",
        Sentence(text, (angle(at), torque(r.hold.need, "up"))), measure=Sentence("its link bears {0}", (torque(r.hold.need, "up"),)),
        derivations=(_need(r, results),),
    )  # fmt: skip


def _sentence(r: JointResults, results: Results, reserve: float) -> Sentence:
    assert r.can is not None
    passing = r.hold.passing_binds(r.can)
    worst = r.hold.worst if passing or r.hold.need > r.can.stall else r.hold.resting
    at, need = float(worst.pose[r.index]), abs(worst.hold)
    where, posture = angle_words(r.joint, at) + _beside(r, results, worst), posture_words(results, worst.posture)
    asks = f"needs {{1}}{via(r, results)}"
    quantities = (angle(at), torque(need, "up"), torque(r.can.continuous, "down"), torque(r.can.stall, "down"), torque(r.can.intermittent, "down"))  # fmt: skip
    if need > r.can.stall:
        text = f"{r.joint.name} drops {where}{posture}: {asks}; the servo gives {{3}} at most, {{2}} for long."
    elif reserve < 1 and passing:
        text = f"{r.joint.name} cannot pass {where}{posture}: {asks}; {{4}} may be used in passing, {{3}} before it stalls."
    elif reserve < 1:
        text = f"{r.joint.name} cannot hold {where} for long{posture}: {asks}; {{2}} may be held for long, {{3}} before it stalls."
    elif reserve > results.figure.assumptions.oversized_from and smaller_holds(r, results):
        text = f"{r.joint.name} holds {where}{posture}: {asks}, may hold {{2}} for long. Oversized: a smaller class holds too."
    elif passing:
        text = f"{r.joint.name} passes {where}{posture}: {asks} there, where it does not rest; {{4}} may be used in passing."
    else:
        text = f"{r.joint.name} holds {where}{posture}: {asks}; {{2}} may be held for long."
    return Sentence(text, quantities)


def _beside(r: JointResults, results: Results, worst: Worst) -> str:
    """' with NAME nose-up' for those it shares its drive with, where they are not at rest."""
    out = []
    for each in r.shares:
        other = results.figure.joint(each.joint)
        place = math.degrees(float(worst.pose[results.tree.index(other.id)]))
        if other.id != r.joint.id and abs(place) >= 0.5:
            out.append(f"{other.name} {other.ends[1] if place > 0 else other.ends[0]}")
    return f" with {' and '.join(out)}" if out else ""


def asked_by(body_id: str, r: JointResults, results: Results) -> Derivation | None:
    """What a part or servo asks of a joint at its worst pose: its mass, the gravity there, its arm. None where it asks nothing of it."""
    bodies = results.tree.bodies
    found = next(((i, adds) for i, adds, _ in r.hold.shares if i < len(bodies) and bodies[i].id == body_id), None)
    if found is None:
        return None
    mass, g = results.tree.bodies[found[0]].mass, _gravity(r, results)
    through, gain, factors = _through(r, 3)
    arm = found[1] * gain / (mass * g) if mass > 0 and g > 0 else 0.0
    quantities = (Quantity(mass, "mass"), Quantity(g, "gravity"), Quantity(arm, "length"), *factors)
    return Derivation(f"Asks of {r.joint.name}", "{0} × {1} × {2}" + through, quantities, Quantity(found[1], "torque"))


def _through(r: JointResults, n: int) -> tuple[str, float, tuple[Quantity, ...]]:
    """' ÷ ratio ÷ what comes through' of what lies between the joint and its servo at the worst pose, counted from number n; and both together."""
    ratio, comes = gain_at(r, float(r.hold.worst.pose[r.index]))
    if r.geared is None:
        return "", 1.0, ()
    factors = (Quantity(ratio, "ratio"), Quantity(comes, "ratio"))
    return f" ÷ {{{n}}} turns of the servo for one of it ÷ {{{n + 1}}} comes through", ratio * comes, factors


def _gravity(r: JointResults, results: Results) -> float:
    """Gravity, with how the base is moved, at the worst pose, m/s²."""
    return float((results.gravities[r.hold.worst.posture] ** 2).sum() ** 0.5)


def _need(r: JointResults, results: Results) -> Derivation:
    if r.shares:
        return _shared(r, results)
    through, gain, factors = _through(r, 4 if r.hold.pulled else 3)
    arm = Quantity(r.hold.arm * gain, "length")
    weight: tuple[Quantity, ...] = (Quantity(r.hold.mass, "mass"), Quantity(_gravity(r, results), "gravity"), arm)
    text = "{0} carried × {1} × {2} arm"
    if r.hold.pulled:
        sign = "+" if r.hold.pulled > 0 else "−"
        text = f"{text} {sign} {{3}} strung to it"
        text = f"({text})" if through else text
        weight = (*weight, torque(abs(r.hold.pulled) * gain))
    title = "Needs at its worst pose" if not through else "Its servo needs, with it at its worst pose"
    return Derivation(title, text + through, (*weight, *factors), torque(r.hold.need, "up"))


def _shared(r: JointResults, results: Results) -> Derivation:
    """What each joint asks × what of it comes to this servo, which shares them."""
    text, quantities = "", list[Quantity]()
    for each in r.shares:
        adds, n, name = each.torque * each.weight, len(quantities), results.figure.joint(each.joint).name
        if abs(adds) < 1e-6 * max(r.hold.need, 1e-9):
            continue
        sign = ("− " if adds < 0 else "") if not text else (" − " if adds < 0 else " + ")
        text += f"{sign}{{{n}}} of {name} × {{{n + 1}}}"
        quantities += [torque(abs(each.torque)), Quantity(abs(each.weight), "ratio")]
    title = "Its servo needs, with all it shares at their worst pose"
    return Derivation(title, text or "{0}", tuple(quantities) or (torque(0.0),), torque(r.hold.need, "up"))


def _rest(r: JointResults) -> tuple[Derivation, ...]:
    """The need where it may rest, where that is less than over all of its range."""
    if r.hold.resting is r.hold.worst:
        return ()
    low, high = r.joint.rests_deg or r.joint.range_deg
    ends = (Quantity(math.radians(low), "angle"), Quantity(math.radians(high), "angle"))
    return (
        Derivation(
            "Needs where it may rest, {0} to {1}", "{0}", (torque(r.hold.rest),), torque(r.hold.rest, "up"), ends
        ),
    )


def _passing(r: JointResults, results: Results) -> Derivation:
    assert r.can is not None
    return Derivation(
        "May be used in passing",
        "{0} usable × {1} in passing",
        (torque(r.can.stall), Quantity(results.figure.assumptions.passing_share, "ratio")),
        torque(r.can.intermittent, "down"),
    )


def _held(r: JointResults, results: Results) -> Derivation:
    assert r.can is not None
    return Derivation(
        "May be held for long",
        "{0} usable × {1} held for long",
        (torque(r.can.stall), Quantity(r.can.continuous_share, "ratio")),
        torque(r.can.continuous, "down"),
    )


def _usable(r: JointResults, results: Results) -> Derivation:
    assert r.can is not None
    drive = results.figure.drive_of(r.joint.id)
    assert drive is not None
    servo = drive.actuator
    both = drive.servos > 1
    return Derivation(
        "Usable before they stall" if both else "Usable before it stalls",
        "2 × {0} advertised × {4} together × {1} ÷ {2} × {3} really there"
        if both
        else "{0} advertised × {1} ÷ {2} × {3} really there",
        (
            torque(servo.torque_Nm),
            Quantity(r.can.voltage, "voltage"),
            Quantity(servo.at_voltage_V, "voltage"),
            Quantity(results.figure.assumptions.stall_share, "ratio"),
            *((Quantity(results.figure.assumptions.together_share, "ratio"),) if both else ()),
        ),
        torque(r.can.stall, "down"),
    )


def _decides(r: JointResults, results: Results, verdict: str, low: float, high: float) -> Sentence | None:
    other = {verdict_of(low, wished(results)), verdict_of(high, wished(results))} - {verdict}
    if not other or not r.hold.shares:
        return None
    return masses_decide(r, results, other)


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    if r.missing or r.opens or (r.can is None and r.joint.role == "follows"):
        return
    if finding.verdict == "holds":
        yield from class_proposals(r, results, smaller=True)
        return
    yield from class_proposals(r, results)
    yield from beside(r, results)
    yield from gentler(r, results)
    if r.can is not None:
        wish = (r.can.continuous / wished(results),)
        allowed = (*wish, r.can.continuous) if finding.verdict == "fails" else wish
        yield from assist(r, results, allowed)
        yield from ballast(r, results, allowed)
        yield from narrowed(r, results, allowed)
        yield from moved_parts(r, results, allowed)
