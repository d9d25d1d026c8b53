"""Shaking over the score: a move that runs past where it should come to rest, so that it is seen."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import RINGS, Results, wished
from karakuri.checks.phrases import Law, Part, move_proposals, parts, stronger, when
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.ringing import Rung
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    found, worst = results[RINGS] or {}, dict[str, tuple[Part, Rung]]()
    for part in parts(results):
        for rung in found.get(part.results.joint.id, ()):
            known = worst.get(part.channel.id)
            if known is None or rung.reserve < known[1].reserve:
                worst[part.channel.id] = (part, rung)
    for channel, (part, rung) in worst.items():
        if rung.reserve < wished(results):
            yield _one(part.results.joint.name, part.results.joint.id, channel, rung, wished(results))


def _one(name: str, joint: str, channel: str, worst: Rung, wish: float) -> Finding:
    past, seen = Quantity(worst.past, "angle", rounding="up"), Quantity(worst.visible, "angle", rounding="down")
    verdict = verdict_of(worst.reserve, wish)
    does = "shakes" if verdict == "fails" else "is about to shake"
    text = f"{name} {does} after its move at {{0}}: it runs {{1}} past its end, {{2}} is not seen; an estimate."
    return Finding(
        finding_id("rings", channel),
        "rings",
        Ref("joint", joint),
        verdict,
        Sentence(text, (when(worst.at), past, seen)),
        reserve=worst.reserve,
        demand=past,
        capacity=seen,
        move=Ref("move", channel, worst.k),
        at_s=worst.at,
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """Slower, less far, softer: what runs past goes about with the acceleration at its end; the re-study decides."""
    reserve = finding.reserve
    if reserve is None or finding.move is None:
        return
    law = Law(
        lambda wish: math.sqrt(wish / reserve) if reserve > 0.01 else None,
        lambda wish: min(reserve / wish, 0.95) if reserve > 0.01 else None,
        lambda ratio: reserve / ratio,
        lambda kind, shape: PROFILES[kind].peak_acceleration(shape),
    )
    yield from move_proposals(finding, results, law)
    yield from stronger(finding, results)
