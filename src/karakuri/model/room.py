"""Room: what must stay between parts that move past each other, and which of them belong in one another."""

from typing import Annotated

from karakuri.model.base import Identifier
from karakuri.values.fields import Field
from karakuri.values.value import Value

Gap_mm = Annotated[float, Field(gt=0, le=1000)]


class Together(Value):
    """Two parts that are not compared: one goes through an opening of the other, is fixed in it, or gives way."""

    one: Identifier
    other: Identifier


class Room(Value):
    """Asked for: whether all parts keep so much apart over all that their joints do."""

    gap_mm: Gap_mm = Field(
        default=2.0, description="Must stay between any two, and between a shell's inside and what is in it."
    )
    together: tuple[Together, ...] = Field(default=(), max_length=5000, description="Pairs that are not compared.")
