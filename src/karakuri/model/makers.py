"""Makers of moves: what writes ordinary moves into ribbons from settings of its own. One class a kind; how each makes them is in
motion/makers/, one file a kind. A move says by its maker's id who wrote it; one changed by hand is nobody's any more.

To add a kind: a class here and in `Maker`, its file in motion/makers/ with a line in its table, its card in workbench/benches.
"""

from typing import Annotated, Literal, Self

from karakuri.model.base import Duration_s, Identifier, Time_s
from karakuri.model.moves import Target
from karakuri.values.fields import Field
from karakuri.values.value import Form


class Pin(Form):
    """A pose pinned to a time."""

    id: Identifier
    kind: Literal["pin"] = "pin"
    pose: Identifier
    arrives_s: Time_s
    takes_s: Duration_s = 0.6
    manner: Literal["together", "in order"] = Field(
        default="together",
        description="In order: eyes, then lids, ears and jaw, then head, then body, each `gap_s` later.",
    )
    gap_s: Time_s = 0.08

    def slower(self, by: float) -> "Pin":
        """The same where all takes `by` times as long."""
        return Pin(
            **(dict(self) | {"arrives_s": round(self.arrives_s * by, 3), "takes_s": round(self.takes_s * by, 3)})
        )

    def spoken(self) -> str:
        """Who wrote a move, in a sentence."""
        return "a pinned pose"


LifeKind = Literal["glances", "blinks", "ears", "tail", "breathes", "sways"]


class Life(Form):
    """What it does when nothing is asked of it, at random, from a seed."""

    id: Identifier = "life"
    kind: Literal["life"] = "life"
    seed: int = Field(default=1, ge=0, le=2**31 - 1)
    waits_s: tuple[Time_s, Time_s] = Field(
        default=(2.0, 10.0), description="Shortest and longest wait; common practice, no source."
    )
    does: tuple[LifeKind, ...] = Field(default=("glances", "blinks"), max_length=20)
    head_joins_deg: Annotated[float, Field(ge=0, le=90)] | None = Field(
        default=15.0,
        description="Beyond so much the head follows the eyes (15 to 20°, from memory); null: it never does.",
    )
    breaths_per_min: Annotated[float, Field(ge=2, le=60)] = Field(default=15.0, description="12 to 20, from memory.")

    def _check(self) -> Self:
        if not 0.2 <= self.waits_s[0] <= self.waits_s[1]:
            raise ValueError("waits run from at least 0.2 s upwards")
        return self

    def slower(self, by: float) -> "Life":
        """Life keeps its own pace."""
        return self

    def spoken(self) -> str:
        """Who wrote a move, in a sentence."""
        return "idle life"


class Voice(Form):
    """A jaw that goes with a voice."""

    id: Identifier
    kind: Literal["voice"] = "voice"
    voice: Identifier = Field(description="The channel that sounds.")
    jaw: Identifier = Field(description="The ribbon that opens with it.")
    opens_to: Target | None = Field(
        default=None, description="Where it is at the loudest; left out: the end of its band farther from park."
    )
    shut_at: Target | None = Field(default=None, description="Where it is shut; left out: where it parks.")
    attack_s: Annotated[float, Field(ge=0, le=1)] = Field(
        default=0.01, description="5 to 20 ms: common practice, no source."
    )
    release_s: Annotated[float, Field(ge=0, le=2)] = Field(
        default=0.1, description="80 to 200 ms: common practice, no source."
    )
    threshold_dB: Annotated[float, Field(ge=6, le=80)] = Field(
        default=24.0, description="So far below the loudest it is shut."
    )
    wide_dB: Annotated[float, Field(ge=0, le=60)] = Field(
        default=3.0, description="So far below the loudest it is wide open."
    )
    content_Hz: Annotated[float, Field(ge=0.5, le=12)] = Field(
        default=4.0, description="What is quicker is left out; 3 to 4 Hz on a servo jaw: common practice, no source."
    )
    ahead_s: Annotated[float, Field(ge=0, le=1)] | None = Field(
        default=None,
        description="How much sooner it sets off than it sounds; left out: the servo's lag, so that it looks together.",
    )

    def _check(self) -> Self:
        if self.wide_dB >= self.threshold_dB:
            raise ValueError(
                f"it is shut farther below the loudest than wide open: {self.threshold_dB:g} dB is not beyond {self.wide_dB:g} dB"
            )
        return self

    def slower(self, by: float) -> "Voice":
        """A voice keeps its own pace."""
        return self

    def spoken(self) -> str:
        """Who wrote a move, in a sentence."""
        return "the voice"


Maker = Annotated[Pin | Life | Voice, Field(discriminator="kind")]
