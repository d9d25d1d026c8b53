"""Cannot make the wanted move in its time: time given against the least time, where the move is worst."""

from __future__ import annotations

import math
from collections.abc import Iterable

from msgspec.structs import replace

from karakuri.checks.body_proposals import best_ballast
from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, angle_words, posture_words, torque, wished
from karakuri.checks.gearing import gentler, quicker
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.profiles import DESCRIBED
from karakuri.model.ref import Ref
from karakuri.sizing.wanted import WantedMove
from karakuri.units import Quantity


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    if r.move is not None and r.can is not None and not r.missing:
        yield _one(r, r.move, results)


def _one(r: JointResults, move: WantedMove, results: Results) -> Finding:
    assert r.can is not None
    verdict = verdict_of(move.reserve, wished(results))
    given, least = Quantity(move.time, "time", rounding="down"), Quantity(move.least, "time", rounding="up")
    does = {"holds": "makes", "tight": "just makes"}.get(verdict, "cannot make")
    posture = posture_words(results, move.posture)
    possible = math.isfinite(move.least)
    in_time = f"in {{1}} ({DESCRIBED[move.kind].spoken})" if possible else "in any time"
    moved = r.moved or r.joint
    start = angle_words(moved, move.start).replace("{0}", "{2}")
    what = f"{moved.name} {does} {{0}} {in_time}, worst from {start.removeprefix('at ')}{posture}"
    quantities = (Quantity(move.by, "angle"), Quantity(move.time, "time"), Quantity(abs(move.start), "angle"))
    if possible:
        whose = (
            "its servo"
            if moved is r.joint or moved.id == r.joint.id
            else f"the servo of {r.joint.name}, which it shares,"
        )
        sentence = Sentence(f"{what}: {whose} needs {{3}} for it.", (*quantities, least))
    else:
        text = f"{what}: weight and friction alone need {{3}} on the way, {{4}} may be used in passing."
        need = torque(max(abs(move.weight) + move.friction, 0.0), "up")
        sentence = Sentence(text, (*quantities, need, torque(r.can.intermittent, "down")))
    low, high = r.move_bounds or (None, None)
    return Finding(
        finding_id("move", r.joint.id),
        "move",
        Ref("joint", r.joint.id),
        verdict,
        sentence,
        reserve=move.reserve,
        reserve_low=low,
        reserve_high=high,
        demand=least if possible else None,
        capacity=given if possible else None,
        derivations=_derivations(r, move),
        decides=_decides(r, verdict, results),
    )


def _decides(r: JointResults, verdict: Verdict, results: Results) -> Sentence | None:
    """Where what it rubs with, which is only guessed, could make another verdict."""
    other = {verdict_of(each, wished(results)) for each in r.move_bounds or ()} - {verdict}
    if not other:
        return None
    return Sentence(
        f"What it rubs with could make it {' or '.join(sorted(other))}: two pulls with a scale would decide it."
    )


def _derivations(r: JointResults, move: WantedMove) -> tuple[Derivation, ...]:
    assert r.can is not None
    out = [
        Derivation(
            "Inertia it speeds up"
            if r.geared is None or (r.moved or r.joint).id != r.joint.id
            else "Inertia its servo speeds up as it begins",
            "{0} carried + {1} servo, estimate",
            (Quantity(move.inertia, "inertia"), Quantity(move.reflected, "inertia")),
            Quantity(move.inertia + move.reflected, "inertia"),
        ),
        Derivation(
            "Weight against it on the way, with friction",
            "{0} weight + {1} friction",
            (torque(move.weight), torque(move.friction)),
            torque(move.weight + move.friction, "up"),
        ),
    ]
    if math.isfinite(move.reserve) and 0 < move.least < math.inf:
        out.append(
            Derivation(
                "Time given ÷ least time",
                "{0} ÷ {1}",
                (Quantity(move.time, "time"), Quantity(move.least, "time")),
                Quantity(move.reserve, "ratio", rounding="down"),
            )
        )
    return tuple(out)


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    moved = r.moved or r.joint
    if finding.verdict == "holds" or r.can is None or moved.move is None or r.move is None:
        return
    yield from best_ballast(r, results)
    for wish in (wished(results), 1.0) if math.isfinite(r.move.least) else ():
        slower = math.ceil(r.move.least * wish * 20 - 1e-9) / 20
        if slower > moved.move.time_s:
            edit = Edit(
                f"slow {moved.name}'s move to {slower:g} s", (Set(("joints", moved.id, "move", "time_s"), slower),)
            )
            yield Proposal(edit, Sentence("Take {0} for the move", (Quantity(slower, "time"),)), "slower")
    if DESCRIBED[r.move.kind].timed and math.isfinite(r.move.least):
        sudden = replace(r.placed, kind="sudden") if r.placed is not None else None
        if sudden is not None:
            edit = Edit(
                f"{moved.name} moves as fast as it goes", (Set(("joints", moved.id, "move", "profile"), "sudden"),)
            )
            yield Proposal(edit, Sentence("Move as fast as it goes"), "profile")
    yield from class_proposals(r, results)
    yield from gentler(r, results)
    yield from quicker(r, results)
