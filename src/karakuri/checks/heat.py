"""Heat over the score: the root mean square of the torque against what may be held for long. Rests count.

It is taken over the worst running window, as long as a servo takes to get hot; averaged over a long score it would hide in the rests."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.checks.contract import Results, torque, wished
from karakuri.checks.phrases import parts, stronger
from karakuri.mechanics.worst import drive_torque_Nm
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.model.score_edits import stretch_all
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for part in parts(results):
        can, rms = part.results.can, part.load.rms
        assert can is not None
        reserve = can.continuous / rms if rms > 1e-9 else math.inf
        quantities = (
            torque(rms, "up"),
            torque(can.continuous, "down"),
            Quantity(results.figure.score.length_s, "time"),
        )
        text = f"{part.results.joint.name} gives {{0}} over the {{2}} of the score (root mean square); {{1}} may be held for long."
        yield Finding(
            finding_id("heat", part.results.joint.id), "heat", Ref("joint", part.results.joint.id),
            verdict_of(reserve, wished(results)), Sentence(text, quantities), reserve=reserve,  
            demand=quantities[0], capacity=quantities[1], at_s=part.load.peak[1],
        )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    calm = _weight_rms(finding, results)
    r = results.of(finding.subject.id)
    if r.can is not None and calm * wished(results) < r.can.continuous:
        for by in (1.25, 1.6, 2.5):
            label = Sentence("Stretch everything {0} times", (Quantity(by, "ratio"),))
            yield Proposal(stretch_all(results.figure, by), label, "all")
    yield from stronger(finding, results)


def _weight_rms(finding: Finding, results: Results) -> float:
    """What would be left of the root mean square, N·m, if everything went infinitely slowly: weight alone."""
    if results.loads is None:
        return math.inf
    q, _, _ = results.loads.motion.state(np.linspace(0.0, results.figure.score.length_s, 400))
    row = results.of(finding.subject.id).index
    return max(float(np.sqrt(np.mean(drive_torque_Nm(results.tree, row, q, g) ** 2))) for g in results.gravities)
