"""The score: what moves, shines and sounds when. Poses are kept beside it; makers write into it."""

from typing import Annotated, Self

from karakuri.model.base import Identifier, Name, Time_s
from karakuri.model.channel import Channel, MovedChannel, SoundChannel
from karakuri.model.makers import Life, Maker, Pin
from karakuri.model.moves import Target
from karakuri.values.fields import Field
from karakuri.values.value import Value

LONGEST_S = 24 * 3600.0
Length_s = Annotated[float, Field(ge=0.02, le=LONGEST_S)]


class Pose(Value):
    """A kept pose: joints and where they stand; joints not named stay where they are."""

    id: Identifier
    name: Name
    places: tuple[tuple[Identifier, Target], ...] = Field(
        default=(), max_length=256, description="Joint and degrees (mm for a slide)."
    )

    def _check(self) -> Self:
        named = [joint for joint, _ in self.places]
        if len(set(named)) != len(named):
            raise ValueError("a joint is named twice")
        return self

    def place_of(self, channel: MovedChannel) -> float | None:
        """Where it has a ribbon, in that one's own unit: by the first of its joints that it names; None where it names none."""
        kept = dict(self.places)
        return next((kept[joint] for joint in channel.joints if joint in kept), None)


class Section(Value):
    """A named stretch of the score."""

    id: Identifier
    name: Name
    from_s: Time_s
    to_s: Time_s

    def _check(self) -> Self:
        if self.to_s <= self.from_s:
            raise ValueError(f"a section runs forwards, not from {self.from_s:g} to {self.to_s:g} s")
        return self


class Score(Value):
    """Everything that moves, and when."""

    id: Identifier = "score"
    name: Name = "Untitled score"
    length_s: Length_s = 10.0
    loops: bool = True
    channels: tuple[Channel, ...] = Field(default=(), max_length=256)
    makers: tuple[Maker, ...] = Field(
        default=(), max_length=10_000, description="What wrote moves, and from what settings."
    )
    sections: tuple[Section, ...] = Field(default=(), max_length=1000)

    def _check(self) -> Self:
        for field in ("channels", "makers", "sections"):
            ids = [item.id for item in getattr(self, field)]
            twice = sorted({i for i in ids if ids.count(i) > 1}) if len(set(ids)) < len(ids) else ()
            if twice:
                raise ValueError(f"{field}: the id '{twice[0]}' is used twice")
        moved = [joint for channel in self.channels for joint in channel.joints]
        twice = sorted({j for j in moved if moved.count(j) > 1})
        if twice:
            raise ValueError(f"channels: joint '{twice[0]}' is moved by two channels")
        return self

    @property
    def moved(self) -> tuple[MovedChannel, ...]:
        """The channels with moves, in their order: those that have a track, frames and an output."""
        return tuple(channel for channel in self.channels if not isinstance(channel, SoundChannel))

    @property
    def moves_something(self) -> bool:
        """Whether there is a move at all."""
        return any(len(channel.moves) for channel in self.moved)

    @property
    def voices(self) -> tuple[SoundChannel, ...]:
        """The channels that sound."""
        return tuple(channel for channel in self.channels if isinstance(channel, SoundChannel))

    @property
    def pins(self) -> tuple[Pin, ...]:
        """The poses pinned to a time, in its order."""
        return tuple(sorted((maker for maker in self.makers if isinstance(maker, Pin)), key=lambda pin: pin.arrives_s))

    @property
    def life(self) -> Life:
        """What it does when idle; as usual where nothing is said of it."""
        return next((maker for maker in self.makers if isinstance(maker, Life)), Life())

    def channel(self, channel_id: str) -> Channel:
        """The channel of that id. Raises KeyError."""
        for channel in self.channels:
            if channel.id == channel_id:
                return channel
        raise KeyError(channel_id)

    def moving(self, channel_id: str) -> MovedChannel:
        """The channel of that id, one with moves. Raises KeyError."""
        for channel in self.moved:
            if channel.id == channel_id:
                return channel
        raise KeyError(channel_id)

    def channel_of(self, joint_id: str) -> MovedChannel | None:
        """The channel that moves a joint, or None."""
        return next((channel for channel in self.moved if joint_id in channel.joints), None)

    def maker(self, maker_id: str) -> Maker | None:
        """The maker of that id, or None: of what was written by hand there is none."""
        return next((maker for maker in self.makers if maker.id == maker_id), None)
