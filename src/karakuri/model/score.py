"""The score: what moves when. One immutable block of columns per channel; an edit replaces one block."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Any, Literal, NamedTuple, Self

from pydantic import FailFast, Field, model_validator

from karakuri.model.base import Duration_s, Identifier, Name, Time_s, Value
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED, ProfileKind

LONGEST_S = 24 * 3600.0
MOST_MOVES, LEAST_MOVE_S = 200_000, 1e-4
Target = Annotated[float, Field(ge=-20_000, le=20_000)]
MadeBy = Annotated[str, Field(max_length=60)]


class Row(NamedTuple):
    """One move: s, s, degrees (mm for a slide, percent for a light), profile, its number, who made it."""

    departs: float
    takes: float
    target: float
    profile: ProfileKind = "minimum jerk"
    shape: float = 0.0
    made_by: str = ""


class Moves(Value):
    """The moves of one channel as columns of equal length, in order of departure."""

    departs_s: Annotated[tuple[Time_s, ...], FailFast()] = Field((), max_length=MOST_MOVES)
    takes_s: Annotated[tuple[Time_s, ...], FailFast()] = ()
    target: Annotated[tuple[Target, ...], FailFast()] = Field(
        (), description="Degrees; mm for a sliding joint; percent for a light."
    )
    profile: Annotated[tuple[ProfileKind, ...], FailFast()] = Field(
        (), description="Left out: minimum jerk throughout."
    )
    shape: Annotated[tuple[Time_s, ...], FailFast()] = Field(
        (), description="Ramp share of a trapezoid, time constant in s of following, else 0. Left out: as usual."
    )
    made_by: Annotated[tuple[MadeBy, ...], FailFast()] = Field(
        (), description="A pin's id or 'idle'; empty or left out: by hand."
    )

    @model_validator(mode="before")
    @classmethod
    def _fill(cls, data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        data = {key: tuple(value) if isinstance(value, list) else value for key, value in data.items()}
        n = len(data["departs_s"]) if isinstance(data.get("departs_s"), tuple) else 0
        profile = data.get("profile") or ("minimum jerk",) * n
        if not isinstance(profile, tuple):
            return data
        usual = tuple(DEFAULT_SHAPE.get(kind, 0.0) if isinstance(kind, str) else 0.0 for kind in profile)
        return data | {
            "profile": profile,
            "shape": data.get("shape") or usual,
            "made_by": data.get("made_by") or ("",) * n,
        }

    @model_validator(mode="after")
    def _check(self) -> Self:
        n = len(self.departs_s)
        for name in ("takes_s", "target", "profile", "shape", "made_by"):
            if len(getattr(self, name)) != n:
                raise ValueError(f"departs_s has {n} entries, {name} has {len(getattr(self, name))}")
        for k, (a, b) in enumerate(pairwise(self.departs_s)):
            if b < a:
                raise ValueError(f"times run forwards: move {k + 2} departs at {b:g} s, before {a:g} s")
        short = next((k for k, takes in enumerate(self.takes_s) if 0 < takes < LEAST_MOVE_S), None)
        if short is not None:
            raise ValueError(
                f"a move takes 0 s or at least {LEAST_MOVE_S:g} s, move {short + 1} takes {self.takes_s[short]:g} s"
            )
        for kind, shape in zip(self.profile, self.shape, strict=True):
            own = DESCRIBED[kind].shape
            if own is not None and not own.least <= shape <= own.most:
                raise ValueError(f"{own.bounds}, not {shape:g}")
        return self

    def __len__(self) -> int:
        return len(self.departs_s)

    def row(self, k: int) -> Row:
        """One move. Raises IndexError."""
        return Row(self.departs_s[k], self.takes_s[k], self.target[k], self.profile[k], self.shape[k], self.made_by[k])

    def rows(self) -> tuple[Row, ...]:
        """All moves, as rows."""
        return tuple(
            map(
                Row._make,
                zip(self.departs_s, self.takes_s, self.target, self.profile, self.shape, self.made_by, strict=True),
            )
        )


def moves_of(rows: list[Row] | tuple[Row, ...]) -> Moves:
    """A block from rows in any order; equal departures keep their order."""
    ordered = sorted(rows, key=lambda row: row.departs)
    columns: tuple[tuple[Any, ...], ...] = tuple(zip(*ordered, strict=True)) if ordered else ((),) * 6
    return Moves(
        departs_s=columns[0],
        takes_s=columns[1],
        target=columns[2],
        profile=columns[3],
        shape=columns[4],
        made_by=columns[5],
    )


class Channel(Value):
    """A row of the score: joints that move together, or a light."""

    id: Identifier
    name: Name
    kind: Literal["joint", "light"] = "joint"
    joints: tuple[Identifier, ...] = Field(
        (), max_length=256, description="Joints that move together; a light has none."
    )
    park: Target = Field(0.0, description="Where it starts from and ends at; unit as the targets.")
    moves: Moves = Field(default_factory=Moves)

    @model_validator(mode="after")
    def _check(self) -> Self:
        if (self.kind == "joint") != bool(self.joints):
            raise ValueError("a joint channel names the joints it moves, a light names none")
        if self.kind == "light":
            for level in (self.park, *self.moves.target):
                if not 0 <= level <= 100:
                    raise ValueError(f"a light's level lies between 0 and 100 %, not at {level:g}")
        return self


class Pose(Value):
    """A kept pose: joints and where they stand; joints not named stay where they are."""

    id: Identifier
    name: Name
    places: tuple[tuple[Identifier, Target], ...] = Field(
        (), max_length=256, description="Joint and degrees (mm for a slide)."
    )

    @model_validator(mode="after")
    def _check(self) -> Self:
        named = [joint for joint, _ in self.places]
        if len(set(named)) != len(named):
            raise ValueError("a joint is named twice")
        return self


class Pin(Value):
    """A pose pinned to a time; its moves stand in the channels, marked with its id."""

    id: Identifier
    pose: Identifier
    arrives_s: Time_s
    takes_s: Duration_s = 0.6
    manner: Literal["together", "in order"] = Field(
        "together", description="In order: eyes, then lids, ears and jaw, then head, then body, each `gap_s` later."
    )
    gap_s: Time_s = 0.08


class Section(Value):
    """A named stretch of the score."""

    id: Identifier
    name: Name
    from_s: Time_s
    to_s: Time_s

    @model_validator(mode="after")
    def _check(self) -> Self:
        if self.to_s <= self.from_s:
            raise ValueError(f"a section runs forwards, not from {self.from_s:g} to {self.to_s:g} s")
        return self


class Idle(Value):
    """Blinks and glances at random waits, from a seed: written as ordinary moves marked 'idle'."""

    seed: int = Field(1, ge=0, le=2**31 - 1)
    waits_s: tuple[Time_s, Time_s] = Field(
        (2.0, 10.0), description="Shortest and longest wait; common practice, no source."
    )

    @model_validator(mode="after")
    def _check(self) -> Self:
        if not 0.2 <= self.waits_s[0] <= self.waits_s[1]:
            raise ValueError("waits run from at least 0.2 s upwards")
        return self


class Score(Value):
    """Everything that moves, and when."""

    name: Name = "Untitled score"
    length_s: float = Field(10.0, ge=0.02, le=LONGEST_S)
    loops: bool = True
    channels: tuple[Channel, ...] = Field((), max_length=256)
    pins: tuple[Pin, ...] = Field((), max_length=10000)
    sections: tuple[Section, ...] = Field((), max_length=1000)
    idle: Idle = Field(default_factory=Idle)

    @model_validator(mode="after")
    def _check(self) -> Self:
        for field in ("channels", "pins", "sections"):
            ids = [item.id for item in getattr(self, field)]
            twice = sorted({i for i in ids if ids.count(i) > 1})
            if twice:
                raise ValueError(f"{field}: the id '{twice[0]}' is used twice")
        moved = [joint for channel in self.channels for joint in channel.joints]
        twice = sorted({j for j in moved if moved.count(j) > 1})
        if twice:
            raise ValueError(f"channels: joint '{twice[0]}' is moved by two channels")
        return self

    def channel(self, channel_id: str) -> Channel:
        """The channel of that id. Raises KeyError."""
        for channel in self.channels:
            if channel.id == channel_id:
                return channel
        raise KeyError(channel_id)

    def channel_of(self, joint_id: str) -> Channel | None:
        """The channel that moves a joint, or None."""
        return next((channel for channel in self.channels if joint_id in channel.joints), None)
