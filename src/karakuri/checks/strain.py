"""What rods, teeth and belts, and the shafts they pull at, bear over the score: told where that is more than standing anywhere, or the wanted move, asks of them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.checks.contract import LOADS, JointResults, Results
from karakuri.checks.linkages import Borne, pulled, rod, sturdier
from karakuri.checks.phrases import Law, as_written, move_proposals, square_law, when
from karakuri.mechanics.at_drive import bears_N
from karakuri.mechanics.worst import drive_torque_Nm
from karakuri.model.finding import Finding, Proposal, Sentence
from karakuri.model.ref import Ref
from karakuri.model.transmission import Ball, Lever
from karakuri.sizing.score_loads import JointLoad, ScoreLoads

HAIR = 1.0 + 1e-9


def find(results: Results) -> Iterable[Finding]:
    loads = results[LOADS]
    for r in results.joints if loads is not None else ():
        load, drive = loads.of(r.index) if loads is not None else None, results.figure.drive_of(r.joint.id)
        if load is None or drive is None or r.geared is None or r.geared.flaw or r.missing or r.opens:
            continue
        force, at = load.borne
        if drive.transmission.kind == "direct" or force <= r.geared.most * HAIR:
            continue
        words, fast = (when(at),), ", as written: a servo cannot go so fast then" if as_written(results, at) else ""
        asked = Borne(
            "strain",
            force,
            Sentence(f"at most, in the score at {{0}}{fast}", words),
            Sentence(f"; most of it in the score at {{0}}{fast}", words),
            at,
            _move(loads, load, at),
        )
        if isinstance(drive.transmission, Lever | Ball):
            yield rod(r, asked, drive.transmission, results)
        yield pulled(r, asked, drive, results)


def _move(loads: ScoreLoads | None, load: JointLoad, at: float) -> Ref | None:
    """The move of its own ribbon that is under way then, or was the last."""
    if loads is None or load.joint.channel < 0:
        return None
    track = loads.motion.tracks[load.joint.channel]
    k = int(np.searchsorted(track.departs, at + 1e-9, side="right")) - 1
    return Ref("move", loads.motion.channels[load.joint.channel].id, k) if k >= 0 else None


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    drive, loads = results.figure.drive_of(r.joint.id), results[LOADS]
    if drive is None or loads is None or finding.verdict == "holds":
        return
    yield from sturdier(finding, r, drive, results)
    if finding.move is not None and finding.demand is not None and finding.capacity is not None:
        yield from move_proposals(finding, results, _law(finding, r, results, loads))


def _law(finding: Finding, r: JointResults, results: Results, loads: ScoreLoads) -> Law:
    """How what is borne answers to a slower or shorter move."""
    assert finding.demand is not None and finding.capacity is not None and finding.at_s is not None
    need, may = finding.demand.value, finding.capacity.value
    q, _, _ = loads.motion.state(np.array([finding.at_s]))
    load = loads.of(r.index)
    still = max(
        float(bears_N(results.tree, r.index, q, np.abs(drive_torque_Nm(results.tree, r.index, q, g)))[0])
        for g in results.gravities
    )
    weight = min(need * still / load.borne[0], need) if load is not None and load.borne[0] > 0 else 0.0
    return square_law(may, weight, max(need - weight, 0.0))
