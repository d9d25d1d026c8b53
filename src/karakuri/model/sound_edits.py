"""Edits of what sounds: putting a sound on a voice, when it begins, taking it out. What a jaw does with it is motion/makers/voice.py."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from karakuri.errors import EditRefused
from karakuri.model.channel import Play, SoundChannel
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.lines import Lines
from karakuri.model.makers import Voice
from karakuri.model.sound import Sound
from karakuri.model.timings import TIMINGS


def put_sound(figure: Figure, fields: Mapping[str, object], at_s: float) -> Edit:
    """Put a sound on the voice of the score in hand, from a time on. `fields` are the sound's but its id; one that is there already is not
    taken twice. Where there is no voice yet there is one from then on, and the first jaw that no voice moves goes with it; a score that is over before the sound
    is gets longer."""
    steps: list[Step] = []
    taken: set[str] = set()
    sound = next((each for each in figure.sounds if each.sha256 == fields["sha256"]), None)
    if sound is None:
        sound = Sound.from_fields({"id": new_id(figure, str(fields["name"]), taken), **fields})
        steps.append(Add("sounds", sound))
    play = Play(id=new_id(figure, f"{sound.id} plays", taken), sound=sound.id, at_s=round(max(0.0, at_s), 3))
    voice = next(iter(figure.score.voices), None)
    if voice is None:
        voice = SoundChannel(id=new_id(figure, "voice", taken), name="Voice", plays=(play,))
        steps.append(Add("score.channels", voice))
        jaw = free_jaw(figure)
        if jaw is not None:
            maker = Voice(id=new_id(figure, f"{jaw} speaks", taken), voice=voice.id, jaw=jaw)
            steps.append(Set(("score", "makers"), (*figure.score.makers, maker)))
    else:
        steps.append(_plays(voice, (*voice.plays, play)))
    ends = play.at_s + sound.length_s
    if ends > figure.score.length_s:
        steps.append(Set(("score", "length_s"), math.ceil(ends * 2.0 + 1.0) / 2.0))
    return Edit(f"put {sound.name} on the voice", tuple(steps))


def free_jaw(figure: Figure) -> str | None:
    """The ribbon of the first jaw that goes with no voice yet."""
    spoken = {maker.jaw for maker in figure.score.makers if isinstance(maker, Voice)}
    for channel in figure.score.moved:
        if channel.leads is not None and channel.id not in spoken and figure.joint(channel.leads).timed is TIMINGS["jaw"]:  # fmt: skip
            return channel.id
    return None


def add_jaw(figure: Figure, voice: SoundChannel, channel_id: str) -> Edit:
    """Let a ribbon go with a voice."""
    maker = Voice(id=new_id(figure, f"{channel_id} speaks"), voice=voice.id, jaw=channel_id)
    name = figure.score.moving(channel_id).name
    return Edit(f"let {name} go with {voice.name}", (Set(("score", "makers"), (*figure.score.makers, maker)),))


def move_play(voice: SoundChannel, play_id: str, at_s: float) -> Edit:
    """Begin a sound at another time."""
    moved = (_at(play, at_s) if play.id == play_id else play for play in voice.plays)
    return Edit(f"begin of a sound on {voice.name}", (_plays(voice, tuple(moved)),), f"{play_id} begins")


def remove_play(figure: Figure, voice: SoundChannel, play_id: str) -> Edit:
    """Take a sound off the voice; one that is heard nowhere else leaves the figure, its file stays where it is."""
    play = next(play for play in voice.plays if play.id == play_id)
    steps: list[Step] = [_plays(voice, tuple(other for other in voice.plays if other.id != play_id))]
    listed = any(play.sound in (*each.openings, *each.lines) for each in figure.lines)
    heard = [other for score in figure.scores for each in score.voices for other in each.plays if other.sound == play.sound]  # fmt: skip
    if len(heard) == 1 and not listed:
        steps.append(Set(("sounds",), tuple(sound for sound in figure.sounds if sound.id != play.sound)))
    return Edit(f"take {figure.sound(play.sound).name} off {voice.name}", tuple(steps))


def list_lines(figure: Figure) -> tuple[Edit, str]:
    """A list of all sounds that are in none yet, else of all; and its id. Raises EditRefused where there are no sounds."""
    if not figure.sounds:
        raise EditRefused("There is no sound yet: put one on the voice first.")
    listed = {ident for each in figure.lines for ident in (*each.openings, *each.lines)}
    free = tuple(sound.id for sound in figure.sounds if sound.id not in listed) or tuple(s.id for s in figure.sounds)
    name = f"Lines {len(figure.lines) + 1}"
    ident = new_id(figure, name)
    return Edit(f"add {name}", (Add("lines", Lines(id=ident, name=name, lines=free)),)), ident


def change_lines(figure: Figure, lines_id: str, words: str, **fields: object) -> Edit:
    """Other lines, another order or pace for a list."""
    before = next(each for each in figure.lines if each.id == lines_id)
    after = Lines(**(dict(before) | fields))
    changed = tuple(after if each.id == lines_id else each for each in figure.lines)
    return Edit(f"{words} of {before.name}", (Set(("lines",), changed),), f"{lines_id} {words}")


def say_lines(figure: Figure, lines: Lines, when: Sequence[tuple[float, str]], from_s: float) -> Edit:
    """Put lines on the voice, when each begins, s, and which; those that this list put there from `from_s` s on make room. Raises EditRefused where there is no
    voice, or nothing to say in time."""
    voice = next(iter(figure.score.voices), None)
    if voice is None:
        raise EditRefused("There is no voice yet: put a sound on it first.")
    if not when:
        raise EditRefused(
            f"Nothing of {lines.name} is said before the score ends: hang the plumb line earlier, or make it longer."
        )
    kept = [play for play in voice.plays if play.made_by != lines.id or play.at_s < from_s]
    taken: set[str] = set()
    made = [Play(id=new_id(figure, f"{line} said", taken), sound=line, at_s=at, made_by=lines.id) for at, line in when]
    return Edit(f"say {lines.name}", (_plays(voice, (*kept, *made)),), f"say {lines.id}")


def forget_lines(figure: Figure, lines_id: str) -> Edit:
    """Take a list out; what it said stays in the scores, as put there by hand."""
    steps: list[Step] = []
    for score in figure.scores:
        for voice in score.voices:
            if any(play.made_by == lines_id for play in voice.plays):
                plays = tuple(
                    Play(**(dict(p) | ({"made_by": ""} if p.made_by == lines_id else {}))) for p in voice.plays
                )
                steps.append(Set(("scores", score.id, "channels", voice.id, "plays"), plays))
    name = next(each.name for each in figure.lines if each.id == lines_id)
    return Edit(f"take {name} out", (*steps, Remove("lines", lines_id)))


def _at(play: Play, at_s: float) -> Play:
    return Play(**(dict(play) | {"at_s": round(max(0.0, at_s), 3)}))


def _plays(voice: SoundChannel, plays: tuple[Play, ...]) -> Set:
    return Set(("score", "channels", voice.id, "plays"), tuple(sorted(plays, key=lambda play: play.at_s)))
