"""A picture laid behind an elevation, brought to scale by one known length, to trace over."""

import math
from typing import Annotated, Self

from karakuri.model.base import Coordinate_mm, Identifier, Name, Size_mm
from karakuri.model.drawn import View
from karakuri.values.fields import Field
from karakuri.values.value import Value

Pixel = Annotated[float, Field(ge=-100_000, le=100_000)]
Mark = tuple[Pixel, Pixel]


class Picture(Value):
    """Upright, never turned. The first of its two marks lies at a place of the view; the second is so far from it, in truth."""

    id: Identifier
    name: Name
    file: Annotated[str, Field(min_length=1, max_length=1000)] = Field(
        description="Its file, from the figure's own folder or whole."
    )
    view: View = "side"
    from_px: Mark = Field(default=(0.0, 0.0), description="First mark, pixels to the right and down from its top left.")
    to_px: Mark = Field(default=(100.0, 0.0), description="Second mark.")
    length_mm: Size_mm = Field(default=200.0, description="From mark to mark.")
    at_mm: tuple[Coordinate_mm, Coordinate_mm] = Field(
        default=(0.0, 0.0), description="Where the first mark lies: ahead (front view: to its left) and up."
    )
    shown: bool = True

    def _check(self) -> Self:
        if self.apart_px < 1.0:
            raise ValueError("the two marks of a picture lie at least a pixel apart")
        return self

    @property
    def apart_px(self) -> float:
        return math.dist(self.from_px, self.to_px)

    @property
    def mm_per_px(self) -> float:
        return self.length_mm / self.apart_px

    def place(self, x: float, y: float) -> tuple[float, float]:
        """Where a pixel lies in its view, mm: ahead or left, and up."""
        k = self.mm_per_px
        return self.at_mm[0] + k * (x - self.from_px[0]), self.at_mm[1] - k * (y - self.from_px[1])

    def pixel(self, right: float, up: float) -> tuple[float, float]:
        """Which pixel lies at a place of its view, mm."""
        k = self.mm_per_px
        return self.from_px[0] + (right - self.at_mm[0]) / k, self.from_px[1] - (up - self.at_mm[1]) / k
