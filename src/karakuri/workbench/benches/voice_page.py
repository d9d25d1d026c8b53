"""The card of a voice: its sounds, how its jaw goes with it, and how long what is heard may be loud."""

from __future__ import annotations

from karakuri.model.channel import Play, SoundChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.makers import Voice
from karakuri.model.ref import Ref
from karakuri.model.score_edits import remove_channel
from karakuri.model.sound_edits import add_jaw, move_play, remove_play
from karakuri.motion.makers.voice import ahead_of, shut_and_wide
from karakuri.units import Quantity
from karakuri.workbench.benches.lines_items import lines_items
from karakuri.workbench.benches.pose_page import seconds
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText
from karakuri.workbench.wishes import SOUND

LOUD = "Loud sounds harm hearing: at 85 dB(A) 8 hours, at 94 one (NIOSH, from memory), measured at the ear; inside a mask the speaker is next to it. Local rules and licensed practice come first."
TIMES = (
    ("attack_s", "Opens within", "attack"),
    ("release_s", "Closes within", "release"),
)


def voice_page(desk: Desk, voice: SoundChannel, play: Play | None = None) -> Page:
    """A voice in hand, or one of its sounds."""
    desk.voices.prepare()
    items: list[Item] = [*_verdict(desk, voice)]
    if play is not None:
        items += _play(desk, voice, play)
    items += [
        WriteText("name", "Name", voice.name, lambda text: _rename(desk, voice, text.strip())),
        Do("put", "Put a sound at the plumb line", lambda: desk.wanted.emit(SOUND)),
        *([Note("way", f"{desk.voices.under_way[0]}, {desk.voices.under_way[1]:.0%}"), Do("stop", "Stop listening", desk.voices.stop)] if desk.voices.under_way else ()),
    ]  # fmt: skip
    if voice.plays:
        near = sorted(range(len(voice.plays)), key=lambda k: abs(voice.plays[k].at_s - desk.transport.now))[:40]
        each = tuple((str(k), f"{voice.plays[k].at_s:.2f} s, {desk.figure.sound(voice.plays[k].sound).name}") for k in sorted(near))  # fmt: skip
        items.append(Pick("which", f"{len(voice.plays)} {'sounds' if len(voice.plays) > 1 else 'sound'}", "take one in hand", each, lambda k: desk.select(Ref("play", voice.id, int(k)))))  # fmt: skip
    for maker in desk.figure.score.makers:
        if isinstance(maker, Voice) and maker.voice == voice.id:
            items += _jaw(desk, maker)
    items += [*_another_jaw(desk, voice), *lines_items(desk)]
    items += [
        Head("hd", "Actions"),
        Do("again", "Listen to its files again", desk.voices.again),
        Do("rm", "Take this voice out", lambda: desk.edit(lambda: remove_channel(desk.figure, voice))),
        Head("hc", "Caution"),
        Note("c", LOUD, True),
    ]
    name = desk.figure.sound(play.sound).name if play is not None else voice.name
    subject = ("play", f"{voice.id} {play.id}") if play is not None else ("channel", voice.id)
    return Page(name, voice.told(desk.figure) if play is None else f"a sound of {voice.name}", tuple(items), subject)


def _verdict(desk: Desk, voice: SoundChannel) -> list[Item]:
    study = desk.study
    found = [f for f in study.findings if f.rule == "voice" and _about(desk, f.subject, voice)] if study is not None else []  # fmt: skip
    items: list[Item] = []
    if found:
        items += [Block("v", found[0], desk.figure.assumptions.wished_margin)]
        items += [Note(f"nv{k}", finding.sentence.show(desk.units)) for k, finding in enumerate(found[:3])]
    if desk.sounding.silent:
        items.append(Note("silent", desk.sounding.silent))
    return items


def _about(desk: Desk, ref: Ref, voice: SoundChannel) -> bool:
    return ref.id == voice.id or (ref.kind == "sound" and any(play.sound == ref.id for play in voice.plays))


