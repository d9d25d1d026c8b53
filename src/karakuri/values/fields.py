"""What a value of the model says of its fields: bounds, defaults, what reads and what checks them. Annotations say the kind.

The words are those of pydantic, and its engine does the checking (see `checking`). Its own classes are not used, for they look at every annotation of every
kind of value at each start of the program, whether one of that kind is ever made or not: a third of a second, most of it before anything is on the screen.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from types import MappingProxyType
from typing import Annotated, Any, get_args, get_origin

from karakuri.frozen import Frozen

NOTHING: Any = object()
"""No default: the field is needed."""


class About(Frozen, kw_only=True):
    """What is said of a field, or of a kind of quantity: numbers ge, le, gt between bounds, texts and tuples between lengths, of a union what its members
    are told apart by."""

    default: Any = NOTHING
    default_factory: Callable[[], Any] | None = None
    description: str | None = None
    ge: float | None = None
    gt: float | None = None
    le: float | None = None
    pattern: str | None = None
    min_length: int | None = None
    max_length: int | None = None
    discriminator: str | Callable[[Any], str] | None = None

    @property
    def limits(self) -> dict[str, Any]:
        """Bounds and lengths that are said, by name."""
        return {name: value for name in LIMITS if (value := getattr(self, name)) is not None}


LIMITS = ("ge", "gt", "le", "pattern", "min_length", "max_length")


def Field(**said: Any) -> Any:
    """What is said of a field where it is declared, `x: float = Field(default=0.0, description="…")`, or of a kind: `Annotated[float, Field(ge=0, le=1)]`."""
    return About(**said)


class After(Frozen):
    """In an annotation: a function that is given what was read and gives what is kept; it raises ValueError."""

    function: Callable[[Any], Any]


class Before(Frozen):
    """In an annotation: a function that is given what came, and gives what is to be read."""

    function: Callable[[Any], Any]


class FailFast(Frozen):
    """In an annotation of a tuple: the first fault in it is enough."""


class FieldOf(Frozen):
    """A field of a kind of value."""

    kind: Any
    """Its annotation, without what is said there besides."""
    metadata: tuple[Any, ...]
    """What is said there besides, and of bounds where it is declared, in this order."""
    default: Any = NOTHING
    default_factory: Callable[[], Any] | None = None
    description: str | None = None

    @property
    def needed(self) -> bool:
        """Whether it may not be left out."""
        return self.default is NOTHING and self.default_factory is None

    @property
    def usual(self) -> Any:
        """What it is where it is left out; NOTHING, which nothing equals, where it may not be."""
        return self.default if self.default_factory is None else self.default_factory()


def fields_of(kind: type) -> MappingProxyType[str, FieldOf]:
    """The fields of a kind of value by name, in the order they are declared in, those of what it builds on first."""
    return _fields_of(kind)


@cache
def _fields_of(kind: Any) -> MappingProxyType[str, FieldOf]:
    found: dict[str, FieldOf] = {}
    for base in reversed(kind.__mro__):
        for name, hint in vars(base).get("__annotations__", {}).items():
            declared = getattr(kind, name, NOTHING)
            if name.startswith("_") or isinstance(declared, property):
                continue
            metadata: tuple[Any, ...] = ()
            if get_origin(hint) is Annotated:
                hint, *besides = get_args(hint)
                metadata = tuple(besides)
            said = next((m.description for m in metadata if isinstance(m, About) and m.description), None)
            if not isinstance(declared, About):
                found[name] = FieldOf(hint, metadata, declared, None, said)
                continue
            if declared.limits or declared.discriminator is not None:
                metadata = (*metadata, declared)
            found[name] = FieldOf(
                hint, metadata, declared.default, declared.default_factory, declared.description or said
            )
    return MappingProxyType(found)
