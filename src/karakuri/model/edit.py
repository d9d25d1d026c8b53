"""An edit is data: set, add, remove or replace at an id path, several as one, with a name for undo.

Window, remedies, imports and starters all speak it. `apply` builds a new figure through validation.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from pydantic_core import ValidationError

from karakuri.errors import EditRefused
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.values.fields import fields_of
from karakuri.values.value import Value

_T = TypeVar("_T")


class Set(Frozen):
    """Set one field, to a value or to the fields of one, which `apply` builds. `path` names fields, and items of collections by their id: parts, ID, mass_g · scores, ID, channels, ID, moves. The score in hand is called 'score'."""

    path: tuple[str, ...]
    value: Any


class Add(Frozen):
    """Add an item: a value, or the fields of one, which `apply` builds. A collection within the score is written 'score.channels'; so too below."""

    collection: str
    item: Value | Mapping[str, Any]


class Remove(Frozen):
    collection: str
    id: str


class Replace(Frozen):
    collection: str
    id: str
    item: Value


Step = Set | Add | Remove | Replace


class Edit(Frozen):
    """Steps carried out as one. Edits with equal merge keys that follow each other are one undo step."""

    name: str
    steps: tuple[Step, ...]
    merge_key: str | None = None


def made(make: Callable[[], _T]) -> _T:
    """What a maker of edits, or of entries, makes now. Raises EditRefused where it cannot: a value out of bounds, an item gone."""
    try:
        return make()
    except ValidationError as trouble:
        raise EditRefused("Not done, the figure is as it was. " + reasons_of(trouble)) from trouble
    except (LookupError, StopIteration) as trouble:
        raise EditRefused("What this was about is not in the figure any more; nothing was changed.") from trouble


def reasons_of(trouble: ValidationError) -> str:
    """Why a value was refused, for the person at the bench: where, what was expected, what came; five at most."""
    errors = trouble.errors()
    more = f"; and {len(errors) - 5} more" if len(errors) > 5 else ""
    return "; ".join(_reason(error) for error in errors[:5]) + more


def apply(figure: Figure, edit: Edit) -> Figure:
    """The figure after the edit; the one given is untouched. Raises EditRefused with the reason."""
    fields: dict[str, Any] = dict(figure)
    try:
        for step in edit.steps:
            _apply_step(fields, step)
        return Figure(**fields)
    except ValidationError as trouble:
        raise EditRefused(f"{edit.name}: not done, the figure is as it was. {reasons_of(trouble)}") from trouble


def expected(error: Any) -> str:
    """What a validation error of pydantic expected, in plain words."""
    text = str(error["msg"]).removeprefix("Value error, ")
    limits = error.get("ctx") or {}
    for kind, key, words in (
        ("greater_than", "gt", "more than"),
        ("greater_than_equal", "ge", "at least"),
        ("less_than", "lt", "less than"),
        ("less_than_equal", "le", "at most"),
    ):
        if error["type"] == kind:
            return f"{words} {limits[key]:g}"
    if error["type"] in ("string_too_short", "string_too_long"):
        return f"{limits.get('min_length', 0)} to {limits.get('max_length', 80)} letters"
    if error["type"] == "too_long":
        return f"at most {limits['max_length']} of them"
    return text.removeprefix("Input should be ").removeprefix("a valid ")


def _reason(error: Any) -> str:
    names = [bit for bit in error["loc"] if isinstance(bit, str)]
    where = re.sub(r"_(mm|g|deg|Nm|V|A|s|N|mps2|kgm3|us|kgm2)$", "", names[-1]).replace("_", " ") if names else ""
    text = expected(error)
    if error["type"] == "value_error":
        return text
    got = error.get("input")
    shown = f"; found {_short(got)}" if isinstance(got, (str, int, float)) else ""
    return f"Expected for {where}: {text}{shown}" if where else text


def _short(value: str | int | float) -> str:
    text = f"{value:g}" if isinstance(value, float) else repr(value)
    return text if len(text) <= 40 else text[:39] + "…"


def _apply_step(fields: dict[str, Any], step: Step) -> None:
    path = step.path if isinstance(step, Set) else tuple(step.collection.split("."))
    if path[0] == "score":
        path = ("scores", _in_hand(fields), *path[1:])
    head, rest = path[0], path[1:]
    if head not in fields_of(Figure):
        raise EditRefused(f"there is no field '{head}' to set")
    if isinstance(step, Set):
        fields[head] = _with(fields.get(head), rest, lambda _: step.value)
    elif isinstance(step, Add):
        fields[head] = _with(fields[head], rest, lambda items: (*items, step.item))
    elif isinstance(step, Replace):
        fields[head] = _with(fields[head], (*rest, step.id), lambda _: step.item)
    else:
        fields[head] = _with(fields[head], rest, lambda items: _without(items, step))


def _in_hand(fields: dict[str, Any]) -> str:
    """The id of the score that is played, of a figure's fields."""
    ids: list[str] = [score.id for score in fields["scores"]]
    return fields["playing"] if fields["playing"] in ids else ids[0]


def _without(items: Any, step: Remove) -> Any:
    if all(item.id != step.id for item in items):
        raise EditRefused(f"{step.collection} has no '{step.id}' to remove")
    return tuple(item for item in items if item.id != step.id)


def _with(value: Any, path: tuple[str, ...], change: Callable[[Any], Any]) -> Any:
    """The value with what lies at the path changed, rebuilt through the constructors on the way."""
    if not path:
        return change(value)
    if isinstance(value, tuple):
        if all(getattr(item, "id", None) != path[0] for item in value):
            raise EditRefused(f"there is no '{path[0]}' here")
        return tuple(_with(item, path[1:], change) if item.id == path[0] else item for item in value)
    if not isinstance(value, Value) or path[0] not in fields_of(type(value)):
        raise EditRefused(f"there is no field '{path[0]}' to set")
    fields = dict(value)
    fields[path[0]] = _with(fields[path[0]], path[1:], change)
    return type(value)(**fields)
