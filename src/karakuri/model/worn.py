"""What is worn: who wears it, and what carries it. Everything left out is guessed, and told as a guess."""

from typing import Annotated, Literal

from karakuri.model.base import Distance_mm, Place, Share, Size_mm
from karakuri.model.labels import Label
from karakuri.values.fields import Field
from karakuri.values.value import Value

WayKind = Literal["head", "shoulders", "rods", "gimbal"]
WAYS: dict[WayKind, str] = {
    "head": "the wearer’s head",
    "shoulders": "the shoulders, a helmet only turns it",
    "rods": "rods on a harness",
    "gimbal": "a gimbal on a support in front",
}
NeckKind = Literal["smaller", "larger"]
NECKS: dict[NeckKind, str] = {"smaller": "an average woman’s", "larger": "an average man’s"}


class Wearer(Value):
    """Who wears it: of a person a ruler and bathroom scales tell all that is asked here."""

    height_mm: Annotated[float | None, Field(ge=900, le=2500), Label("Wearer, tall", "length", 1e-3)] = None
    mass_g: Annotated[float | None, Field(ge=10_000, le=300_000), Label("Wearer, heavy", "mass", 1e-3)] = None
    head_long_mm: Annotated[Size_mm | None, Label("Head, front to back", "length", 1e-3)] = None
    head_wide_mm: Annotated[Size_mm | None, Label("Head, side to side", "length", 1e-3)] = None
    head_around_mm: Annotated[Size_mm | None, Label("Head, all round", "length", 1e-3)] = Field(
        default=None, description="With a tape over the brows; tells the other two where they were not measured."
    )
    padding_mm: Annotated[Distance_mm, Label("Padding, hood, hair", "length", 1e-3)] = 0.0
    neck: NeckKind = Field(
        default="smaller", description="Whose measured neck strength is taken: the smaller one unless said."
    )


class Worn(Value):
    """How a worn figure is carried. Places from the datum, the figure level; lengths in mm as a ruler gives them."""

    by: WayKind = "head"
    wearer: Wearer = Field(default_factory=Wearer)
    ears_mm: Place | None = Field(
        default=None, description="The middle between the wearer's ear holes; left out: the middle of the figure."
    )
    pitch_deg: float = Field(
        default=0.0, ge=-90, le=90, description="How far it is mounted pitched up on what carries it."
    )
    contact_mm2: Annotated[float | None, Field(ge=1, le=1_000_000), Label("Really touches", "area", 1e-6)] = Field(
        default=None, description="Area that really touches, on the part of the body that bears most."
    )
    ahead_mm: Annotated[Size_mm | None, Label("Reaches ahead", "length", 1e-3)] = Field(
        default=None, description="How far what carries it reaches ahead of the middle of head or shoulders."
    )
    behind_mm: Annotated[Size_mm | None, Label("Reaches behind", "length", 1e-3)] = None
    hips_share: Annotated[Share | None, Label("On the hips", "ratio", 1.0)] = Field(
        default=None, description="Share of the weight that a harness puts on the hips; of rods."
    )
    gimbal_mm: Place | None = Field(default=None, description="The gimbal's middle; left out: at the centre of mass.")
    stick_mm: Annotated[Size_mm | None, Label("Stick, ahead of the spine", "length", 1e-3)] = Field(
        default=None, description="How far before the spine the stick of a gimbal stands."
    )
    turn_deg: Annotated[float, Field(ge=1, le=180), Label("A turn of the head", "angle", 0.017453292519943295)] = 60.0
    turn_s: Annotated[float, Field(ge=0.05, le=60), Label("made in", "time", 1.0)] = 0.8
