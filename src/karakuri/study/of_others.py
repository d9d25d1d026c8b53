"""The scores that are not in hand, and what the behaviour does by itself, judged as if each were: what is worst in them."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from karakuri.checks.contract import LIVED, LOADS, OTHERS, PACES, RINGS, LivedScore, Needed, OtherScore, Results
from karakuri.checks.rules import OF_BOTH, OF_THE_SCORE, RULES
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.makers import Voice
from karakuri.model.score import Score
from karakuri.motion.voice.following import NO_LIMIT
from karakuri.study.given import Analysis, Found, Given
from karakuri.study.goes_along import goes_along
from karakuri.study.reuse import Reuse
from karakuri.study.telling import telling

OF_SCORES = (LOADS, RINGS, PACES)
OF_BEHAVIOUR = frozenset({"behaviour", "steering", "lived", "scores"})
OF_PACE = frozenset({"toofast", "effort"})
NOT_LIVED = frozenset({"softlimits", "park", "voice", "rings"})
"""What is not asked of what it does by itself: that is held inside its band, goes home at last, speaks as its voices say, and how a move ends is told of the joint."""


def others(given: Given) -> tuple[OtherScore, ...] | None:
    """What is worst in every score that is not in hand; None in a quick study, which leaves them as they were found."""
    figure = given.figure
    waiting = [score for score in figure.scores if score is not figure.score and score.moves_something]
    if given.quick:
        return None
    out = []
    for score in waiting:
        found = _findings(given, Figure(**(dict(figure) | {"playing": score.id})))
        wrong = sorted((f for f in found if f.verdict != "holds"), key=Finding.sort_key)
        out.append(OtherScore(score, len(found), tuple(wrong)))
    return tuple(out)


def lived(given: Given) -> LivedScore | None:
    """What its behaviour does, lived for a while and judged as a score; None in a quick study and while remedies are tried, which leave it as it was found. Where moves seem too fast,
    again with none faster than the drives go along with, as players make them."""
    figure = given.figure
    if given.quick or given.reuse.trying or figure.behaviour is None or not figure.behaviour.states:
        return None
    from karakuri.behaviour.drill import (
        drill,
    )  # what runs a behaviour is not read before one is judged: a start is quicker by it

    given.course.at("what it does by itself", 0.0)
    made = drill(figure, given.heard)
    wrong = _wrong(given, made)
    hurried = {finding.subject.id for finding in wrong if finding.rule in OF_PACE}
    slower = [c for c in figure.score.moved if hurried & {c.id, *c.joints}]
    if slower:
        reuse = Reuse()
        can = {channel.id: goes_along(figure, channel, reuse) or NO_LIMIT for channel in slower}
        made = drill(figure, given.heard, can)
        wrong = _wrong(given, made)
    said = (
        {figure.sound(play.sound) for voice in made.voices for play in voice.plays}
        if any(isinstance(maker, Voice) for score in figure.scores for maker in score.makers)
        else set()
    )
    unheard = sorted(sound.name for sound in said if sound.sha256 not in (given.heard or {}))
    return LivedScore(made, tuple(unheard), wrong)


def _wrong(given: Given, made: Score) -> tuple[Finding, ...]:
    if not made.moves_something and not made.voices:
        return ()
    figure = Figure(**(dict(given.figure) | {"scores": (*given.figure.scores, made), "playing": made.id}))
    found = (f for f in _findings(given, figure) if f.rule not in NOT_LIVED)
    return tuple(sorted((f for f in found if f.verdict != "holds"), key=Finding.sort_key))


def _findings(given: Given, figure: Figure) -> list[Finding]:
    """What the rules tell of a figure's score in hand; of rules that know body and score, what they would not tell without it. What is told of its behaviour is told once."""
    body = {name: given.found[name] for name in given.table if name not in _names(given.table)}
    broken = list(given.broken)
    inner = replace(given, figure=figure, known=body | {OTHERS.name: (), LIVED.name: None}, broken=broken)
    told = _told(inner, Found(inner), (OF_THE_SCORE | OF_BOTH) - OF_BEHAVIOUR)
    without = {finding.id: finding for finding in _told(inner, body | dict.fromkeys(_names(given.table)), OF_BOTH)}
    return [f for f in told if f.rule in OF_THE_SCORE or without.get(f.id) != f]


def _names(table: Mapping[str, Analysis]) -> set[str]:
    return {name for name, analysis in table.items() if analysis.of_score}


def _told(given: Given, found: Mapping[str, object], ids: frozenset[str]) -> list[Finding]:
    results = Results(
        given.figure,
        given.tree,
        given.gravities,
        tuple(given.joints),
        found,
        _nobody,
        broken=tuple(given.broken),
        heard=given.heard,
    )
    return telling([rule for rule in RULES if rule.id in ids], results, given.reuse)


def _nobody(figure: Figure, joint_id: str) -> Needed | None:
    """Nothing is proposed for a score that is not in hand."""
    return None
