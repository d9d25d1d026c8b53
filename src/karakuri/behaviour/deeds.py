"""What a state plays, one function a kind: each begins at a time, moves ribbons that nobody claimed before it, and says when it is over."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from karakuri.behaviour.hand.grasp import Grasp
from karakuri.behaviour.speech import jaws_of, joins
from karakuri.behaviour.stage import Stage
from karakuri.model.behaviour import ANALOG, Attends, Lights, Lives, Parks, Performs, Poses, Says, Steered
from karakuri.model.channel import MovedChannel
from karakuri.model.makers import Life
from karakuri.model.moves import Row
from karakuri.model.score import Score
from karakuri.motion.frames import HOME_RAD_PER_S
from karakuri.motion.life import LIVES, glances
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Cast, Happening
from karakuri.motion.makers.voice import ahead_of, shut_and_wide

FOREVER = math.inf


@dataclass
class Act:
    """A deed under way: when it is over, s, and what it does while it lasts, given the time and where somebody is, degrees to the left, or None."""

    ends: float
    goes_on: Callable[[float, float | None], float] | None = None


Claims = set[str]


def perform(stage: Stage, deed: Performs, at: float, claims: Claims) -> Act:
    """A score or a section of it: first to where it begins, all together."""
    score = next(each for each in stage.figure.scores if each.id == deed.score)
    begin, end = stretch_of(score, deed)
    mine = [c for c in score.moved if c.id not in claims]
    claims |= {c.id for c in mine}
    act = Act(at)

    def play(now: float) -> float:
        begins = now + _approach(stage, score, mine, begin, now)
        for channel in mine:
            for row in rows_between(channel, begin, end):
                stage.ribbons[channel.id].add(begins + row.departs, row.takes, row.target, row.profile, row.shape)
        for voice in score.voices:
            for one in voice.plays:
                if begin <= one.at_s < end:
                    stage.say(begins + one.at_s - begin, one.sound)
        return begins + end - begin

    def again(now: float, _: float | None) -> float:
        return play(now)

    over = play(at)
    runs = [channel.id for channel in mine if channel.runs]
    act.ends, act.goes_on = (FOREVER, _each(over, again)) if deed.again else (over, _then_still(stage, runs, over))
    return act


def _then_still(stage: Stage, runs: list[str], over: float) -> Callable[[float, float | None], float] | None:
    """What ran while something was played stands still once that is over: nobody would stop it else."""
    left = [round(over, 4)]

    def goes_on(now: float, _: float | None) -> float:
        if now >= left[0]:
            left[0] = FOREVER
            stage.still(runs, now)
        return over

    return goes_on if runs else None


def _each(first: float, again: Callable[[float, float | None], float]) -> Callable[[float, float | None], float]:
    """Does something again each time its own end has come."""
    due = [round(first, 4)]

    def goes_on(now: float, towards: float | None) -> float:
        if now >= due[0]:
            due[0] = round(again(now, towards), 4)
        return FOREVER

    return goes_on


def _approach(stage: Stage, score: Score, mine: list, begin: float, at: float) -> float:  # type: ignore[type-arg]
    """All ribbons to where they are at a time of a score; how long that takes, s."""
    wanted = {c.id: float(stage.tracks.of(c, 1.0).at(np.array([begin]))[0][0]) for c in mine}
    ready = {ident: stage.ribbons[ident].ready(at) for ident in wanted}
    there = max((ready[i][0] + stage.pace(i, wanted[i] - ready[i][1]) for i in wanted), default=at)
    for ident, place in wanted.items():
        stage.ribbons[ident].add(ready[ident][0], there - ready[ident][0], place)
    return there - at


def rows_between(channel: MovedChannel, begin: float, end: float) -> list[Row]:
    """A ribbon's moves of a section from `begin` to `end` s, from where it begins; of the one under way as it begins, the rest."""
    out: list[Row] = []
    for row in channel.moves.rows():
        if row.departs < begin < row.departs + row.takes:
            out.append(Row(0.0, row.departs + row.takes - begin, row.target))
        elif begin <= row.departs < end:
            out.append(row._replace(departs=row.departs - begin))
    return out


