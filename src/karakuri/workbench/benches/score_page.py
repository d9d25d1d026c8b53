"""The cards of the Score bench: the score itself, a ribbon, a kept pose, a pinned one. A move's card is in move_page.py."""

from __future__ import annotations

from karakuri.errors import EditRefused
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import new_id
from karakuri.model.finding import Finding
from karakuri.model.score import Channel, Idle, Section
from karakuri.model.score_edits import (
    add_light,
    lay_out,
    missing_channels,
    remove_channel,
    stretch_all,
    untie,
    write_idle,
)
from karakuri.motion.idle import idle_moves
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.move_page import move_page, to_channel_unit
from karakuri.workbench.benches.pose_page import carry_out, pin_page, pose_page, seconds
from karakuri.workbench.benches.ribbon_values import target_quantity, target_words
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText


def score_page(desk: Desk) -> Page:
    """The card for what is in hand on the Score bench."""
    kind, ident = desk.subject
    if kind == "move":
        return move_page(desk, *desk.move_in_hand())
    channel = desk.channel_in_hand()
    if channel is not None:
        return channel_page(desk, channel)
    if kind == "pose":
        return pose_page(desk, desk.figure.pose(ident))
    if kind == "pin":
        return pin_page(desk, next(p for p in desk.figure.score.pins if p.id == ident))
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
        Do("lay", "Lay out the ribbons", lambda: carry_out(desk, lambda: lay_out(desk.figure)),
           "" if waiting else "Every driven joint has its ribbon."),
        Do("light", "Add a light", lambda: desk.edit(add_light(desk.figure, f"Light {1 + sum(c.kind == 'light' for c in score.channels)}"))),
    ]  # fmt: skip
    worst = _worst(desk, lambda f: f.bench == "score")
    if worst is not None:
        items += [Head("hw", "Worst of the score"), Block("w", worst, desk.figure.assumptions.wished_margin),
                  Note("nw", worst.sentence.show(desk.units))]  # fmt: skip
    items += [
        Head("hs", "All of it"),
        Do("slow", "Stretch everything 1.1 times", lambda: desk.edit(stretch_all(desk.figure, 1.1))),
        Do("fast", "Draw everything together to 0.9", lambda: desk.edit(stretch_all(desk.figure, 0.9))),
        Head("hi", "Idle life"),
        Write("seed", "Seed", Quantity(score.idle.seed, "count"), "count",
              lambda v: set_score(desk, "idle", Idle(seed=max(0, round(v)), waits_s=score.idle.waits_s), "seed of idle life")),
        *(_wait(desk, i, label) for i, label in enumerate(("Waits at least", "Waits at most"))),
        Do("idle", "Write blinks and glances", lambda: carry_out(desk, lambda: write_idle(desk.figure, idle_moves(desk.figure)))),
        Note("ni", "Glances and blinks at random waits, as ordinary moves. The same seed gives the same life; pressing again "
                   "replaces what idle wrote before. 2 to 10 s between them: common practice, no source."),
    ]  # fmt: skip
    items += _sections(desk)
    items += [Head("hc", "Caution"), Note("c", CAUTION, True)]
    return Page("Score", f"{len(score.channels)} ribbons, {sum(len(c.moves) for c in score.channels)} moves", tuple(items), ("score", ""))  # fmt: skip


def _wait(desk: Desk, which: int, label: str) -> Write:
    def done(value: float) -> None:
        idle = desk.figure.score.idle
        waits = list(idle.waits_s)
        waits[which] = round(value, 2)
        carry_out(
            desk, lambda: Edit("waits of idle life", (Set(("score", "idle"), _idle(idle.seed, waits)),), "idle waits")
        )

    return Write(f"wait{which}", label, seconds(desk.figure.score.idle.waits_s[which]), "time", done)


def _idle(seed: int, waits: list[float]) -> Idle:
    try:
        return Idle(seed=seed, waits_s=(waits[0], waits[1]))
    except ValueError as trouble:
        raise EditRefused(
            f"Waits run from at least 0.2 s upwards, not from {waits[0]:g} to {waits[1]:g} s."
        ) from trouble


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
        items.append(Do(f"sr{s.id}", f"Take out {s.name}", lambda s=s: _set_sections(desk, [x for x in desk.figure.score.sections if x.id != s.id], f"take out {s.name}")))  # fmt: skip
    items.append(Do("sadd", "Section from the plumb line on", lambda: _add_section(desk)))
    return items


