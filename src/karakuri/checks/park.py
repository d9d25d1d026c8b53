"""The score ends where it began: every joint is back at park, or the next pass, or the next power-up, begins with a leap."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from karakuri.checks.contract import Results
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Finding, Proposal, Sentence
from karakuri.model.moves import Row
from karakuri.model.ref import Ref
from karakuri.model.score_edits import tidy, with_row
from karakuri.units import Quantity

LEAST = 0.5
"""Nearer than so much, in a ribbon's own unit, it is back."""


def find(results: Results) -> Iterable[Finding]:
    loads = results.loads
    if loads is None:
        return
    yield from _running(results)
    away = _away(results)
    if not away and any(channel.leads is not None for channel in loads.motion.channels):
        text = "Every joint of the score is back at park when it ends."
        yield Finding("park.score", "park", Ref("score"), "holds", Sentence(text), measure=Sentence("back at park"))
    if not away:
        return
    worst, by = away[0]
    score = results.figure.score
    who = f"{worst.name} never returns" if len(away) == 1 else f"{worst.name} and {len(away) - 1} more never return"
    leap = "each pass begins with a leap" if score.loops else "the next start begins with a leap"
    text = f"{who} to park: {{0}} away when the score ends at {{1}}; {leap}."
    quantities = (Quantity(by, worst.measure(results.figure).kind, rounding="up"), Quantity(score.length_s, "time"))
    yield Finding(
        "park.score", "park", Ref("joint", worst.joints[0]), "fails" if score.loops else "tight",
        Sentence(text, quantities), measure=Sentence("{0} from park at the end", quantities[:1]), at_s=score.length_s,
    )  # fmt: skip


def _running(results: Results) -> Iterable[Finding]:
    """What still runs at the end; where the score plays again it begins still, so that it stops and starts."""
    score, found = results.figure.score, _runs_on(results)
    if not found:
        return
    worst, by = found[0]
    who = f"{worst.name} still runs" if len(found) == 1 else f"{worst.name} and {len(found) - 1} more still run"
    share = Quantity(by, "percent", rounding="up")
    text = f"{who} when the score ends at {{1}}, at {{0}}: it is told to stand still then, within half a second."
    yield Finding(
        "park.running", "park", Ref("channel", worst.id), "tight", Sentence(text, (share, Quantity(score.length_s, "time"))),
        measure=Sentence("at {0} at the end", (share,)), at_s=score.length_s,
    )  # fmt: skip


def _strays(results: Results, wanted: Callable[[MovedChannel], bool]) -> list[tuple[MovedChannel, float]]:
    """Channels away from park at the end, rad, m or share: what turns first, the furthest first."""
    loads, figure = results.loads, results.figure
    assert loads is not None
    found = []
    for channel, stray in zip(loads.motion.channels, loads.strays, strict=True):
        if wanted(channel) and abs(stray) > LEAST * channel.measure(figure).si:
            found.append((channel, abs(float(stray))))
    return sorted(found, key=lambda each: (each[0].measure(figure).kind, -each[1]))


def _away(results: Results) -> list[tuple[MovedChannel, float]]:
    """Of joints: a light that is not back leaps too, and hurts nobody."""
    return _strays(results, lambda channel: channel.leads is not None)


def _runs_on(results: Results) -> list[tuple[MovedChannel, float]]:
    return _strays(results, lambda channel: channel.runs)


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds" or results.loads is None:
        return
    score = results.figure.score
    for takes in (0.6, 1.0, 1.5):
        steps = []
        for channel, _ in _runs_on(results) if finding.id == "park.running" else _away(results):
            end = score.length_s
            rows = channel.moves
            track = results.loads.motion.tracks[results.loads.motion.channels.index(channel)]
            busy = float(np.max(track.departs + track.takes, initial=0.0, where=track.departs < end))
            departs = max(0.0, min(end - takes, max(busy, end - takes)))
            moves, _k = with_row(rows, tidy(Row(departs, max(0.05, end - departs), channel.park)))
            steps.append(Set(("score", "channels", channel.id, "moves"), moves))
        words = "Stand still in the last {0}" if finding.id == "park.running" else "Move home in the last {0}"
        label = Sentence(words, (Quantity(takes, "time"),))
        yield Proposal(Edit("move home at the end", tuple(steps)), label, "home")
