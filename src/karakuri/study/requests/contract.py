"""The contract of an analysis: a frozen request that holds everything its result depends on, and derives its own key from it.

To add one: a class with `kind` and `run`. Fields are numbers, texts, tuples, arrays and what is frozen; a figure, a name or
anything else the result does not depend on stays outside, so that what did not change is not computed again.
"""

from __future__ import annotations

from functools import cached_property
from typing import ClassVar, Generic, TypeVar

from karakuri.bodies.inertia import Array
from karakuri.digest import digest
from karakuri.frozen import Frozen

T = TypeVar("T")


class Request(Frozen, Generic[T], eq=False):
    """What an analysis is given. `kind` names it among what is kept."""

    kind: ClassVar[str]

    @cached_property
    def key(self) -> bytes:
        """Every field, deep down, as a digest: equal for equal requests, whoever made them."""
        return digest(self)

    def run(self, quick: bool, known: tuple[Array, ...]) -> T:
        """The result. `quick`: from fewer starts, for a hand still dragging; `known` poses, rad or m, to begin from besides. Neither is
        part of what is asked."""
        raise NotImplementedError
