"""The card of room: how much must stay, what comes too near, which parts belong in one another."""

from __future__ import annotations

from karakuri.bodies.blocks import WEARER, block_name, blocks
from karakuri.checks.contract import ROOM
from karakuri.model.ref import Ref
from karakuri.model.room_edits import ask_room, belong, compare, no_room, set_gap
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.benches.room_view import pair_in_hand, room_in_hand, room_told
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Write

MOST = 12
HOW = (
    "Parts are taken as boxes, eggs, tubes and the outermost corners of meshes; dents are filled. In a mesh with a wall counts what is surely free inside. Over all wanted ranges and what joints run past them (the overshoot, an estimate), past no measured stop by "
    "more than it may be off; leave more for play, cables, plugs and what is not drawn. Parts on the same joint are compared only where one lies in the other."
)
CAUTION = (
    "Fingers, hair and scarves get caught where gaps open and close: less than 4 mm or more than 25 mm is kinder to fingers than what lies between "
    "(common practice), and a guard is kinder still."
)


def room_page(desk: Desk, ident: str) -> Page:
    """Everything of room, and of the pair in hand."""
    room, finding = desk.figure.room, room_in_hand(desk)
    items: list[Item] = []
    if room is None:
        return Page(
            "Room", "nobody asked yet", (*room_items(desk), Note("how", HOW), Note("c", CAUTION, True)), ("room", "")
        )
    if finding is not None:
        items += [
            Block("v", finding, desk.figure.assumptions.wished_margin),
            Note("nv", finding.sentence.show(desk.units)),
        ]
    gap = Write(
        "gap",
        "Must stay",
        mm(room.gap_mm),
        "length",
        lambda v: desk.edit(lambda: set_gap(desk.figure, round(v * 1e3, 4))),
    )
    items.append(gap)
    pair = pair_in_hand(desk)
    if pair is not None:
        found, near = pair
        every = blocks(desk.figure)
        a, b = (every[found.rows[k]] for k in (near.a, near.b))
        pose = dict(zip(desk.study.results.tree.ids, map(float, near.pose), strict=True))
        items += [
            *([Do("pose", "Take this pose", lambda: desk.set_whole_pose(pose))] if near.moving else []),
            Do("a", f"Go to {a.name}", lambda: _go(desk, a.id)),
            Do("b", f"Go to {b.name}", lambda: _go(desk, b.id)),
            Do("belong", "They belong in one another", lambda: desk.edit(lambda: belong(desk.figure, [(a.id, b.id)]))),
        ]
    if finding is not None:
        items += [Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)]
    items += _within(desk)
    if room.together:
        items.append(Head("ht", "Not compared"))
        for pair_ in room.together[:MOST]:
            names = [
                block_name(desk.figure, each)
                for each in (pair_.one, pair_.other)
                if any(b.id == each for b in blocks(desk.figure))
            ]
            if len(names) < 2:
                continue
            again = lambda p=pair_: desk.edit(lambda: compare(desk.figure, p.one, p.other))  # noqa: E731
            items.append(Do(f"t {pair_.one} {pair_.other}", f"Compare {names[0]} and {names[1]}", again))
        if len(room.together) > MOST:
            items.append(Note("more", f"and {len(room.together) - MOST} more"))
    items += [Note("how", HOW), Head("ha", "Actions"), Do("no", "Look for room no more", lambda: _no(desk))]
    return Page(
        "Room",
        "do all parts go past each other?",
        (*items, Head("hc", "Caution"), Note("c", CAUTION, True)),
        ("room", ident),
    )


def _within(desk: Desk) -> list[Item]:
    """The pairs that are in one another as they are drawn, each with its answer."""
    study = desk.study
    found = study.results[ROOM] if study is not None and study.results.figure is desk.figure else None
    if found is None or not found.within:
        return []
    every = blocks(desk.figure)
    items: list[Item] = [Head("hw", "In one another as drawn")]
    for one, other in found.within[:MOST]:
        a, b = (every[found.rows[k]] for k in (one, other))
        yes = lambda a=a, b=b: desk.edit(lambda: belong(desk.figure, [(a.id, b.id)]))  # noqa: E731
        items.append(Do(f"w {a.id} {b.id}", f"{a.name} and {b.name} do", yes))
    if len(found.within) > MOST:
        items.append(Note("wmore", f"and {len(found.within) - MOST} more"))
    return items


def _go(desk: Desk, ident: str) -> None:
    drive = next((each for each in desk.figure.drives if each.id == ident), None)
    if ident == WEARER:
        desk.select(Ref("wearer"))
        desk.turn_to("balance")
    elif drive is not None:
        desk.select(Ref("joint", drive.joint))
        desk.turn_to("drive")
    else:
        desk.select(Ref("part", ident))
        desk.turn_to("figure")


def _no(desk: Desk) -> None:
    desk.edit(lambda: no_room(desk.figure))
    desk.select(Ref())


def room_items(desk: Desk) -> list[Item]:
    """Asking for it, or going to it."""
    if desk.figure.room is None:
        return [Head("hroom", "Room"), Do("room", "Do all parts go past each other?", lambda: ask(desk))]
    told = [f for f in room_told(desk) if f.verdict != "holds"]
    return [
        Head("hroom", "Room"),
        Do("room", f"Room: {len(told)} to look at" if told else "Room", lambda: desk.select(Ref("room"))),
    ]


def ask(desk: Desk) -> None:
    """Look for room from now on, and show it."""
    if desk.figure.room is not None or desk.edit(lambda: ask_room(desk.figure)):
        desk.select(Ref("room"))
