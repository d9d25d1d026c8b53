"""The cards of the Score bench: the score itself, a ribbon, a kept pose, a pinned one. A move's card is in move_page.py."""

from __future__ import annotations

from karakuri.model.channel import MovedChannel, RunChannel
from karakuri.model.edit import Edit, Remove, Set
from karakuri.model.finding import Finding, finding_id
from karakuri.model.ref import FIGURE, Ref, item_of
from karakuri.model.score import Section
from karakuri.model.score_edits import (
    add_light,
    add_motor,
    add_section,
    change_section,
    keep_score,
    lay_out,
    missing_channels,
    play_score,
    remove_channel,
    remove_score,
    set_channel,
    stretch_all,
    untie,
)
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.life_items import life_items, look_items
from karakuri.workbench.benches.move_page import move_page, to_channel_unit
from karakuri.workbench.benches.pose_page import pin_page, pose_page, seconds
from karakuri.workbench.benches.ribbon_values import target_quantity, target_words
from karakuri.workbench.benches.voice_page import voice_page
from karakuri.workbench.desk import Desk
from karakuri.workbench.routes import bench_of
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText
from karakuri.workbench.wishes import SOUND


def score_page(desk: Desk) -> Page:
    """The card for what is in hand on the Score bench."""
    ref = desk.subject
    move = desk.move_in_hand()
    if move is not None:
        return move_page(desk, *move)
    channel = desk.channel_in_hand()
    if channel is not None:
        return channel_page(desk, channel)
    voice = desk.voice_in_hand()
    if voice is not None:
        return voice_page(desk, voice, voice.plays[ref.number] if ref.kind == "play" else None)
    if ref.kind == "pose":
        return pose_page(desk, item_of(desk.figure, ref))
    if ref.kind == "pin":
        return pin_page(desk, item_of(desk.figure, ref))
    return whole_page(desk)


def set_score(desk: Desk, field: str, value: object, words: str) -> None:
    desk.edit(Edit(words, (Set(("score", field), value),), f"score {field}"))


def whole_page(desk: Desk) -> Page:
    score = desk.figure.score
    waiting = missing_channels(desk.figure)
    items: list[Item] = [
        WriteText("name", "Name", score.name, lambda text: set_score(desk, "name", text.strip(), "name of the score")),
        Write("len", "Length", seconds(score.length_s), "time", lambda v: set_score(desk, "length_s", round(v, 3), "length of the score")),
        Pick("loop", "At the end", "begins again" if score.loops else "stops", (("loop", "begins again"), ("stop", "stops")),
             lambda key: set_score(desk, "loops", key == "loop", "what comes at the end")),
        Do("lay", "Lay out the ribbons", lambda: desk.edit(lambda: lay_out(desk.figure)),
           "" if waiting else "Every driven joint has its ribbon."),
        Do("light", "Add a light", lambda: desk.edit(lambda: add_light(desk.figure, f"Light {1 + sum(c.kind == 'light' for c in score.moved)}"))),
        Do("run", "Add a motor that runs", lambda: desk.edit(lambda: add_motor(desk.figure, f"Motor {1 + sum(c.runs for c in score.moved)}"))),
    ]  # fmt: skip
    items.append(Do("sound", "Put a sound on the voice", lambda: desk.wanted.emit(SOUND)))
    worst = _worst(desk, lambda f: bench_of(f) == "score")
    if worst is not None:
        items += [Head("hw", "Worst of the score"), Block("w", worst, desk.figure.assumptions.wished_margin),
                  Note("nw", worst.sentence.show(desk.units))]  # fmt: skip
    items += [
        Head("hs", "All of it"),
        Do("slow", "Stretch everything 1.1 times", lambda: desk.edit(lambda: stretch_all(desk.figure, 1.1))),
        Do("fast", "Shorten everything to 0.9 of its time", lambda: desk.edit(lambda: stretch_all(desk.figure, 0.9))),
    ]  # fmt: skip
    items += [*life_items(desk), *look_items(desk)]
    items += _sections(desk)
    items += _scores(desk)
    items += [Head("hc", "Caution"), Note("c", CAUTION, True)]
    return Page("Score", f"{len(score.channels)} ribbons, {sum(len(c.moves) for c in score.moved)} moves", tuple(items), ("score", ""))  # fmt: skip


