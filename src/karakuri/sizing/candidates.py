"""Every class on one joint: what it would hold, why a smaller one fails, what a heavier one does to the joints below it."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.actuators.servo import Capability, capability
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Actuator
from karakuri.model.finding import Verdict, verdict_of
from karakuri.sizing.hold import Hold
from karakuri.sizing.tries import PlacedMove
from karakuri.sizing.wanted import WantedMove, judge


class Candidate(Frozen):
    """One servo against one joint's needs. `reason` says why it fails or that it is oversized; `lower` are the joints that pay."""

    servo: Actuator
    can: Capability
    reserve: float
    move: WantedMove | None
    verdict: Verdict
    reason: str
    lower: tuple[tuple[str, float], ...]
    fitted: bool


def levers(tree: Tree, holds: Iterable[tuple[str, Hold]], drive_id: str) -> tuple[tuple[str, float], ...]:
    """For each joint by name, N·m it must hold more per kilogram that this drive's servo gains; none where it is not a body yet."""
    body = next((i for i, b in enumerate(tree.bodies) if b.kind == "servo" and b.id == drive_id), None)
    if body is None or tree.bodies[body].mass <= 0:
        return ()
    found = ((name, next((adds for i, adds, _ in held.shares if i == body), None)) for name, held in holds)
    return tuple((name, adds / tree.bodies[body].mass) for name, adds in found if adds is not None)


def candidates(
    servos: tuple[Actuator, ...],
    friction: float,
    held: Hold,
    placed: PlacedMove | None,
    supply_V: float,
    assumptions: Assumptions,
    fitted: Actuator | None,
    levers: tuple[tuple[str, float], ...],
) -> tuple[Candidate, ...]:
    """Smallest that holds first, then larger ones, oversized ones; below them those that fail, strongest first.

    friction N·m; held and placed as the study found them; levers: for each joint below, N·m it must hold more per kilogram that this servo gains.
    """
    rows: list[Candidate] = []
    own = (fitted,) if fitted is not None and all(fitted.name != servo.name for servo in servos) else ()
    for servo in (*own, *servos):
        can = capability(servo, supply_V, assumptions)
        reserve = held.reserve(can)
        bound = judge(placed, can, servo.reflected_inertia_kgm2, friction) if placed is not None else None
        least = min(reserve, bound.reserve if bound else math.inf)
        verdict = verdict_of(least, assumptions.wished_margin)
        extra = (servo.mass_g - (fitted.mass_g if fitted else 0.0)) / 1e3
        lower = tuple((name, each * extra) for name, each in levers if extra > 0 and abs(each * extra) > 1e-4)
        rows.append(
            Candidate(
                servo,
                can,
                reserve,
                bound,
                verdict,
                _reason(reserve, bound, can, held.need),
                lower,
                fitted is not None and servo.name == fitted.name,
            )
        )
    holding = [row for row in rows if row.verdict == "holds"]
    smallest = min((row.servo.torque_Nm for row in holding), default=math.inf)
    rows = [_marked(row, smallest, assumptions) for row in rows]
    rows.sort(key=lambda row: _order(row, assumptions))
    return tuple(rows)


def _marked(row: Candidate, smallest: float, assumptions: Assumptions) -> Candidate:
    if row.verdict != "fails" and row.reserve > assumptions.oversized_from and row.servo.torque_Nm > smallest:
        return Candidate(row.servo, row.can, row.reserve, row.move, row.verdict, "oversized", row.lower, row.fitted)
    return row


def _order(row: Candidate, assumptions: Assumptions) -> tuple[int, float]:
    if row.verdict == "fails":
        return (3, -row.servo.torque_Nm)
    if row.reason == "oversized":
        return (2, row.servo.torque_Nm)
    return (0 if row.verdict == "holds" else 1, row.servo.torque_Nm)


def _reason(reserve: float, move: WantedMove | None, can: Capability, need: float) -> str:
    if need > can.stall:
        return "drops"
    if reserve < 1:
        return "sags and heats"
    if move is not None and not math.isfinite(move.least):
        return "too weak for the move"
    if move is not None and move.reserve < 1:
        return "too slow for the move"
    return ""
