"""What the rules say of one move, whether or not it is among the worst: for the card of a move and the hand that drags it."""

from __future__ import annotations

import numpy as np

from karakuri.checks import effort, soft_limits, toofast
from karakuri.checks.contract import Results
from karakuri.checks.phrases import parts
from karakuri.model.finding import Finding


def findings_of_move(results: Results, channel_id: str, k: int) -> list[Finding]:
    """Findings of the rules about single moves for move k of a channel, worst first; of tied joints the worse one."""
    found: dict[str, Finding] = {}
    for part in parts(results):
        if part.channel.id != channel_id or k >= len(part.load.moves.torque) or part.results.can is None:
            continue
        torque = float(part.load.moves.torque[k])
        findings = [
            effort.about(part, k, part.results.can.intermittent / torque if torque > 1e-12 else np.inf, results)
        ]
        if np.isfinite(part.load.moves.reserve[k]):
            findings.append(toofast.about(part, k, results))
        told = soft_limits.of_move(results, part.channel, k)
        findings += [told] if told is not None else []
        for finding in findings:
            kept = found.get(finding.rule)
            if kept is None or finding.sort_key() < kept.sort_key():
                found[finding.rule] = finding
    return sorted(found.values(), key=Finding.sort_key)