def _play(desk: Desk, voice: SoundChannel, play: Play) -> list[Item]:
    sound = desk.figure.sound(play.sound)
    return [
        WriteText("called", "Called", sound.name, lambda text: desk.edit(Edit(f"name of {sound.name}", (Set(("sounds", sound.id, "name"), text.strip()),)))),
        Write("at", "Begins at", seconds(play.at_s), "time", lambda v: desk.voices.edit(lambda: move_play(voice, play.id, v))),
        Fact("long", "Is heard for", desk.show(seconds(sound.length_s))),
        Fact("file", "Its file", sound.file),
        Do("off", "Take it off the voice", lambda: desk.voices.edit(lambda: remove_play(desk.figure, voice, play.id))),
    ]  # fmt: skip


def _jaw(desk: Desk, maker: Voice) -> list[Item]:
    """How a jaw goes with the voice: each number written writes its moves anew."""
    jaw = desk.figure.score.moving(maker.jaw)
    shut, wide = shut_and_wide(desk.figure, maker, jaw)
    measure = jaw.measure(desk.figure)

    def change(field: str, words: str, value: object) -> None:
        desk.voices.edit(lambda: Edit(f"{words} of {jaw.name}", (Set(("score", "makers", maker.id, field), value),), f"{maker.id} {field}"))  # fmt: skip

    def place(key: str, label: str, field: str, value: float) -> Write:
        return Write(f"{key}{maker.id}", label, measure.quantity(value), measure.kind, lambda v: change(field, label.lower(), measure.written(v, 2)))  # fmt: skip

    def tone(key: str, label: str, field: str, value: float) -> Write:
        return Write(f"{key}{maker.id}", label, Quantity(value, "level"), "level", lambda v: change(field, label.lower(), round(v, 1)))  # fmt: skip

    mine = sum(by == maker.id for by in jaw.moves.made_by)
    return [
        Head(f"h{maker.id}", f"{jaw.name} goes with it"),
        Fact(f"n{maker.id}", "Moves after the voice", f"{mine} of {len(jaw.moves)}"),
        place("w", "Wide open at", "opens_to", wide),
        place("s", "Shut at", "shut_at", shut),
        Write(f"a{maker.id}", "Sets off ahead by", Quantity(ahead_of(desk.figure, maker), "lag"), "lag", lambda v: change("ahead_s", "ahead", round(v, 4))),
        *(Write(f"{field}{maker.id}", label, Quantity(getattr(maker, field), "lag"), "lag", lambda v, f=field, w=words: change(f, w, round(v, 4))) for field, label, words in TIMES),
        tone("t", "Shut below the loudest by", "threshold_dB", maker.threshold_dB),
        tone("d", "Wide from below it by", "wide_dB", maker.wide_dB),
        Write(f"c{maker.id}", "Follows up to", Quantity(maker.content_Hz, "hertz"), "hertz", lambda v: change("content_Hz", "how quick", round(v, 2))),
        Note(f"k{maker.id}", "Ordinary moves: one changed by hand is yours, and stays when the others are written anew. None goes farther than its servo can follow in "
                             "the time there is; what was flattened is told above. 5 to 20 ms, 80 to 200 ms, 3 to 4 Hz: common practice, no source."),
        Do(f"anew{maker.id}", "Write its moves anew", lambda: desk.voices.edit(lambda: Edit(f"{jaw.name} after the voice", ()))),
    ]  # fmt: skip


def _another_jaw(desk: Desk, voice: SoundChannel) -> list[Item]:
    """Which other ribbon may go with it."""
    spoken = {maker.jaw for maker in desk.figure.score.makers if isinstance(maker, Voice)}
    free = tuple((c.id, c.name) for c in desk.figure.score.moved if c.joints and c.id not in spoken)
    if not free:
        return []
    return [Pick("jaw", "Another jaw", "choose a ribbon", free, lambda key: desk.voices.edit(lambda: add_jaw(desk.figure, voice, key)))]  # fmt: skip


def _rename(desk: Desk, voice: SoundChannel, name: str) -> None:
    desk.edit(Edit(f"name of {voice.name}", (Set(("score", "channels", voice.id, "name"), name),), f"{voice.id} name"))
