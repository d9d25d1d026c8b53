"""The score ends where it began: every ribbon is back at park, or the next pass, or the next power-up, begins with a leap."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.checks.contract import Results
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Finding, Proposal, Sentence
from karakuri.model.moves import Row
from karakuri.model.ref import Ref
from karakuri.model.score_edits import tidy, with_row
from karakuri.units import Quantity

LEAST = math.radians(0.5)


def find(results: Results) -> Iterable[Finding]:
    loads = results.loads
    if loads is None:
        return
    away = _away(results)
    if not away:
        text = "Every ribbon of the score is back at park when it ends."
        yield Finding("park.score", "park", Ref("score"), "holds", Sentence(text), measure=Sentence("back at park"))
        return
    worst, by = away[0]
    score = results.figure.score
    who = f"{worst.name} never returns" if len(away) == 1 else f"{worst.name} and {len(away) - 1} more never return"
    leap = "each pass begins with a leap" if score.loops else "the next start begins with a leap"
    text = f"{who} to park: {{0}} away when the score ends at {{1}}; {leap}."
    quantities = (Quantity(by, "angle", rounding="up"), Quantity(score.length_s, "time"))
    yield Finding(
        "park.score", "park", Ref("joint", worst.joints[0]), "fails" if score.loops else "tight",
        Sentence(text, quantities), measure=Sentence("{0} from park at the end", quantities[:1]), at_s=score.length_s,
    )  # fmt: skip


def _away(results: Results) -> list[tuple[MovedChannel, float]]:
    """Channels of turning joints that are away from park at the end, rad, worst first."""
    loads = results.loads
    assert loads is not None
    found = []
    for channel, stray in zip(loads.motion.channels, loads.strays, strict=True):
        if channel.leads is not None and results.figure.joint(channel.leads).kind == "turn" and abs(stray) > LEAST:
            found.append((channel, abs(float(stray))))
    return sorted(found, key=lambda pair: -pair[1])


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds" or results.loads is None:
        return
    score = results.figure.score
    for takes in (0.6, 1.0, 1.5):
        steps = []
        for channel, _ in _away(results):
            end = score.length_s
            rows = channel.moves
            track = results.loads.motion.tracks[results.loads.motion.channels.index(channel)]
            busy = float(np.max(track.departs + track.takes, initial=0.0, where=track.departs < end))
            departs = max(0.0, min(end - takes, max(busy, end - takes)))
            moves, _k = with_row(rows, tidy(Row(departs, max(0.05, end - departs), channel.park)))
            steps.append(Set(("score", "channels", channel.id, "moves"), moves))
        label = Sentence("Move home in the last {0}", (Quantity(takes, "time"),))
        yield Proposal(Edit("move home at the end", tuple(steps)), label, "home")
