"""The card of the Rehearse bench: the board, how its frames keep time, and what can be taken away."""

from __future__ import annotations

import time
from functools import lru_cache, partial

from karakuri.devices.client import RIGHTS
from karakuri.devices.link import ports
from karakuri.errors import Trouble
from karakuri.exchange.exporters import EXPORTERS
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.trying_items import try_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Page, Pick, WriteText
from karakuri.workbench.wishes import TAKE_OVER, doing

POWER_UP = (
    "Before power comes on: take the horns off or hold clear. Joints approach one at a time, at 20 °/s. "
    "Stop, or Esc, ends all motion where it is; it takes no power away: have a switch for that within reach."
)
LOOKS_EVERY_S = 5.0


@lru_cache(maxsize=1)
def _plugged(_turn: int) -> tuple[tuple[str, str], ...]:
    """Serial ports, looked for every few seconds while the card is shown, not with every report of the board."""
    return ports()


def rehearse_page(desk: Desk) -> Page:
    """The card."""
    board = desk.board
    items: list[Item] = [
        Head("hc", "Caution"),
        Note("c0", POWER_UP, True),
        Note("c1", CAUTION),
        Head("hb", "A board of one’s own"),
        WriteText("addr", "Address", board.address if not board.stand_in else "", lambda text: board.join(text) if text.strip() else None),
        Note("na", "tcp:HOST:PORT, or the path of its serial port. It wants the line protocol’s firmware, which comes with an exported player."),
    ]  # fmt: skip
    found = _plugged(int(time.monotonic() // LOOKS_EVERY_S))
    if found:
        items.insert(
            -1,
            Pick("ports", "Found here", "choose", tuple((path, f"{path}, {what}") for path, what in found), board.join),
        )
    if board.joined:
        news = board.news
        late, sent = news.get("late", 0), news.get("sent", 0)
        share = f"{100 * late / sent:.1f} %" if sent else "none sent yet"
        items += [
            Head("hf", "Frames"),
            Fact("sent", "Sent", f"{sent}", "", "50 a second, each timed from the start, so that they never drift"),
            Fact("late", "Late by more than 4 ms", f"{late}", "", share),
            Fact("worst", "Latest by", f"{news.get('worst_ms', 0):.1f}", "ms"),
            Fact("ans", "Answers", f"{news.get('answers', 0)}", "", f"{news.get('refused', 0)} refused, {news.get('nonsense', 0)} nonsense"),
        ]  # fmt: skip
        if not news.get("hurried", True):
            items.append(Note("rights", RIGHTS))
    items += [*try_items(desk), Head("hx", "To take away"), *export_items(desk)]
    return Page("Rehearse", board.words(), tuple(items), ("rehearse", ""))


def export_items(desk: Desk) -> list[Item]:
    """Every exporter with its options, its size told first; and frames back in."""
    nothing = "" if desk.figure.score.moved else "There is no score yet: lay out ribbons on the Score bench."
    items: list[Item] = []
    for exporter in EXPORTERS:
        chosen, why, sizes = desk.chosen(exporter), nothing if exporter.of_score else "", ""
        if not why:
            try:
                sizes = exporter.size(desk.figure, chosen)
            except Trouble as trouble:
                why = str(trouble).replace("\n", " ")
        for option in (each for each in exporter.options if each.open(desk.figure)):
            names = dict(option.choices)
            choose = partial(desk.choose, exporter, option.id)
            items.append(Pick(option.id, option.name, names[chosen[option.id]], option.choices, choose))
        if sizes:
            items.append(Note(f"size {exporter.id}", sizes))
        items.append(Do(exporter.id, f"Export {exporter.name}", partial(desk.wanted.emit, doing(exporter)), why))
    items.insert(
        1,
        Do(
            "in",
            "Take frames over from CSV",
            lambda: desk.wanted.emit(TAKE_OVER),
            nothing and "It needs ribbons to fill.",
        ),
    )
    return items
