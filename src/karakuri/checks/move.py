"""Cannot follow the wanted move: too little torque in passing, or too slow under that torque. A bound, and says so."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, torque, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.model.joint import Move
from karakuri.sizing.move import MoveBound, slowest_needed
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for r in results.joints:
        if r.move is not None and r.can is not None and not r.missing:
            yield _one(r, r.move, results)


def _one(r: JointResults, move: MoveBound, results: Results) -> Finding:
    assert r.can is not None
    verdict = verdict_of(move.reserve, wished(results))
    what = (Quantity(move.by, "angle"), Quantity(move.time, "time"))
    speeds = (Quantity(move.speed, "speed", rounding="up"), Quantity(move.left, "speed", rounding="down"))
    torques = (torque(move.torque, "up"), torque(r.can.passing, "down"))
    does = "follows" if verdict == "holds" else "just follows" if verdict == "tight" else "cannot follow"
    if move.torque_reserve <= move.speed_reserve:
        text = f"{r.joint.name} {does} {{0}} in {{1}}: needs at most {{2}}, a bound; {{3}} may be used in passing."
        sentence, demand, capacity = Sentence(text, (*what, *torques)), torques[0], torques[1]
    else:
        text = (
            f"{r.joint.name} {does} {{0}} in {{1}}: asks {{2}} at its fastest; the servo reaches {{3}} under that load."
        )
        sentence, demand, capacity = Sentence(text, (*what, *speeds)), speeds[0], speeds[1]
    return Finding(
        f"move.{r.joint.id}",
        "move",
        r.joint.id,
        "drive",
        verdict,
        sentence,
        move.reserve,
        None,
        None,
        demand,
        capacity,
        derivations=_derivations(r, move),
    )


def _derivations(r: JointResults, move: MoveBound) -> tuple[Derivation, ...]:
    assert r.can is not None
    return (
        Derivation(
            "Peak acceleration, minimum jerk",
            "5.7735 × {0} ÷ ({1} × {1})",
            (Quantity(move.by, "angle"), Quantity(move.time, "time")),
            Quantity(move.acceleration, "acceleration"),
        ),
        Derivation(
            "Needs in the move, a bound",
            "{0} hold + ({1} carried + {2} servo, estimate) × {3} + {4} friction",
            (
                torque(move.hold),
                Quantity(move.inertia, "inertia"),
                Quantity(move.reflected, "inertia"),
                Quantity(move.acceleration, "acceleration"),
                torque(move.friction),
            ),
            torque(move.torque, "up"),
        ),
        Derivation(
            "Asks at its fastest",
            "1.875 × {0} ÷ {1}",
            (Quantity(move.by, "angle"), Quantity(move.time, "time")),
            Quantity(move.speed, "speed", rounding="up"),
        ),
        Derivation(
            "Reaches under that load",
            "{0} free × (1 − {1} ÷ {2})",
            (Quantity(r.can.free_speed, "speed"), torque(min(move.torque, r.can.usable)), torque(r.can.usable)),
            Quantity(move.left, "speed", rounding="down"),
        ),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject)
    if finding.verdict == "holds" or r.can is None or r.joint.move is None or r.move is None:
        return
    for wish in (wished(results), 1.0):
        time = slowest_needed(r.joint.move, r.hold.need, r.inertia, r.move.reflected, r.joint.friction_Nm, r.can, wish)
        if time is not None:
            slower = math.ceil(time * 20 - 1e-9) / 20
            edit = Edit(
                f"slow {r.joint.name}'s move to {slower:g} s",
                (Set(("joints", r.joint.id, "move"), Move(by=r.joint.move.by, time_s=slower)),),
            )
            yield Proposal(edit, Sentence("Take {0} for the move", (Quantity(slower, "time"),)), "slower")
    yield from class_proposals(r, results)
