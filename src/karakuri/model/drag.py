"""What rubs in a joint: its bearing as one sees it, or two pulls with a scale."""

from typing import Annotated, Literal, get_args

from karakuri.model.base import Size_mm
from karakuri.values.fields import Before, Field
from karakuri.values.value import Form

BearingKind = Literal["print", "greased print", "bush", "ball bearing", "turntable", "foam"]
BEARINGS: tuple[BearingKind, ...] = get_args(BearingKind)
"""From what rubs hard and is made quickly to what rolls, but for the turntable and foam on foam."""
ROLLS: frozenset[BearingKind] = frozenset({"ball bearing"})
"""What is left alone in these comes to rest where its weight takes it."""
Pull_g = Annotated[float, Field(ge=-500_000, le=500_000)]


class Bearing(Form):
    """What turns in what, and how far from the axis they touch."""

    kind: Literal["bearing"] = "bearing"
    bearing: BearingKind = "print"
    radius_mm: Size_mm = Field(default=3.0, description="From the axis to where it rubs: half of a pin's thickness.")


class Pulled(Form):
    """Two readings of a luggage scale hooked to it: just moving it one way, and just letting it back."""

    kind: Literal["pulled"] = "pulled"
    lever_mm: Size_mm = Field(
        default=100.0, description="From the axis to the hook, square to the pull; a slide has none."
    )
    up_g: Pull_g = Field(description="What the scale shows while it just moves with the pull.")
    down_g: Pull_g = Field(description="While it just gives way against the pull; below 0 where it must be pushed.")


def _kind_said(value: object) -> object:
    """What a file of before says without its kind: pulls are told by their readings. For a while no kind was written."""
    if isinstance(value, dict) and "kind" not in value:
        return value | {"kind": "pulled" if {"up_g", "down_g", "lever_mm"} & value.keys() else "bearing"}
    return value


Drag = Annotated[Annotated[Bearing | Pulled, Field(discriminator="kind")], Before(_kind_said)]