def _set_sections(desk: Desk, sections: list[Section], words: str) -> None:
    desk.edit(Edit(words, (Set(("score", "sections"), tuple(sections)),)))


def _section(desk: Desk, section: Section, **fields: object) -> None:
    try:
        made = Section(**(dict(section) | fields))
    except ValueError:
        desk.said.emit(f"{section.name} runs forwards: its end lies after its beginning. It is as it was.")
        return
    sections = [made if s.id == section.id else s for s in desk.figure.score.sections]
    _set_sections(desk, sections, f"change {section.name}")


def _add_section(desk: Desk) -> None:
    score, now = desk.figure.score, desk.transport.now
    begin = min(now, score.length_s - 0.2)
    name = f"part {len(score.sections) + 1}"
    made = Section(
        id=new_id(desk.figure, name),
        name=name,
        from_s=round(max(0.0, begin), 3),
        to_s=round(min(score.length_s, begin + 4), 3),
    )
    _set_sections(desk, [*score.sections, made], f"add {name}")


def channel_page(desk: Desk, channel: Channel) -> Page:
    """A ribbon: where it parks, its moves, what is worst along it."""
    figure = desk.figure
    ids = {f"{rule}.{channel.id}" for rule in ("toofast", "effort", "band")}
    worst = _worst(desk, lambda f: (f.move is not None and f.move[0] == channel.id) or f.id in ids)
    items: list[Item] = []
    if channel.kind == "joint":
        items += [Block("v", worst, figure.assumptions.wished_margin)]
        if worst is not None:
            items.append(Note("nv", worst.sentence.show(desk.units)))
    near = sorted(range(len(channel.moves)), key=lambda k: abs(channel.moves.departs_s[k] - desk.transport.now))[:40]
    moves = [(str(k), _move_words(desk, channel, k)) for k in sorted(near)]
    items += [
        WriteText("name", "Name", channel.name, lambda text: _set_channel(desk, channel, "name", text.strip(), "name")),
        Pick("move", f"{len(moves)} moves", "take one in hand", tuple(moves), lambda k: desk.select("move", f"{channel.id}:{k}")),
        Write("park", "Parks at", target_quantity(desk, channel, channel.park), _kind(desk, channel),
              lambda v: _set_channel(desk, channel, "park", round(to_channel_unit(desk, channel, v), 2), "park")),
        Fact("now", "At the plumb line", target_words(desk, channel, desk.stands(channel, desk.transport.now))),
    ]  # fmt: skip
    if len(channel.joints) > 1:
        names = " and ".join(figure.joint(j).name for j in channel.joints)
        items += [Note("tied", f"{names} move as one."), Do("untie", "Untie them", lambda: carry_out(desk, lambda: untie(desk.figure, desk.figure.score.channel(channel.id))))]  # fmt: skip
    for joint in channel.joints:
        heat = desk.finding(f"heat.{joint}")
        if heat is not None:
            items += [Head(f"hh{joint}", f"Heat of {figure.joint(joint).name}"), Note(f"nh{joint}", heat.sentence.show(desk.units))]  # fmt: skip
            items += [Calc(f"ch{joint}{i}", d) for i, d in enumerate(heat.derivations)]
    items += [
        Head("hd", "Deeds"),
        Do("rm", "Take this ribbon out", lambda: desk.edit(remove_channel(channel))),
        Note("keys", "B sets a bead at the plumb line. Page Up and Page Down go from bead to bead; plus and minus look closer and wider."),
    ]  # fmt: skip
    kind = (
        "a light" if channel.kind == "light" else "ribbon of " + ", ".join(figure.joint(j).name for j in channel.joints)
    )
    return Page(channel.name, kind, tuple(items), ("channel", channel.id))


def _move_words(desk: Desk, channel: Channel, k: int) -> str:
    row = channel.moves.row(k)
    return f"{row.departs + row.takes:.2f} s, to {target_words(desk, channel, row.target)}"


def _kind(desk: Desk, channel: Channel) -> str:
    return target_quantity(desk, channel, 0.0).kind


def _set_channel(desk: Desk, channel: Channel, field: str, value: object, words: str) -> None:
    desk.edit(Edit(f"{words} of {channel.name}", (Set(("score", "channels", channel.id, field), value),), f"{channel.id} {field}"))  # fmt: skip


def _worst(desk: Desk, fits) -> Finding | None:
    study = desk.study
    return next((f for f in study.findings if fits(f)), None) if study is not None else None
