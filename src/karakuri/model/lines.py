"""Lists of lines: what a figure says one after another, when there is nothing particular to say."""

from typing import Annotated, Literal, Self

from karakuri.model.base import Identifier, Name
from karakuri.values.fields import Field
from karakuri.values.value import Value

Order = Literal["in order", "at random"]


class Lines(Value):
    """Sounds said one after another. In order from a random one on, and round again; or at random, none of the last few."""

    id: Identifier
    name: Name
    lines: tuple[Identifier, ...] = Field(default=(), max_length=1000, description="Ids of sounds.")
    openings: tuple[Identifier, ...] = Field(
        default=(), max_length=100, description="Said first, in this order, and never again."
    )
    order: Order = "in order"
    again_after: Annotated[int, Field(ge=0, le=100)] = Field(
        default=3, description="At random: none of the last so many."
    )
    every_s: Annotated[float, Field(ge=0.5, le=86_400)] = Field(
        default=9.0, description="From one's beginning to the next one's; common practice, no source."
    )

    def _check(self) -> Self:
        for field in ("lines", "openings"):
            ids = getattr(self, field)
            twice = sorted({i for i in ids if ids.count(i) > 1})
            if twice:
                raise ValueError(f"{field}: '{twice[0]}' is named twice")
        return self
