"""Lists of lines on the card of a voice: what is in them, in which order they are said, and saying them in the score."""

from __future__ import annotations

from karakuri.model.lines import Lines
from karakuri.model.sound_edits import change_lines, forget_lines, list_lines, say_lines
from karakuri.motion.voice.lines import said_when
from karakuri.units import Quantity
from karakuri.workbench.benches.pose_page import seconds
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Head, Item, Note, Pick, Write, WriteText

WAYS = (("in order", "in order"), ("at random", "at random"))


def lines_items(desk: Desk) -> list[Item]:
    """Every list, and a new one."""
    items: list[Item] = []
    for lines in desk.figure.lines:
        items += _one(desk, lines)
    return [
        *items,
        Head("hln", "Lists of lines"),
        Do("list", "A list of all that is in none", lambda: desk.edit(lambda: list_lines(desk.figure)[0])),
        Note(
            "nln",
            "Said one after another when there is nothing particular to say; in order means from a random one on, and round again. One every 9 s or so: common practice, no source.",
        ),
    ]


def _one(desk: Desk, lines: Lines) -> list[Item]:
    figure, key = desk.figure, lines.id

    def change(words: str, **fields: object) -> None:
        desk.edit(lambda: change_lines(desk.figure, lines.id, words, **fields))

    def named(ids: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
        return tuple((ident, figure.sound(ident).name) for ident in ids)

    outside = tuple(sound.id for sound in figure.sounds if sound.id not in (*lines.lines, *lines.openings))
    items: list[Item] = [
        Head(f"h{key}", lines.name),
        WriteText(f"name{key}", "List", lines.name, lambda text: change("name", name=text.strip())),
        Pick(f"way{key}", "Said", dict(WAYS)[lines.order], WAYS, lambda way: change("order", order=way)),
        Write(
            f"every{key}", "One every", seconds(lines.every_s), "time", lambda v: change("pace", every_s=round(v, 2))
        ),
    ]
    if lines.order == "at random":
        items.append(Write(f"again{key}", "None of the last", Quantity(lines.again_after, "count"), "count", lambda v: change("how soon again", again_after=round(v))))  # fmt: skip
    items.append(Note(f"all{key}", _told(desk, lines)))
    if outside:
        items.append(Pick(f"add{key}", "Add a line", "choose", named(outside), lambda ident: change("line", lines=(*lines.lines, ident))))  # fmt: skip
    if lines.lines:
        items.append(Pick(f"open{key}", "Said first, once", "choose", named(lines.lines), lambda ident: change("opening", lines=_without(lines.lines, ident), openings=(*lines.openings, ident))))  # fmt: skip
    every = (*lines.openings, *lines.lines)
    if every:
        items.append(Pick(f"out{key}", "Take a line out", "choose", named(every), lambda ident: change("line out", lines=_without(lines.lines, ident), openings=_without(lines.openings, ident))))  # fmt: skip
    return [
        *items,
        Do(f"say{key}", "Say them from the plumb line on", lambda: _say(desk, lines)),
        Do(f"rm{key}", "Take this list out", lambda: desk.edit(lambda: forget_lines(desk.figure, lines.id))),
    ]


def _say(desk: Desk, lines: Lines) -> None:
    """To the end of the score, by the seed of its life."""
    score, begins = desk.figure.score, round(desk.transport.now, 2)
    when = said_when(desk.figure, lines, score.life.seed, begins, score.length_s)
    desk.voices.edit(lambda: say_lines(desk.figure, lines, when, begins))


def _told(desk: Desk, lines: Lines) -> str:
    names = ", ".join(f"“{desk.figure.sound(ident).name}”" for ident in lines.lines) or "nothing"
    first = ", ".join(f"“{desk.figure.sound(ident).name}”" for ident in lines.openings)
    return f"First, once: {first}. Then {names}." if first else f"{names}."


def _without(ids: tuple[str, ...], ident: str) -> tuple[str, ...]:
    return tuple(other for other in ids if other != ident)