def _sections(desk: Desk) -> list[Item]:
    score, items = desk.figure.score, [Head("hse", "Sections")]
    options = (("", "all of it"), *((s.id, s.name) for s in score.sections))
    # an empty key is a heading in a list, so the whole has a key of its own
    named = tuple(("all" if key == "" else key, words) for key, words in options)
    chosen = dict(named).get(desk.transport.section or "all", "all of it")

    def choose(key: str) -> None:
        desk.transport.section = "" if key == "all" else key
        desk.transport.ran.emit()

    if score.sections:
        items.append(Pick("run", "Runs", chosen, named, choose))
    for s in score.sections:
        items.append(WriteText(f"sn{s.id}", "Called", s.name, lambda text, s=s: _section(desk, s, name=text.strip())))
        items.append(Write(f"sa{s.id}", "From", seconds(s.from_s), "time", lambda v, s=s: _section(desk, s, from_s=round(v, 3))))  # fmt: skip
        items.append(Write(f"sb{s.id}", "To", seconds(s.to_s), "time", lambda v, s=s: _section(desk, s, to_s=round(v, 3))))  # fmt: skip
        items.append(Do(f"sr{s.id}", f"Take out {s.name}", lambda s=s: desk.edit(Edit(f"take out {s.name}", (Remove("score.sections", s.id),)))))  # fmt: skip
    items.append(
        Do(
            "sadd",
            "Section from the plumb line on",
            lambda: desk.edit(lambda: add_section(desk.figure, desk.transport.now)),
        )
    )
    return items


def _scores(desk: Desk) -> list[Item]:
    """Which score is in hand, and others."""
    figure = desk.figure
    items: list[Item] = [Head("hsc", "Scores")]
    if len(figure.scores) > 1:
        each = tuple((score.id, score.name) for score in figure.scores)
        items.append(Pick("hand", "In hand", figure.score.name, each, lambda key: _take(desk, key)))
    items.append(Do("more", "Another score, with the same ribbons", lambda: _another(desk)))
    if len(figure.scores) > 1:
        items.append(Do("less", f"Take {figure.score.name} out", lambda: desk.edit(lambda: remove_score(desk.figure))))
        items.append(
            Note(
                "nsc", "The one in hand is shown, played and exported; the others are judged too, each in one sentence."
            )
        )
    return items


def _take(desk: Desk, score_id: str) -> None:
    desk.transport.stop()
    desk.edit(lambda: play_score(desk.figure, score_id))
    desk.select(FIGURE)


def _another(desk: Desk) -> None:
    desk.transport.stop()
    desk.edit(lambda: keep_score(desk.figure, f"Score {len(desk.figure.scores) + 1}")[0])
    desk.select(FIGURE)


def _section(desk: Desk, section: Section, **fields: object) -> None:
    desk.edit(lambda: change_section(desk.figure, section.id, **fields))


