"""The JSON Schema of a figure file, made from the model so that the two cannot drift."""

from __future__ import annotations

from functools import cache, reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal, get_args, get_origin

from karakuri.model.figure import Figure
from karakuri.values.checking import kind_of
from karakuri.values.fields import About, After, Before, FieldOf, fields_of
from karakuri.values.value import Form, Value

if TYPE_CHECKING:
    from pydantic import BaseModel


def schema() -> dict[str, Any]:
    """The schema (JSON Schema 2020-12) that every .karakuri file obeys."""
    described = in_pydantic(Figure).model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **described}


def in_pydantic(kind: Any) -> type[BaseModel]:
    """A kind of value declared as a model of pydantic's, which writes schemas: the same fields and bounds, without what a value checks as a whole."""
    made: type[BaseModel] = _in_pydantic(kind)
    return made


@cache
def _in_pydantic(kind: Any) -> type[BaseModel]:
    from pydantic import ConfigDict, create_model  # takes a tenth of a second

    extra = _kind_is_needed if issubclass(kind, Form) else None
    config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, json_schema_extra=extra)
    fields: dict[str, Any] = {name: _field(field) for name, field in fields_of(kind).items()}
    return create_model(kind.__name__, __config__=config, __doc__=kind.__doc__, __module__=kind.__module__, **fields)


def _kind_is_needed(schema: dict[str, Any]) -> None:
    schema["required"] = ["kind", *(name for name in schema.get("required", []) if name != "kind")]


def _field(field: FieldOf) -> tuple[Any, Any]:
    from pydantic import Field

    default: dict[str, Any] = {}
    if field.default_factory is not None:
        default = {"default_factory": field.default_factory}
    elif not field.needed:
        default = {"default": _plain(field.default)}
    return _annotation(field.kind, field.metadata), Field(description=field.description, **default)


def _plain(value: Any) -> Any:
    """A default as pydantic can write it: values as those of the declared models."""
    if isinstance(value, tuple):
        return tuple(map(_plain, value))
    return (
        in_pydantic(type(value)).model_construct(**{k: _plain(v) for k, v in value})
        if isinstance(value, Value)
        else value
    )


def _annotation(annotation: Any, metadata: tuple[Any, ...] = ()) -> Any:
    from pydantic import Discriminator, Tag

    if get_origin(annotation) is Annotated:
        annotation, *besides = get_args(annotation)
        return _annotation(annotation, (*besides, *metadata))
    by = next((m.discriminator for m in metadata if isinstance(m, About) and m.discriminator is not None), None)
    args = get_args(annotation)
    if callable(by):
        made: Any = reduce(or_, (Annotated[_annotation(each), Tag(kind_of(each))] for each in args))
        return Annotated[made, Discriminator(by)]
    if args and get_origin(annotation) is tuple:
        made = tuple[tuple(each if each is ... else _annotation(each) for each in args)]  # type: ignore[misc]
    elif args and get_origin(annotation) is not Literal:
        made = reduce(or_, map(_annotation, args))
    else:
        made = in_pydantic(annotation) if isinstance(annotation, type) and issubclass(annotation, Value) else annotation
    for said in metadata:
        for told in _told(said):
            made = Annotated[made, told]
    return made


def _told(said: Any) -> list[Any]:
    from pydantic import AfterValidator, BeforeValidator, Field

    if isinstance(said, About):
        by: dict[str, Any] = {} if said.discriminator is None else {"discriminator": said.discriminator}
        return [Field(**said.limits, **by)] if said.limits or by else []
    if isinstance(said, After):
        return [AfterValidator(said.function)]
    return [BeforeValidator(said.function)] if isinstance(said, Before) else []
