"""The channels of a score: what moves together, what shines, what runs, what sounds. One class a kind, each with its unit, its band and its words.

To add a kind: a class here and in `Channel`, how its row is painted in workbench/benches, what becomes of it in exchange/outputs.
"""

from typing import Annotated, Any, Literal, Protocol, Self

from karakuri.model.base import Identifier, Name, Time_s
from karakuri.model.joint import Joint
from karakuri.model.measures import LIGHT, LOUD, RUN, Measure
from karakuri.model.moves import Moves, Target
from karakuri.values.fields import Field
from karakuri.values.value import Form, Value

Level = Annotated[float, Field(ge=0, le=100)]
Pulse_us = Annotated[float, Field(ge=500, le=2500)]


class Joints(Protocol):
    """Whoever knows joints by id: a figure."""

    def joint(self, joint_id: str) -> Joint:
        """The joint of that id. Raises KeyError."""


class JointChannel(Value):
    """Joints that move together."""

    id: Identifier
    name: Name
    kind: Literal["joint"] = "joint"
    joints: tuple[Identifier, ...] = Field(
        default=(), max_length=256, description="Joints that move together; a light has none."
    )
    park: Target = Field(default=0.0, description="Where it starts from and ends at; unit as the targets.")
    moves: Moves = Field(default_factory=Moves)

    def _check(self) -> Self:
        if not self.joints:
            raise ValueError("a joint channel names the joints it moves, a light names none")
        return self

    @property
    def leads(self) -> str | None:
        """The joint whose words and colour it has."""
        return self.joints[0]

    @property
    def runs(self) -> bool:
        """Whether where it stands is a speed: a joint’s place is not."""
        return False

    def measure(self, figure: Joints) -> Measure:
        """How its targets are written."""
        return figure.joint(self.joints[0]).measure

    def band(self, figure: Joints) -> tuple[float, float]:
        """Where its targets may lie, in its own unit; of tied joints the narrower."""
        ranges = [figure.joint(ident).range for ident in self.joints]
        return max(r[0] for r in ranges), min(r[1] for r in ranges)

    def ends(self, figure: Joints) -> tuple[str, str]:
        """What its way down and its way up are called."""
        return figure.joint(self.joints[0]).ends

    def told(self, figure: Joints) -> str:
        """What it is, under its name."""
        return "ribbon of " + ", ".join(figure.joint(ident).name for ident in self.joints)


class _Bodiless(Form):
    """What moves no joint."""

    @property
    def joints(self) -> tuple[str, ...]:
        """None."""
        return ()

    @property
    def leads(self) -> str | None:
        """None."""
        return None

    @property
    def runs(self) -> bool:
        """Whether where it stands is a speed."""
        return False

    def band(self, figure: Joints) -> tuple[float, float]:
        """Where its levels may lie, percent."""
        return 0.0, 100.0

    def ends(self, figure: Joints) -> tuple[str, str]:
        """A level has no way to be named by."""
        return "", ""


class LightChannel(_Bodiless):
    """A light and its levels."""

    id: Identifier
    name: Name
    kind: Literal["light"] = "light"
    park: Level = Field(default=0.0, description="Its level at the start and the end, percent.")
    moves: Moves = Field(default_factory=Moves)

    @classmethod
    def _read(cls, data: Any) -> Any:
        if isinstance(data, dict) and data.get("joints") in ((), []):
            return {key: value for key, value in data.items() if key != "joints"}
        if isinstance(data, dict) and "joints" in data:
            raise ValueError("a joint channel names the joints it moves, a light names none")
        return data

    def _check(self) -> Self:
        for level in self.moves.target:
            if not 0 <= level <= 100:
                raise ValueError(f"a light's level lies between 0 and 100 %, not at {level:g}")
        return self

    def measure(self, figure: Joints) -> Measure:
        """How its levels are written."""
        return LIGHT

    def told(self, figure: Joints) -> str:
        """What it is, under its name."""
        return "a light"


class RunChannel(_Bodiless):
    """A motor that runs as fast as it is told, ahead or back: a wheel, a fan. Its controller takes servo pulses. It parks still."""

    id: Identifier
    name: Name
    kind: Literal["run"] = "run"
    still_us: Pulse_us = Field(default=1500.0, description="The pulse at which it stands still, as tried.")
    ahead_us: Pulse_us = Field(default=2000.0, description="The pulse at which it runs ahead in full.")
    back_us: Pulse_us = Field(default=1000.0, description="The pulse at which it runs back in full.")
    moves: Moves = Field(default_factory=Moves)

    def _check(self) -> Self:
        if not min(self.back_us, self.ahead_us) < self.still_us < max(self.back_us, self.ahead_us):
            raise ValueError(
                f"it stands still at a pulse between those of back and ahead, {self.back_us:g} and {self.ahead_us:g} µs, not at {self.still_us:g}"
            )
        for speed in self.moves.target:
            if not -100 <= speed <= 100:
                raise ValueError(f"a motor's speed lies between −100 and 100 %, not at {speed:g}")
        return self

    @property
    def park(self) -> float:
        """It parks still."""
        return 0.0

    @property
    def runs(self) -> bool:
        """Where it stands is a speed."""
        return True

    def band(self, figure: Joints) -> tuple[float, float]:
        """Where its speed may lie, percent of all it has."""
        return -100.0, 100.0

    def ends(self, figure: Joints) -> tuple[str, str]:
        """Which way it runs."""
        return "back", "ahead"

    def measure(self, figure: Joints) -> Measure:
        """How its speed is written."""
        return RUN

    def told(self, figure: Joints) -> str:
        """What it is, under its name."""
        return "a motor that runs"


class Play(Value):
    """A sound that begins at a time."""

    id: Identifier
    sound: Identifier
    at_s: Time_s
    level_percent: Level = Field(default=100.0, description="How loud, of how it was recorded.")
    made_by: str = Field(
        default="", max_length=60, description="The id of the list of lines that put it there; empty: by hand."
    )


class SoundChannel(_Bodiless):
    """A voice: sounds, one after another."""

    id: Identifier
    name: Name
    kind: Literal["sound"] = "sound"
    plays: tuple[Play, ...] = Field(default=(), max_length=2000, description="What sounds when, in order of time.")

    def _check(self) -> Self:
        ids = [play.id for play in self.plays]
        twice = sorted({i for i in ids if ids.count(i) > 1})
        if twice:
            raise ValueError(f"plays: the id '{twice[0]}' is used twice")
        if list(self.plays) != sorted(self.plays, key=lambda play: play.at_s):
            raise ValueError("plays: they stand in order of time")
        return self

    def measure(self, figure: Joints) -> Measure:
        """How its loudness is written."""
        return LOUD

    def told(self, figure: Joints) -> str:
        """What it is, under its name."""
        return "a voice"


MovedChannel = JointChannel | LightChannel | RunChannel
"""What has moves, and so a track, frames and an output."""


def _kind_of(data: Any) -> str:
    kind = data.get("kind", "joint") if isinstance(data, dict) else getattr(data, "kind", "joint")
    return kind if isinstance(kind, str) else "none"


Channel = Annotated[JointChannel | LightChannel | RunChannel | SoundChannel, Field(discriminator=_kind_of)]
"""A file that names no kind means a joint's."""
