"""What all values of a figure are: frozen, checked where they are made, told as plain data."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Any, Self, dataclass_transform

from pydantic_core import CoreSchema, SchemaValidator

from karakuri.values.checking import schema_of, value_schema
from karakuri.values.fields import Field, fields_of


@dataclass_transform(kw_only_default=True, frozen_default=True, field_specifiers=(Field,))
class Value:
    """A frozen value, checked as it is made: each field strictly by its annotation, then all of it by `_check` where there is one. A changed one is made by
    `but`. Raises pydantic's ValidationError, which names every fault."""

    __slots__ = ("__dict__", "__pydantic_extra__", "__pydantic_fields_set__", "__pydantic_private__", "__weakref__")

    def __init__(self, **fields: Any) -> None:
        _validator(type(self)).validate_python(fields, self_instance=self)

    @classmethod
    def from_fields(cls, fields: Any) -> Self:
        """One of its fields by name, nested ones too; one that is there already is given back. Raises ValidationError."""
        made: Self = _validator(cls).validate_python(fields)
        return made

    @classmethod
    def from_json(cls, text: str) -> Self:
        """One of JSON. Raises ValidationError."""
        made: Self = _validator(cls).validate_json(text)
        return made

    @classmethod
    @cache
    def core_schema(cls) -> CoreSchema:
        """How the engine reads it."""
        return value_schema(cls, getattr(cls, "_read", None), getattr(cls, "_check", None))

    def but(self, **changes: Any) -> Self:
        """The same with other fields, checked. Raises ValidationError."""
        return type(self)(**(self.__dict__ | changes))

    def unchecked(self, **changes: Any) -> Self:
        """The same with other fields, whatever they are: for what is worked out and goes into no file."""
        made = object.__new__(type(self))
        made.__setstate__(self.__dict__ | changes)
        return made

    def __iter__(self) -> Iterator[tuple[str, Any]]:
        return iter(self.__dict__.items())

    def __eq__(self, other: object) -> bool:
        return self is other or (
            type(self) is type(other) and isinstance(other, Value) and self.__dict__ == other.__dict__
        )

    def __hash__(self) -> int:
        return hash((type(self), *self.__dict__.values()))

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in self)})"

    def __setattr__(self, name: str, value: object) -> None:
        raise AttributeError(f"{type(self).__name__} is frozen: {name} is changed by `but`")

    def __delattr__(self, name: str) -> None:
        raise AttributeError(f"{type(self).__name__} is frozen: {name} stays")

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__

    def __setstate__(self, state: dict[str, Any]) -> None:
        object.__setattr__(self, "__dict__", state)


class Form(Value):
    """What there are several kinds of: a file names the kind, always."""


_VALIDATORS: dict[Any, SchemaValidator] = {}


def _validator(kind: Any) -> SchemaValidator:
    """Made when it is asked for first: of most kinds no figure has one."""
    made = _VALIDATORS.get(kind)
    if made is None:
        made = _VALIDATORS[kind] = SchemaValidator(schema_of(kind))
    return made


def many_from_json(kind: type[Value], text: str) -> tuple[Any, ...]:
    """Values of one kind from a JSON list. Raises ValidationError."""
    made: tuple[Any, ...] = _validator(tuple[kind, ...]).validate_json(text)  # type: ignore[valid-type]
    return made


def as_data(value: Any, all_fields: bool = False) -> Any:
    """A value as JSON has it: objects, lists, numbers and texts. Fields at their default are left out, but for the kind of what there are several of,
    unless all are asked for."""
    if isinstance(value, Value):
        told = {} if not isinstance(value, Form) else {"kind": getattr(value, "kind")}  # noqa: B009 - each form declares its own
        for name, field in fields_of(type(value)).items():
            here = getattr(value, name)
            if name not in told and (all_fields or here != field.usual):
                told[name] = as_data(here, all_fields)
        return told
    return [as_data(each, all_fields) for each in value] if isinstance(value, tuple) else value
