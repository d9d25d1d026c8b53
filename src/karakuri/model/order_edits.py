"""Edits of the order of putting together: one more step, where it stands, what it needs and shuts off, all of them in an order that can be kept."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.order import Doing


def doing_of(figure: Figure, ident: str) -> Doing:
    """The step of that id. Raises StopIteration."""
    return next(doing for doing in figure.order if doing.id == ident)


def add_doing(figure: Figure, name: str = "") -> Edit:
    """One more step at the end; nothing is said of it yet."""
    name = name.strip() or f"step {len(figure.order) + 1}"
    return Edit(f"add {name}", (Add("order", Doing(id=new_id(figure, name), name=name[:80])),))


def set_doing(figure: Figure, ident: str, words: str, **fields: Any) -> Edit:
    """Some of its fields."""
    name = doing_of(figure, ident).name
    steps = tuple(Set(("order", ident, field), value) for field, value in fields.items())
    return Edit(f"{words} of {name}", steps, f"{ident} {' '.join(fields)}")


def related(figure: Figure, ident: str, field: str, other: str, holds: bool) -> Edit:
    """Say that a step needs, or shuts off, another, or that it does not. Raises EditRefused for itself."""
    me = doing_of(figure, ident)
    if other == ident:
        raise EditRefused(f"{me.name} cannot come before itself.")
    now = tuple(each for each in getattr(me, field) if each != other)
    return set_doing(figure, ident, "order", **{field: (*now, other) if holds else now})


def moved(figure: Figure, ident: str, by: int) -> Edit:
    """One step earlier or later, or several."""
    order = list(figure.order)
    k = next(n for n, doing in enumerate(order) if doing.id == ident)
    order.insert(min(max(k + by, 0), len(order) - 1), order.pop(k))
    return Edit(
        f"{'earlier' if by < 0 else 'later'}: {doing_of(figure, ident).name}",
        (Set(("order",), tuple(order)),),
        f"{ident} place",
    )


def put_in_order(figure: Figure, ids: Sequence[str]) -> Edit:
    """All of them in another order."""
    by_id = {doing.id: doing for doing in figure.order}
    return Edit("put the steps in order", (Set(("order",), tuple(by_id[ident] for ident in ids)),))


def remove_doing(figure: Figure, ident: str) -> Edit:
    """Without a step; nothing needs it any more."""
    steps: list[Step] = []
    for doing in figure.order:
        for field in ("needs", "shuts"):
            if ident in getattr(doing, field):
                steps.append(
                    Set(("order", doing.id, field), tuple(each for each in getattr(doing, field) if each != ident))
                )
    return Edit(f"remove {doing_of(figure, ident).name}", (*steps, Remove("order", ident)))
