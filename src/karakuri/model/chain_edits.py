"""Edits of chains of sizes: one of each kind as builders meet them, with what is usual, and their links."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.chain import Chain, ChainKind, Link
from karakuri.model.edit import Add, Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id

KINDS: dict[ChainKind, str] = {
    "ring": "a ring and the wedge in its seam",
    "seat": "a seat out of layers",
    "grip": "a screw that takes hold",
    "through": "a screw that must not come through",
    "turns": "a hole that a pin turns in",
    "holds": "a hole that holds a pin",
    "flare": "printed parts with a flare",
    "rim": "a rim gap over a full turn",
    "pusher": "a pusher that touches at rest",
    "row": "a row of equal pieces",
    "gap": "any chain of sizes",
}
_Made = tuple[tuple[Link, ...], float, float | None]


def _l(name: str, mm: float, off: float, adds: bool = True, may: bool = False, **more: Any) -> Link:
    return Link(name=name, mm=mm, plus_minus_mm=off, adds=adds, may_change=may, **more)


USUAL: dict[ChainKind, Callable[[], _Made]] = {
    "ring": lambda: (
        (
            _l("ring as it is, across inside", 128.0, 0.3, times=math.pi),
            _l("wedge in its seam", 0.0, 0.5, may=True),
            _l("what it goes over, across", 130.0, 0.3, False, times=math.pi),
        ),
        0.0,
        6.0,
    ),
    "seat": lambda: (
        (_l("layers", 8.0, 0.3, count=3, may=True), _l("what sits in it, thick", 24.0, 0.2, False)),
        -0.5,
        0.5,
    ),
    "grip": lambda: (
        (
            _l("screw, under its head", 16.0, 0.3, may=True),
            _l("first part, thick", 4.0, 0.2, False),
            _l("washer", 0.8, 0.1, False),
        ),
        6.0,
        None,
    ),
    "through": lambda: (
        (
            _l("first part, thick", 4.0, 0.2),
            _l("second part, thick", 12.0, 0.2),
            _l("screw, under its head", 14.0, 0.3, False, True),
        ),
        0.5,
        None,
    ),
    "turns": lambda: (
        (
            _l("hole as drawn", 2.5, 0.0, may=True),
            _l("printed holes come out smaller by", 0.25, 0.1, False),
            _l("pin", 2.0, 0.02, False),
        ),
        0.05,
        0.35,
    ),
    "holds": lambda: (
        (
            _l("hole as drawn", 2.2, 0.0, may=True),
            _l("printed holes come out smaller by", 0.25, 0.1, False),
            _l("pin", 2.0, 0.02, False),
        ),
        -0.15,
        0.05,
    ),
    "flare": lambda: (
        (
            _l("gap as drawn", 0.6, 0.0, may=True),
            _l("flare of each first layer", 0.2, 0.1, False, count=2),
            _l("wall off by", 0.0, 0.15, False, count=2),
        ),
        0.1,
        None,
    ),
    "rim": lambda: (
        (
            _l("standing rim, radius inside", 100.0, 0.3),
            _l("turning rim, radius outside", 98.0, 0.3, False, True),
            _l("runs out by", 0.3, 0.2, False),
            _l("play of its bearing", 0.1, 0.1, False),
        ),
        0.5,
        2.0,
    ),
    "pusher": lambda: (
        (_l("pivot to skin", 30.0, 0.5), _l("pivot to pusher’s tip", 30.0, 0.3, False, True)),
        -0.5,
        0.2,
    ),
    "row": lambda: (
        (
            _l("wished length", 300.0, 0.0),
            _l("pieces", 24.8, 0.1, False, True, count=12),
            _l("joints between", 0.2, 0.1, False, count=11),
        ),
        -1.0,
        1.0,
    ),
    "gap": lambda: ((_l("outer", 20.0, 0.3), _l("inner", 18.0, 0.3, False, True)), 0.5, None),
}


def add_chain(figure: Figure, kind: ChainKind) -> Edit:
    """One more chain, with sizes that are usual of its kind: all of them guesses until the builder writes them; mm."""
    links, least, most = USUAL[kind]()
    words = KINDS[kind].removeprefix("a ").removeprefix("any ")
    count = sum(chain.kind == kind for chain in figure.chains)
    name = (words[:1].upper() + words[1:] + (f" {count + 1}" if count else ""))[:80]
    made = Chain(id=new_id(figure, name), name=name, kind=kind, links=links, least_mm=least, most_mm=most)
    return Edit(f"add {name}", (Add("chains", made),))


def _chain(figure: Figure, ident: str) -> Chain:
    return next(chain for chain in figure.chains if chain.id == ident)


def set_chain(figure: Figure, ident: str, words: str, **fields: Any) -> Edit:
    """Some of its own fields."""
    steps = tuple(Set(("chains", ident, name), value) for name, value in fields.items())
    return Edit(f"{words} of {_chain(figure, ident).name}", steps, f"{ident} {' '.join(fields)}")


def set_link(figure: Figure, ident: str, number: int, words: str, **fields: Any) -> Edit:
    """Some fields of one link, mm."""
    chain = _chain(figure, ident)
    links = list(chain.links)
    links[number] = Link(**(dict(links[number]) | fields))
    return Edit(
        f"{words} of {chain.name}",
        (Set(("chains", ident, "links"), tuple(links)),),
        f"{ident} {number} {' '.join(fields)}",
    )


def add_link(figure: Figure, ident: str) -> Edit:
    """One more link at its end, of nothing yet."""
    chain = _chain(figure, ident)
    link = Link(name=f"size {len(chain.links) + 1}", mm=0.0, adds=False)
    return Edit(f"one more size in {chain.name}", (Set(("chains", ident, "links"), (*chain.links, link)),))


def drop_link(figure: Figure, ident: str, number: int) -> Edit:
    """Without one of its links. Raises EditRefused for the last one."""
    chain = _chain(figure, ident)
    if len(chain.links) < 2:
        raise EditRefused(f"{chain.name} keeps its last size: remove the whole chain instead.")
    left = (*chain.links[:number], *chain.links[number + 1 :])
    return Edit(f"{chain.links[number].name} out of {chain.name}", (Set(("chains", ident, "links"), left),))
