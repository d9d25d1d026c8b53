"""Annotations as pydantic's engine reads them: one small function for each kind of annotation there is in the model."""

from __future__ import annotations

import types
from collections.abc import Callable, Mapping
from functools import cache
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic_core import CoreSchema, core_schema

from karakuri.values.fields import NOTHING, About, After, Before, FailFast, FieldOf, fields_of

_PLAIN: dict[type, Callable[[], Any]] = {
    float: core_schema.float_schema,
    int: core_schema.int_schema,
    str: core_schema.str_schema,
    bool: core_schema.bool_schema,
    bytes: core_schema.bytes_schema,
}


_TOLD = (About, After, Before, FailFast)


def schema_of(annotation: Any, metadata: tuple[Any, ...] = ()) -> CoreSchema:
    """How an annotation is read, with what is said of it besides; a kind of value says so itself, by `core_schema`. Raises TypeError for one the model does
    not use."""
    return _schema_of(annotation, tuple(said for said in metadata if isinstance(said, _TOLD)))


@cache
def _schema_of(annotation: Any, metadata: tuple[Any, ...]) -> CoreSchema:
    origin, args = get_origin(annotation), get_args(annotation)
    if origin is Annotated:
        return schema_of(args[0], (*args[1:], *metadata))
    by = next((m.discriminator for m in metadata if isinstance(m, About) and m.discriminator is not None), None)
    if by is not None:
        made: CoreSchema = core_schema.tagged_union_schema(
            {kind_of(each): schema_of(each) for each in args}, by, strict=False, from_attributes=True
        )
    elif origin in (Union, types.UnionType):
        rest = [each for each in args if each is not type(None)]
        made = schema_of(rest[0]) if len(rest) == 1 else core_schema.union_schema([schema_of(each) for each in rest])
        made = core_schema.nullable_schema(made) if len(rest) < len(args) else made
    elif origin is Literal:
        made = core_schema.literal_schema(list(args))
    elif origin is tuple and len(args) == 2 and args[1] is ...:
        made = core_schema.tuple_variable_schema(schema_of(args[0]))
    elif origin is tuple:
        made = core_schema.tuple_positional_schema([schema_of(each) for each in args])
    elif annotation in _PLAIN:
        made = _PLAIN[annotation]()
    elif hasattr(annotation, "core_schema"):
        made = annotation.core_schema()
    else:
        raise TypeError(f"no field of the model is a {annotation!r}")
    for said in metadata:
        made = _with(made, said)
    return made


def kind_of(member: Any) -> str:
    """What a member of a union is told by: its `kind`."""
    word: str = fields_of(member)["kind"].default
    return word


def _with(schema: CoreSchema, said: Any) -> CoreSchema:
    if isinstance(said, After):
        return core_schema.no_info_after_validator_function(said.function, schema)
    if isinstance(said, Before):
        return core_schema.no_info_before_validator_function(said.function, schema)
    return _within(schema, {"fail_fast": True} if isinstance(said, FailFast) else said.limits)


def _within(schema: CoreSchema, limits: Mapping[str, Any]) -> CoreSchema:
    """The same within limits; what is wrapped, inside."""
    made: Any = dict(schema)
    if limits and made["type"] in ("nullable", "function-after", "function-before"):
        made["schema"] = _within(made["schema"], limits)
        return made  # type: ignore[no-any-return]
    return made | limits  # type: ignore[no-any-return]


def value_schema(kind: type, read: Any, check: Any) -> CoreSchema:
    """How a kind of value is read: its fields, each strictly, none besides them, no NaN and no infinity; before them `read` with what came, after them `check`
    with the value."""
    fields = {name: core_schema.model_field(_defaulted(field)) for name, field in fields_of(kind).items()}
    inner: CoreSchema = core_schema.model_fields_schema(fields, model_name=kind.__name__)
    if read is not None:
        inner = core_schema.no_info_before_validator_function(read, inner)
    made: CoreSchema = core_schema.model_schema(
        kind,
        inner,
        config=core_schema.CoreConfig(
            title=kind.__name__, strict=True, extra_fields_behavior="forbid", allow_inf_nan=False
        ),
    )
    return made if check is None else core_schema.no_info_after_validator_function(check, made)


def _defaulted(field: FieldOf) -> CoreSchema:
    schema = schema_of(field.kind, field.metadata)
    if field.needed:
        return schema
    if field.default is NOTHING:
        return core_schema.with_default_schema(schema, default_factory=field.default_factory)
    return core_schema.with_default_schema(schema, default=field.default)