def channel_page(desk: Desk, channel: MovedChannel) -> Page:
    """A ribbon: where it parks, its moves, what is worst along it."""
    figure = desk.figure
    ids = {finding_id(rule, channel.id) for rule in ("toofast", "effort", "softlimits")}
    worst = _worst(desk, lambda f: (f.move is not None and f.move.id == channel.id) or f.id in ids)
    items: list[Item] = []
    if channel.leads is not None:
        items += [Block("v", worst, figure.assumptions.wished_margin)]
        if worst is not None:
            items.append(Note("nv", worst.sentence.show(desk.units)))
    near = sorted(range(len(channel.moves)), key=lambda k: abs(channel.moves.departs_s[k] - desk.transport.now))[:40]
    moves = [(str(k), _move_words(desk, channel, k)) for k in sorted(near)]
    items += [
        WriteText("name", "Name", channel.name, lambda text: _set_channel(desk, channel, "name", text.strip(), "name")),
        Pick("move", f"{len(moves)} moves", "take one in hand", tuple(moves), lambda k: desk.select(Ref("move", channel.id, int(k)))) if moves else Note("move", "No moves yet."),
        *(_pulses(desk, channel) if channel.kind == "run" else [Write(
            "park", "Parks at", target_quantity(desk, channel, channel.park), _kind(desk, channel),
            lambda v: _set_channel(desk, channel, "park", round(to_channel_unit(desk, channel, v), 2), "park"))]),
        Fact("now", "At the plumb line", target_words(desk, channel, desk.stands(channel, desk.transport.now))),
    ]  # fmt: skip
    if len(channel.joints) > 1:
        names = " and ".join(figure.joint(j).name for j in channel.joints)
        items += [Note("tied", f"{names} move as one."), Do("untie", "Untie them", lambda: desk.edit(lambda: untie(desk.figure, desk.figure.score.moving(channel.id))))]  # fmt: skip
    for joint in channel.joints:
        heat = desk.finding("heat", joint)
        if heat is not None:
            items += [Head(f"hh{joint}", f"Heat of {figure.joint(joint).name}"), Note(f"nh{joint}", heat.sentence.show(desk.units))]  # fmt: skip
            items += [Calc(f"ch{joint}{i}", d) for i, d in enumerate(heat.derivations)]
    items += [
        Head("hd", "Actions"),
        Do("rm", "Take this ribbon out", lambda: desk.edit(lambda: remove_channel(desk.figure, channel))),
        Note("keys", "B sets a bead at the plumb line. Page Up and Page Down go from bead to bead; plus and minus look closer and wider."),
    ]  # fmt: skip
    return Page(channel.name, channel.told(figure), tuple(items), ("channel", channel.id))


RUNS = (
    "Wheels off the ground until you trust it, and a switch for its supply within reach. Stop and Esc make it stand still, and so does a board that hears "
    "nothing any more, within three seconds: it parks. This advises and certifies nothing; local codes and licensed practice come first."
)


def _pulses(desk: Desk, channel: RunChannel) -> list[Item]:
    """Which pulses its controller takes for what."""
    words = {"back_us": "In full back at", "still_us": "Still at", "ahead_us": "In full ahead at"}
    return [
        *(Write(field, words[field], Quantity(getattr(channel, field) * 1e-6, "pulse"), "pulse", lambda v, field=field: _set_channel(desk, channel, field, round(v * 1e6, 1), words[field])) for field in words),
        Do("try", "Try its output by itself", lambda: _try(desk, channel)),
        Note("npu", "As its controller’s leaflet says, or as you see it tried. Where it creeps at rest, another pulse for still."),
        Note("nru", RUNS, True),
    ]  # fmt: skip


def _try(desk: Desk, channel: RunChannel) -> None:
    """Its output, on the Rehearse bench’s card."""
    number = next(o.number for o in desk.board.outputs() if o.runs and desk.figure.score.moved[o.channel].id == channel.id)  # fmt: skip
    desk.select(FIGURE)
    desk.rehearse("board")
    desk.turn_to("rehearse")
    desk.try_this(number)


def _move_words(desk: Desk, channel: MovedChannel, k: int) -> str:
    row = channel.moves.row(k)
    return f"{row.departs + row.takes:.2f} s, to {target_words(desk, channel, row.target)}"


def _kind(desk: Desk, channel: MovedChannel) -> str:
    return target_quantity(desk, channel, 0.0).kind


def _set_channel(desk: Desk, channel: MovedChannel, field: str, value: object, words: str) -> None:
    desk.edit(lambda: set_channel(desk.figure, channel.id, field, value, words))


def _worst(desk: Desk, fits) -> Finding | None:
    study = desk.study
    return next((f for f in study.findings if fits(f)), None) if study is not None else None
