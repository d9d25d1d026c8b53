"""An edit is data: set, add, remove or replace at an id path, several as one, with a name for undo.

Window, remedies, imports and starters all speak it. `apply` builds a new figure through validation.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from karakuri.errors import EditRefused
from karakuri.model.figure import Figure

COLLECTIONS = ("postures", "materials", "parts", "joints", "drives", "ballast_sites")


@dataclass(frozen=True)
class Set:
    """Set one field. `path` is collection, id, field…, or field… of the figure itself."""

    path: tuple[str, ...]
    value: Any


@dataclass(frozen=True)
class Add:
    collection: str
    item: BaseModel


@dataclass(frozen=True)
class Remove:
    collection: str
    id: str


@dataclass(frozen=True)
class Replace:
    collection: str
    id: str
    item: BaseModel


Step = Set | Add | Remove | Replace


@dataclass(frozen=True)
class Edit:
    """Steps carried out as one. Edits with equal merge keys that follow each other are one undo step."""

    name: str
    steps: tuple[Step, ...]
    merge_key: str | None = None


def apply(figure: Figure, edit: Edit) -> Figure:
    """The figure after the edit; the one given is untouched. Raises EditRefused with the reason."""
    fields: dict[str, Any] = dict(figure)
    try:
        for step in edit.steps:
            _apply_step(fields, step)
        return Figure(**fields)
    except ValidationError as trouble:
        reasons = "; ".join(_reason(error) for error in trouble.errors())
        raise EditRefused(f"{edit.name}: not done, the figure is as it was. {reasons}") from trouble


def _reason(error: Any) -> str:
    where = ".".join(str(bit) for bit in error["loc"])
    text = str(error["msg"]).removeprefix("Value error, ")
    got = error.get("input")
    shown = f" (found {got!r})" if isinstance(got, (str, int, float)) else ""
    return f"{where}: {text}{shown}" if where else text


def _apply_step(fields: dict[str, Any], step: Step) -> None:
    if isinstance(step, Set):
        head, *rest = step.path
        if head in COLLECTIONS and rest:
            items = fields[head]
            fields[head] = _swapped(items, head, rest[0], lambda item: _with(item, tuple(rest[1:]), step.value))
        else:
            fields[head] = _with(fields.get(head), tuple(rest), step.value)
    elif isinstance(step, Add):
        fields[step.collection] = (*fields[step.collection], step.item)
    elif isinstance(step, Replace):
        fields[step.collection] = _swapped(fields[step.collection], step.collection, step.id, lambda _: step.item)
    else:
        items = fields[step.collection]
        if all(item.id != step.id for item in items):
            raise EditRefused(f"{step.collection} has no '{step.id}' to remove")
        fields[step.collection] = tuple(item for item in items if item.id != step.id)


def _swapped(items: Any, collection: str, wanted: str, change: Any) -> Any:
    if all(item.id != wanted for item in items):
        raise EditRefused(f"{collection} has no '{wanted}'")
    return tuple(change(item) if item.id == wanted else item for item in items)


def _with(value: Any, path: tuple[str, ...], new: Any) -> Any:
    if not path:
        return new
    if not isinstance(value, BaseModel) or path[0] not in type(value).model_fields:
        raise EditRefused(f"there is no field '{path[0]}' to set")
    fields = dict(value)
    fields[path[0]] = _with(fields[path[0]], path[1:], new)
    return type(value)(**fields)
