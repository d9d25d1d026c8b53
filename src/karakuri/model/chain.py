"""Chains of sizes: what adds up to a gap that must stay, or must close, between two bounds."""

from typing import Annotated, Literal, Self

from karakuri.model.base import Coordinate_mm, Distance_mm, Identifier, Name
from karakuri.model.part import Origin
from karakuri.values.fields import Field
from karakuri.values.value import Value

ChainKind = Literal["gap", "ring", "seat", "grip", "through", "turns", "holds", "flare", "rim", "pusher", "row"]
Times = Annotated[float, Field(ge=0.001, le=1000)]


class Link(Value):
    """One size of a chain. `times`: by how much of it the gap changes, π for what is measured across and counts all round."""

    name: Name
    mm: Coordinate_mm = 0.0
    plus_minus_mm: Distance_mm = Field(default=0.2, description="By how much it may be off: a bound.")
    adds: bool = Field(default=True, description="Whether more of it makes the gap wider.")
    count: Annotated[int, Field(ge=1, le=1000)] = Field(default=1, description="How many alike, each off by itself.")
    times: Times = 1.0
    origin: Origin = "guess"
    may_change: bool = Field(default=False, description="Whether it may be chosen otherwise.")


class Chain(Value):
    """Sizes from the one side of a gap round to the other."""

    id: Identifier
    name: Name
    kind: ChainKind = "gap"
    links: tuple[Link, ...] = Field(default=(), max_length=40)
    least_mm: Coordinate_mm = Field(
        default=0.5, description="The gap must be at least this; below 0: so much it must press."
    )
    most_mm: Coordinate_mm | None = Field(default=None, description="And at most this; left out: as wide as it likes.")
    judge: Literal["likely", "worst"] = Field(
        default="likely", description="By how far it is likely to be off, or by how far it may be at worst."
    )

    def _check(self) -> Self:
        if self.most_mm is not None and self.most_mm < self.least_mm:
            raise ValueError(f"a gap of at least {self.least_mm:g} mm cannot be at most {self.most_mm:g} mm")
        return self
