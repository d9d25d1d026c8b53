"""What rubs in a joint: its bearing as one sees it, or two pulls with a scale."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from karakuri.model.base import Size_mm, Value

BearingKind = Literal["print", "greased print", "bush", "ball bearing", "turntable", "foam"]
BEARINGS: tuple[BearingKind, ...] = get_args(BearingKind)
"""From what rubs hard and is made quickly to what rolls, but for the turntable and foam on foam."""
ROLLS: frozenset[BearingKind] = frozenset({"ball bearing"})
"""What is left alone in these comes to rest where its weight takes it."""
Pull_g = Annotated[float, Field(ge=-500_000, le=500_000)]


class Bearing(Value):
    """What turns in what, and how far from the axis they touch."""

    kind: Literal["bearing"] = "bearing"
    bearing: BearingKind = "print"
    radius_mm: Size_mm = Field(3.0, description="From the axis to where it rubs: half of a pin's thickness.")


class Pulled(Value):
    """Two readings of a luggage scale hooked to it: just moving it one way, and just letting it back."""

    kind: Literal["pulled"] = "pulled"
    lever_mm: Size_mm = Field(100.0, description="From the axis to the hook, square to the pull; a slide has none.")
    up_g: Pull_g = Field(description="What the scale shows while it just moves with the pull.")
    down_g: Pull_g = Field(description="While it just gives way against the pull; below 0 where it must be pushed.")


Drag = Annotated[Bearing | Pulled, Field(discriminator="kind")]
