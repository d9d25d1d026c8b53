"""What a figure has to act with: its ribbons, its voice, its lists of lines, and chance. Deeds act on it."""

from __future__ import annotations

from bisect import insort
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from karakuri.behaviour.ribbon import Ribbon
from karakuri.behaviour.speech import spoken
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.moves import Row
from karakuri.motion.life.chance import Chance
from karakuri.motion.score_motion import Tracks
from karakuri.motion.voice.following import KeepsUp
from karakuri.motion.voice.lines import said

LIGHT_S, LEAST = 0.5, 0.05
"""How long a light takes to where what is played begins; nearer than so much, in a ribbon's own unit, it is there."""


@dataclass
class Stage:
    """`heard` by digest and `can` by ribbon as makers of moves are given them; `sounded` what was said and when, s."""

    figure: Figure
    chance: Chance
    records: bool = False
    heard: Mapping[str, Loudness] = field(default_factory=dict)
    can: Mapping[str, KeepsUp] = field(default_factory=dict)
    sounded: list[tuple[float, str]] = field(default_factory=list)
    levels: Mapping[str, float] = field(default_factory=dict)
    """What inputs say now, 0 to 100."""

    def __post_init__(self) -> None:
        channels = self.figure.ribbons
        self.ribbons = {ident: Ribbon(c, *c.band(self.figure), self.records) for ident, c in channels.items()}
        self.tracks = Tracks()
        self._said: dict[str, Iterator[str]] = {}
        self._speech: dict[tuple[str, str], tuple[Row, ...]] = {}

    def pace(self, ident: str, by: float) -> float:
        """How long a ribbon takes to go so far, in its own unit, to where something begins, s."""
        if abs(by) < LEAST:
            return 0.0
        if self.ribbons[ident].channel.leads is None:
            return LIGHT_S
        behaviour = self.figure.behaviour
        speed = behaviour.approach_deg_per_s if behaviour is not None else 60.0
        unit = self.ribbons[ident].channel.measure(self.figure).si
        least = self.can[ident].least(abs(by) * unit) if ident in self.can else 0.0
        return max(1.875 * abs(by) / speed, least if least < 60.0 else 0.0)

    def still(self, runs: Iterable[str], at: float) -> None:
        """What runs of these ribbons stands still half a second later; also what is just passing that on its way elsewhere."""
        for ident in runs:
            ribbon = self.ribbons[ident]
            if ribbon.channel.runs and ribbon.moved:
                ribbon.add(ribbon.ready(at)[0], LIGHT_S, 0.0)

    def next_line(self, lines_id: str) -> str | None:
        """The sound that a list says next, however often it was asked before; None where it has nothing more to say."""
        if lines_id not in self._said:
            lines = next(each for each in self.figure.lines if each.id == lines_id)
            self._said[lines_id] = said(lines, Chance(self.chance.draw() & 0x7FFFFFFF, 16))
        return next(self._said[lines_id], None)

    def speech(self, voice: Voice, jaw: MovedChannel, loudness: Loudness) -> tuple[Row, ...]:
        """Moves of a jaw with a sound, in its own unit, s from when it sets off; planned once."""
        key = (voice.jaw, loudness.sha256)
        if key not in self._speech:
            self._speech[key] = spoken(self.figure, voice, jaw, loudness, self.can)
        return self._speech[key]

    def hush(self, at: float) -> None:
        """What has not begun to sound by then, s, does not."""
        while self.sounded and self.sounded[-1][0] > at:
            self.sounded.pop()

    def say(self, at: float, sound_id: str) -> None:
        """A sound begins."""
        insort(self.sounded, (at, sound_id), key=lambda each: each[0])
        if not self.records and len(self.sounded) > 64:
            del self.sounded[:32]