def stretch_of(score: Score, deed: Performs) -> tuple[float, float]:
    """From when to when of its score a deed plays, s."""
    section = next((s for s in score.sections if s.id == deed.section), None)
    return (section.from_s, min(section.to_s, score.length_s)) if section is not None else (0.0, score.length_s)


def pose(stage: Stage, deed: Poses, at: float, claims: Claims) -> Act:
    """A kept pose, gone to softly, never quicker than its ribbons approach."""
    kept, over = stage.figure.pose(deed.pose), at
    for ident, ribbon in stage.ribbons.items():
        place = kept.place_of(ribbon.channel)
        if place is not None and ident not in claims:
            claims.add(ident)
            when, here = ribbon.ready(at)
            takes = max(deed.takes_s, stage.pace(ident, place - here))
            ribbon.add(when, takes, place)
            over = max(over, when + takes)
    return Act(over)


def light(stage: Stage, deed: Lights, at: float, claims: Claims) -> Act:
    """A light to a level."""
    if deed.channel in claims or deed.channel not in stage.ribbons:
        return Act(at)
    claims.add(deed.channel)
    when, _ = stage.ribbons[deed.channel].ready(at)
    stage.ribbons[deed.channel].add(when, deed.takes_s, deed.level)
    return Act(when + deed.takes_s)


def park(stage: Stage, deed: Parks, at: float, claims: Claims) -> Act:
    """All together to park, the farthest at 20 °/s."""
    free = {ident: ribbon for ident, ribbon in stage.ribbons.items() if ident not in claims}
    claims |= set(free)
    ready = {ident: ribbon.ready(at) for ident, ribbon in free.items()}
    there, speed = at, math.degrees(HOME_RAD_PER_S)
    for ident, (when, here) in ready.items():
        away = abs(free[ident].channel.park - here)
        if away > 0.01:
            there = max(there, when + (1.875 * away / speed if free[ident].channel.leads is not None else 0.5))
        there = max(there, when)
    for ident, ribbon in free.items():
        ribbon.add(ready[ident][0], there - ready[ident][0], ribbon.channel.park)
    return Act(there)


def says(stage: Stage, deed: Says, at: float, claims: Claims) -> Act:
    """A line, and the jaws that go with the voice; the sound waits for the jaw that sets off ahead of it."""
    sound_id = deed.sound if deed.sound is not None else stage.next_line(deed.lines or "")
    if sound_id is None:
        return Act(at)
    sound, figure = stage.figure.sound(sound_id), stage.figure
    jaws = [voice for voice in jaws_of(figure) if voice.jaw not in claims]
    lead = max((ahead_of(figure, voice) for voice in jaws), default=0.0)
    stage.say(at + lead, sound_id)
    loudness, over = stage.heard.get(sound.sha256), at + lead + sound.length_s
    for voice in jaws:
        claims.add(voice.jaw)
        ribbon = stage.ribbons[voice.jaw]
        shut, _ = shut_and_wide(figure, voice, ribbon.channel)
        when, here = ribbon.ready(at)
        takes = stage.pace(voice.jaw, shut - here)
        if takes > 0:
            ribbon.add(when, takes, shut)
        if loudness is not None:
            begins, rows = at + lead - ahead_of(figure, voice), stage.speech(voice, ribbon.channel, loudness)
            for row in rows[joins(rows, shut, when + takes - begins) :]:
                ribbon.add(begins + row.departs, row.takes, row.target)
                over = max(over, begins + row.departs + row.takes)
    return Act(over)


@dataclass
class _Living:
    """One kind of life under way: its cast, what happens next and when."""

    cast: Cast
    happenings: Iterator[Happening]
    due: float
    next: Happening = field(init=False)

    def __post_init__(self) -> None:
        self.next = next(self.happenings)
        self.due = round(self.due + self.next.wait, 4)

    def goes_on(self, stage: Stage, now: float) -> None:
        """Begin what is due."""
        while now >= self.due:
            for stir in self.next.stirs:
                actor = self.cast[stir.who]
                for channel, sign in actor.ribbons:
                    ribbon = stage.ribbons[channel.id]
                    home = sign * channel.park if stir.home else 0.0
                    ribbon.add(now + stir.at, stir.takes, sign * actor.clipped(home + stir.place))
            busy = self.next.busy
            self.next = next(self.happenings)
            self.due = round(now + busy + self.next.wait, 4)


