"""What all values of a figure share: frozen, strict, nothing extra, no NaN or infinity."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field


class Value(BaseModel):
    """A frozen value. A changed one is built through the constructor, never by `model_copy(update=…)`."""

    model_config = ConfigDict(frozen=True, strict=True, extra="forbid", allow_inf_nan=False)


Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=60)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Share = Annotated[float, Field(gt=0, le=1)]
Place = tuple[float, float, float]
Interval = tuple[float, float]
