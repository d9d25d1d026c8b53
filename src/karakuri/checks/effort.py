"""Too much torque: a move needs more than may be used in passing, and which part of the body asks most of it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.checks.contract import Results, torque, wished
from karakuri.checks.phrases import Part, move_proposals, parts, square_law, stronger, when, worst_per_channel
from karakuri.mechanics.worst import drive_torque_Nm
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.causes import causes
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    reserves: dict[int, Array] = {}
    for part in parts(results):
        assert part.results.can is not None
        passing, torque = part.results.can.intermittent, part.load.moves.torque
        reserves[part.results.index] = np.divide(
            passing, torque, out=np.full(len(torque), np.inf), where=torque > 1e-12
        )
    for part, rows in worst_per_channel(results, reserves):
        for k in rows:
            yield about(part, int(k), float(reserves[part.results.index][k]), results)


def about(part: Part, k: int, reserve: float, results: Results) -> Finding:
    """Move k of a channel: torque it needs against what may be used in passing; reserve is their ratio."""
    load, can = part.load, part.results.can
    assert can is not None and results.loads is not None
    need, at = float(load.moves.torque[k]), float(load.moves.torque_at[k])
    verdict = verdict_of(reserve, wished(results))
    quantities: tuple[Quantity, ...] = (
        when(at),
        torque(need, "up"),
        torque(can.intermittent, "down"),
        torque(can.stall, "down"),
    )
    text = f"{part.results.joint.name} needs {{1}} at {{0}}; {{2}} may be used in passing, {{3}} before it stalls"
    if verdict != "holds":
        shares = causes(results.tree, results.loads.motion, part.results.index, at, results.gravities)
        if shares:
            name, most = shares[0]
            text += f"; most of it from {name}, {{4}}"
            quantities = (*quantities, torque(abs(most)))
    return Finding(
        finding_id("effort", part.channel.id, k), "effort", Ref("joint", part.results.joint.id), verdict,
        Sentence(text + ".", quantities), reserve=reserve, demand=quantities[1], capacity=quantities[2],
        move=Ref("move", part.channel.id, k), at_s=at,
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r, need = results.of(finding.subject.id), finding.demand
    if results.loads is None or need is None or r.can is None or finding.at_s is None:
        return
    q, _, _ = results.loads.motion.state(np.array([finding.at_s]))
    weight = max(abs(float(drive_torque_Nm(results.tree, r.index, q, g)[0])) for g in results.gravities)
    law = square_law(r.can.intermittent, weight, max(need.value - weight, 0.0))
    yield from move_proposals(finding, results, law)
    yield from stronger(finding, results)
