"""By hand: how knobs, sticks, keys and a receiver's channels drive ribbons. The inputs themselves stand with the behaviour's.

To add a way of driving: a grip here and in `Grip`, what it asks of ribbons in behaviour/hand/, its items on the card.
"""

from collections.abc import Iterable
from typing import Annotated, Literal, Self

from karakuri.model.base import Angle_deg, Identifier, Name
from karakuri.model.moves import Target
from karakuri.values.fields import Field
from karakuri.values.value import Form, Value

Smooth_ms = Annotated[float, Field(ge=0, le=2000)]
Pace = Annotated[float, Field(ge=1, le=1000)]
Sensitivity = Annotated[float, Field(ge=1, le=100)]
Ends = tuple[Target, Target]
MOST_GRIPS = 100


class _Grip(Form):
    """One thing a hand does."""

    id: Identifier
    name: Name
    smooth_ms: Smooth_ms = Field(
        default=120.0, description="How far behind the hand it stays, so that it does not shake."
    )

    @property
    def inputs(self) -> tuple[str, ...]:
        """The inputs it needs."""
        return ()

    @property
    def channels(self) -> tuple[str, ...]:
        """The ribbons it names."""
        return ()


def _turned(to: Ends | None) -> bool:
    return to is not None and to[0] > to[1]


class Follows(_Grip):
    """A ribbon goes where an input stands: a knob from end to end, a stick from where the ribbon parks either way."""

    kind: Literal["follows"] = "follows"
    input: Identifier
    channel: Identifier
    to: Ends | None = Field(
        default=None, description="Where it is at the input's low and high end; left out: its whole range."
    )

    @property
    def turned(self) -> bool:
        """Whether its way is the other way round."""
        return _turned(self.to)

    @property
    def inputs(self) -> tuple[str, ...]:
        """One."""
        return (self.input,)

    @property
    def channels(self) -> tuple[str, ...]:
        """One."""
        return (self.channel,)


class Keyed(_Grip):
    """A ribbon goes up while one key is pressed, and down while the other is."""

    kind: Literal["keyed"] = "keyed"
    up: Identifier
    down: Identifier
    channel: Identifier
    pace: Pace = Field(default=40.0, description="So much a second, in the ribbon's own unit.")
    to: Ends | None = Field(default=None, description="Between which places; left out: its whole range.")

    @property
    def turned(self) -> bool:
        """Whether its way is the other way round."""
        return _turned(self.to)

    @property
    def inputs(self) -> tuple[str, ...]:
        """Both keys."""
        return (self.up, self.down)

    @property
    def channels(self) -> tuple[str, ...]:
        """One."""
        return (self.channel,)


class PushPull(_Grip):
    """Two ribbons on one stick: one way moves both the same way, the other way one against the other."""

    kind: Literal["push pull"] = "push pull"
    together: Identifier
    against: Identifier
    first: Identifier
    second: Identifier

    @property
    def inputs(self) -> tuple[str, ...]:
        """Both ways of the stick."""
        return (self.together, self.against)

    @property
    def channels(self) -> tuple[str, ...]:
        """Both."""
        return (self.first, self.second)


class Wheels(_Grip):
    """A wheel left and one right: the stick ahead and to the side. What is asked beyond a wheel's fastest slows both, so that it turns as asked."""

    kind: Literal["wheels"] = "wheels"
    ahead: Identifier
    turn: Identifier
    left: Identifier
    right: Identifier
    mirrored: bool = Field(
        default=True, description="The right one sits the other way round: it runs backwards to go ahead."
    )

    @property
    def inputs(self) -> tuple[str, ...]:
        """Both ways of the stick."""
        return (self.ahead, self.turn)

    @property
    def channels(self) -> tuple[str, ...]:
        """Both wheels."""
        return (self.left, self.right)


class Towards(Value):
    """A kept pose, and where on the stick it lies."""

    pose: Identifier
    towards_deg: Angle_deg = Field(default=0.0, description="From the stick pushed ahead, to its right.")


class Expressions(_Grip):
    """Kept poses around a stick: let go it is at park, pushed towards a pose it takes that, between two something of both."""

    kind: Literal["expressions"] = "expressions"
    ahead: Identifier
    across: Identifier
    faces: tuple[Towards, ...] = Field(default=(), max_length=16)

    @property
    def inputs(self) -> tuple[str, ...]:
        """Both ways of the stick."""
        return (self.ahead, self.across)


Grip = Annotated[Follows | Keyed | PushPull | Wheels | Expressions, Field(discriminator="kind")]


class Steering(Value):
    """All that a hand does."""

    grips: tuple[Grip, ...] = Field(default=(), max_length=MOST_GRIPS)
    sensitivities: tuple[Sensitivity, Sensitivity, Sensitivity] = Field(
        default=(35.0, 65.0, 100.0),
        description="Of the whole way, per cent: so far a stick pushed to its end goes, fine, middle and full.",
    )
    sensitivity_by: Identifier | None = Field(
        default=None, description="The input that chooses: its lower third fine, its upper full."
    )
    held_by: Identifier | None = Field(
        default=None, description="The dead man's switch: nothing moves unless it is held."
    )
    let_go: Literal["holds", "parks"] = Field(default="holds", description="What it does when that is let go.")
    pace: Pace = Field(default=120.0, description="Nothing goes faster: so much a second, in the ribbon's own unit.")
    within: Annotated[float, Field(ge=0.05, le=20)] = Field(
        default=1.0, description="What is recorded is thinned to moves within so much, in the ribbon's own unit."
    )

    def _check(self) -> Self:
        ids = [grip.id for grip in self.grips]
        twice = sorted({i for i in ids if ids.count(i) > 1})
        if twice:
            raise ValueError(f"grips: the id '{twice[0]}' is used twice")
        led = [channel for grip in self.grips for channel in grip.channels]
        shared = sorted({c for c in led if led.count(c) > 1})
        if shared:
            raise ValueError(f"grips: the ribbon '{shared[0]}' is moved by two of them, and it follows one hand")
        if list(self.sensitivities) != sorted(self.sensitivities):
            raise ValueError("sensitivities: they grow from fine to full")
        return self

    def grip(self, grip_id: str) -> Grip:
        """The grip of that id. Raises KeyError."""
        for grip in self.grips:
            if grip.id == grip_id:
                return grip
        raise KeyError(grip_id)

    @property
    def inputs(self) -> frozenset[str]:
        """Every input it needs."""
        extra = [ident for ident in (self.sensitivity_by, self.held_by) if ident is not None]
        return frozenset([*(ident for grip in self.grips for ident in grip.inputs), *extra])


def dangling(steering: Steering | None, inputs: set[str], channels: set[str], poses: set[str]) -> Iterable[str]:
    """What it names and nobody knows."""
    if steering is None:
        return
    for grip in steering.grips:
        where = f"steering.grips.{grip.id}"
        yield from (f"{where}: there is no input '{ident}'" for ident in grip.inputs if ident not in inputs)
        yield from (f"{where}: there is no ribbon '{ident}'" for ident in grip.channels if ident not in channels)
        if isinstance(grip, Expressions):
            yield from (f"{where}: there is no pose '{face.pose}'" for face in grip.faces if face.pose not in poses)
    for field in ("sensitivity_by", "held_by"):
        ident = getattr(steering, field)
        if ident is not None and ident not in inputs:
            yield f"steering.{field}: there is no input '{ident}'"