def live(stage: Stage, deed: Lives, at: float, claims: Claims) -> Act:
    """Its life when idle, on the ribbons that are left, around where they park."""
    figure = stage.figure
    life: Life = figure.score.life
    seed = stage.chance.draw() & 0x7FFFFFFF
    living: list[_Living] = []
    for k, (word, kind) in enumerate(LIVES.items()):
        cast = kind.cast(figure, stage.can) if word in life.does else ()
        mine = {channel.id for actor in cast for channel, _ in actor.ribbons}
        if cast and not mine & claims:
            claims |= mine
            there = at
            for ident in mine:
                ribbon = stage.ribbons[ident]
                when, here = ribbon.ready(at)
                takes = stage.pace(ident, ribbon.channel.park - here)
                ribbon.add(when, takes, ribbon.channel.park)
                there = max(there, when + takes)
            living.append(_Living(cast, kind.happenings(cast, life, Chance(seed, k)), there))

    def goes_on(now: float, _: float | None) -> float:
        for one in living:
            one.goes_on(stage, now)
        return FOREVER

    return Act(FOREVER, goes_on)


def attend(stage: Stage, deed: Attends, at: float, claims: Claims) -> Act:
    """Eyes and head to where somebody is, again whenever that has changed enough."""
    figure = stage.figure
    cast = tuple(a for a in glances.cast(figure, stage.can) if a.part.endswith("pan"))
    mine = {channel.id for actor in cast for channel, _ in actor.ribbons}
    if not cast or mine & claims:
        return Act(at)
    claims |= mine
    shift = glances.Shift(
        cast, {a.part.split()[1]: k for k, a in enumerate(cast) if a.part.startswith("head")}, figure.score.life
    )
    looked: list[float | None] = [None]
    free = [round(max((stage.ribbons[ident].ready(at)[0] for ident in mine), default=at), 4)]
    for actor_at, actor in enumerate(cast):
        first, sign = actor.ribbons[0]
        shift.place[actor_at] = sign * stage.ribbons[first.id].ready(at)[1]

    def goes_on(now: float, towards: float | None) -> float:
        if towards is None or now < free[0] or (looked[0] is not None and abs(towards - looked[0]) < STEP_DEG):
            return FOREVER
        looked[0] = towards
        shift.stirs.clear()
        free[0] = round(shift.towards(now, towards), 4)
        for stir in shift.stirs:
            for channel, sign in cast[stir.who].ribbons:
                stage.ribbons[channel.id].add(stir.at, stir.takes, sign * cast[stir.who].clipped(stir.place))
        return FOREVER

    return Act(FOREVER, goes_on)


def steer(stage: Stage, deed: Steered, at: float, claims: Claims) -> Act:
    """Ribbons that are left do what a hand says, from where they stand, what runs from its still; a knob that nobody has touched yet rests in its middle."""
    figure = stage.figure
    if figure.steering is None or not figure.steering.grips:
        return Act(at)
    inputs = figure.behaviour.inputs if figure.behaviour is not None else ()
    rests = {each.id: 50.0 if each.kind in ANALOG else 0.0 for each in inputs}
    ready = {ident: ribbon.ready(at) for ident, ribbon in stage.ribbons.items()}
    stands = {ident: place for ident, (_, place) in ready.items() if not stage.ribbons[ident].channel.runs}
    hand = Grasp(figure, stands, stage.can)
    mine = [ident for ident in hand.ribbons if ident not in claims]
    claims |= set(mine)
    begins = round(max((ready[ident][0] for ident in mine), default=at), 4)

    stage.still(mine, at)

    def goes_on(now: float, _: float | None) -> float:
        if now >= begins:
            places = hand.tick({**rests, **stage.levels})
            for ident in mine:
                stage.ribbons[ident].add(now, 0.0, places[ident], "sudden")
        return FOREVER

    return Act(FOREVER, goes_on)


STEP_DEG = 6.0
DEEDS: Mapping[str, Callable[..., Act]] = {
    "score": perform, "pose": pose, "light": light, "park": park, "says": says, "life": live, "attends": attend, "steered": steer,
}  # fmt: skip
"""By the kind of deed."""
