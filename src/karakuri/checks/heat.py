"""Heat over the score: the root mean square of the torque against what may be held for long. Rests count."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import Results, torque, wished
from karakuri.checks.phrases import parts, stronger
from karakuri.model.finding import Finding, Proposal, Sentence, verdict_of
from karakuri.model.score_edits import stretch_all
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for part in parts(results):
        can, rms = part.results.can, part.played.rms
        assert can is not None
        reserve = can.held / rms if rms > 1e-9 else math.inf
        quantities = (torque(rms, "up"), torque(can.held, "down"), Quantity(results.figure.score.length_s, "time"))
        text = f"{part.results.joint.name} gives {{0}} over the {{2}} of the score (root mean square); {{1}} may be held for long."
        yield Finding(
            f"heat.{part.results.joint.id}", "heat", part.results.joint.id, "score",
            verdict_of(reserve, wished(results)), Sentence(text, quantities), reserve, None, None,
            quantities[0], quantities[1], at_s=part.played.peak[1],
        )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    for by in (1.25, 1.5, 2.0):
        label = Sentence("Stretch everything {0} times", (Quantity(by, "ratio"),))
        yield Proposal(stretch_all(results.figure, by), label, "all")
    yield from stronger(finding, results)
