"""A jaw after a voice: ordinary moves that open it as it gets loud, ahead by the servo's lag, no farther than its drive can follow."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from karakuri.errors import EditRefused
from karakuri.frozen import Frozen
from karakuri.model.channel import JointChannel, MovedChannel, Play
from karakuri.model.edit import Edit, Step, apply
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.moves import Row
from karakuri.model.score_edits import rewritten, tidy, written
from karakuri.motion.voice.following import NO_LIMIT, Busy, Followed, KeepsUp, followed
from karakuri.motion.voice.opening import Manner, Turns, turns_of

LEAST_SHARE = 0.02
"""Shorter of what was asked by more than so much of the whole opening, a move counts as flattened."""


class Spoken(Frozen, eq=False):
    """One play of a sound on a jaw: its turns, s from the sound's beginning, when in the score that is, and the moves."""

    play: Play
    turns: Turns
    begins: float
    moves: Followed


class VoiceMade(Frozen, eq=False):
    """What a voice writes: rows in the ribbon's own unit, what each play asked, and the plays whose sound nobody could listen to; where it is shut, and from there to wide open, rad or m."""

    rows: tuple[Row, ...]
    spoken: tuple[Spoken, ...]
    unheard: tuple[Play, ...]
    shut: float
    opening: float

    @property
    def flattened(self) -> list[tuple[float, float]]:
        """When, s, and by how much, rad or m, moves stay short of what was asked."""
        least = LEAST_SHARE * abs(self.opening)
        return [
            (each.begins + at, by)
            for each in self.spoken
            for at, by in zip((each.moves.departs + each.moves.takes).tolist(), each.moves.short.tolist(), strict=True)
            if by > least
        ]

    @property
    def count(self) -> int:
        """How many moves there are."""
        return len(self.rows)


def shut_and_wide(figure: Figure, voice: Voice, jaw: MovedChannel) -> tuple[float, float]:
    """Where the jaw is shut and where it is wide open, in its own unit."""
    low, high = jaw.band(figure)
    shut = jaw.park if voice.shut_at is None else voice.shut_at
    wide = voice.opens_to if voice.opens_to is not None else high if high - shut >= shut - low else low
    return min(max(shut, low), high), min(max(wide, low), high)


def manner_of(voice: Voice) -> Manner:
    """How its jaw goes with it."""
    return Manner(voice.attack_s, voice.release_s, voice.threshold_dB, voice.wide_dB, voice.content_Hz)


def ahead_of(figure: Figure, voice: Voice) -> float:
    """How much sooner it sets off than it sounds, s."""
    return figure.assumptions.servo_lag_s if voice.ahead_s is None else voice.ahead_s


def make(figure: Figure, voice: Voice, heard: Mapping[str, Loudness], can: KeepsUp = NO_LIMIT) -> VoiceMade:
    """What a voice writes; `heard` by digest of the sound. Raises KeyError where its ribbon or its channel is gone."""
    score = figure.score
    jaw, channel = score.moving(voice.jaw), next(each for each in score.voices if each.id == voice.voice)
    assert isinstance(jaw, JointChannel)
    unit = jaw.measure(figure).si
    shut, wide = (end * unit for end in shut_and_wide(figure, voice, jaw))
    busy = [Busy(row.departs, row.departs + row.takes, row.target * unit) for row in jaw.moves.rows() if row.made_by != voice.id]  # fmt: skip
    manner = manner_of(voice)
    rows: list[Row] = []
    spoken: list[Spoken] = []
    unheard: list[Play] = []
    free = 0.0
    for k, play in enumerate(channel.plays):
        loudness = heard.get(figure.sound(play.sound).sha256)
        if loudness is None:
            unheard.append(play)
            continue
        until = channel.plays[k + 1].at_s - play.at_s if k + 1 < len(channel.plays) else loudness.length_s
        until = min(until, score.length_s - play.at_s)
        asked = _cut(turns_of(loudness, manner), until)
        begins = play.at_s - ahead_of(figure, voice)
        near = [Busy(b.begins - begins, b.ends - begins, b.place) for b in busy]
        moves = followed(asked, shut, wide, can, max(free, 0.0) - begins, near)
        spoken.append(Spoken(play, asked, begins, moves))
        for departs, takes, target in zip(
            moves.departs.tolist(), moves.takes.tolist(), moves.target.tolist(), strict=True
        ):
            rows.append(tidy(Row(begins + departs, takes, target / unit, made_by=voice.id)))
        free = rows[-1].departs + rows[-1].takes if rows else free
    return VoiceMade(tuple(rows), tuple(spoken), tuple(unheard), shut, wide - shut)


def speak(
    figure: Figure, voice: Voice, heard: Mapping[str, Loudness], can: KeepsUp = NO_LIMIT
) -> tuple[Edit, VoiceMade]:
    """Write what a voice makes in place of what it made before. Raises EditRefused where there is nothing to listen to."""
    made = make(figure, voice, heard, can)
    if not made.spoken:
        raise EditRefused(
            "There is no sound to go with: put one on the voice first, and keep its file beside the figure."
        )
    jaw = figure.score.moving(voice.jaw)
    return written(figure, voice, {jaw.id: list(made.rows)}, f"{jaw.name} after the voice", f"voice {voice.id}"), made


def change_voice(
    figure: Figure, voice_id: str, heard: Mapping[str, Loudness], can: KeepsUp = NO_LIMIT, **fields: Any
) -> tuple[Edit, VoiceMade]:
    """Other settings for a voice, and its moves anew."""
    voice = figure.score.maker(voice_id)
    if not isinstance(voice, Voice):
        raise KeyError(voice_id)
    return speak(figure, Voice(**(dict(voice) | fields)), heard, can)


def with_jaws(
    figure: Figure, edit: Edit, heard: Mapping[str, Loudness], can_of: Callable[[Figure, str], KeepsUp]
) -> Edit:
    """An edit of what sounds, and with it what every jaw then does: `can_of` tells what the drives of a ribbon keep up with. What cannot be listened to leaves a jaw
    as it is."""
    after, steps = apply(figure, edit), list[Step]()
    for voice in after.score.makers:
        if isinstance(voice, Voice):
            made = make(after, voice, heard, can_of(after, voice.jaw))
            if not made.unheard:
                steps += rewritten(after, voice.id, {voice.jaw: list(made.rows)})
    return Edit(edit.name, (*edit.steps, *steps), edit.merge_key)


def _cut(turns: Turns, until: float) -> Turns:
    """The turns of a sound that is heard until then, s: shut from there on."""
    kept = turns.begins < until
    if bool(kept.all()):
        return turns
    begins, ends, opening = turns.begins[kept], np.minimum(turns.ends[kept], until), turns.opening[kept]
    if len(opening) and opening[-1] > 0.0:
        begins, ends, opening = np.append(begins, until), np.append(ends, until + 0.5), np.append(opening, 0.0)
    return Turns(begins, ends, opening)
