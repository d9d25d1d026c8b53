"""What a figure does when nothing is asked of it, on the card of the score."""

from __future__ import annotations

from karakuri.model.score_edits import unwritten
from karakuri.motion.life import LIVES
from karakuri.motion.makers.life import live, lives_of, set_life
from karakuri.units import Quantity
from karakuri.workbench.benches.pose_page import seconds
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Head, Item, Note, Pick, Write

YES, NO = "yes", "no"


def life_items(desk: Desk) -> list[Item]:
    """What it may do, how often, and that it is written."""
    life, can = desk.figure.score.life, lives_of(desk.figure)
    items: list[Item] = [Head("hi", "Life when idle")]
    if not can:
        return [*items, Note("ni", "Nothing here lives by itself yet: it wants a ribbon of eyes, lids, ears, a head, a body or segments. What a joint moves as is said on its card (Figure).")]  # fmt: skip
    items += [
        Pick(f"does{word}", LIVES[word].called, YES if word in life.does else NO, ((YES, YES), (NO, NO)), lambda key, word=word: _choose(desk, word, key == YES))
        for word in can
    ]  # fmt: skip
    items += [
        Write("seed", "Seed", Quantity(life.seed, "count"), "count",
              lambda v: desk.edit(lambda: set_life(desk.figure, "seed of idle life", seed=round(v)))),
        *(_wait(desk, i, label) for i, label in enumerate(("Waits at least", "Waits at most"))),
    ]  # fmt: skip
    if "glances" in life.does and "glances" in can:
        joins = None if life.head_joins_deg is None else Quantity(life.head_joins_deg * 0.017453292519943295, "angle")
        items.append(Write("joins", "Head follows beyond", joins, "angle", lambda v: _set(desk, "where the head follows", head_joins_deg=round(v / 0.017453292519943295, 2)),
                           "never", emptied=lambda: _set(desk, "where the head follows", head_joins_deg=None)))  # fmt: skip
    if "breathes" in life.does and "breathes" in can:
        items.append(Write("breaths", "Breaths a minute", Quantity(life.breaths_per_min, "count"), "count", lambda v: _set(desk, "breaths", breaths_per_min=round(v, 1))))  # fmt: skip
    under_way = desk.abilities.under_way
    if under_way is not None:
        items += [
            Note("way", f"{under_way[0]}, {under_way[1]:.0%}".replace("%", "\u00a0%")),
            Do("stop", "Stop", desk.abilities.stop),
        ]
    else:
        items.append(Do("idle", "Write its life", lambda: write(desk)))
    if any(life.id == maker.id for maker in desk.figure.score.makers):
        items.append(
            Do(
                "lifeless",
                "Take its life out",
                lambda: desk.edit(lambda: unwritten(desk.figure, life.id, "take life out")),
            )
        )
    items.append(
        Note("ni", "Ordinary moves at random, between those that are there, inside every range and no quicker than the servos are. The same seed gives the same life; "
                   "written again it replaces what it wrote. 2 to 10 s between glances: common practice, no source.")
    )  # fmt: skip
    return items


def look_items(desk: Desk) -> list[Item]:
    """A point to look at, eyes and head sharing the turn."""
    ways = (("Ahead", 0), ("To its left", 1), ("Above the datum", 2))
    return [
        Head("hlk", "Look at a point"),
        *(_way(desk, label, k) for label, k in ways),
        Do("look", "Look there", lambda: desk.seeker.seek_look(desk.looking_at)),
        Note("nlk", "The eyes turn first, the head where it is far. Keep the pose with K, and set it to a time."),
    ]


def _way(desk: Desk, label: str, k: int) -> Write:
    def done(value: float) -> None:
        point = list(desk.looking_at)
        point[k] = round(value * 1e3, 1)
        desk.look_from((point[0], point[1], point[2]))

    return Write(f"look{k}", label, Quantity(desk.looking_at[k] / 1e3, "length"), "length", done)


def write(desk: Desk) -> None:
    """Write its life, once it is known what each ribbon keeps up with."""
    ribbons = [channel.id for channel in desk.figure.score.moved if channel.joints]
    desk.abilities.ask(ribbons, lambda: desk.edit(lambda: live(desk.figure, can=desk.abilities.known(desk.figure))))


def _choose(desk: Desk, word: str, does: bool) -> None:
    now = desk.figure.score.life.does
    _set(desk, "what it does when idle", does=tuple(each for each in LIVES if (does if each == word else each in now)))


def _set(desk: Desk, words: str, **fields: object) -> None:
    desk.edit(lambda: set_life(desk.figure, words, **fields))


def _wait(desk: Desk, which: int, label: str) -> Write:
    def done(value: float) -> None:
        waits = list(desk.figure.score.life.waits_s)
        waits[which] = round(value, 2)
        _set(desk, "waits of idle life", waits_s=tuple(waits))

    return Write(f"wait{which}", label, seconds(desk.figure.score.life.waits_s[which]), "time", done)
