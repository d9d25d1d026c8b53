"""Behaviour: what a figure does when, by itself: states, what each plays, and what starts it. Inputs are what it notices with.

To add a trigger or a deed: a class here and in its union, what it means in behaviour/triggers.py or behaviour/deeds.py, its words beside it.
"""

from typing import Annotated, Literal, Self

from karakuri.model.base import Angle_deg, Distance_mm, Duration_s, Identifier, Name, Place, Time_s
from karakuri.model.channel import Level
from karakuri.values.fields import Field
from karakuri.values.value import Form, Value

InputKind = Literal["button", "switch", "knob", "stick", "motion", "beam", "lift", "sound", "receiver"]
ANALOG: frozenset[str] = frozenset({"knob", "stick", "sound", "receiver"})
HANDED: frozenset[str] = frozenset({"knob", "stick", "receiver"})
"""What a hand turns or pushes: it has two ends, and may have a middle."""
SEES: frozenset[str] = frozenset({"motion", "beam"})
Chance = Annotated[float, Field(ge=0, le=1)]
Span_s = tuple[Time_s, Time_s]
Reading = Annotated[float, Field(ge=0, le=3000)]


class Input(Value):
    """Something a figure notices with: on or off, or for a knob, a stick, a sound's level and a receiver 0 to 100 per cent of its way."""

    id: Identifier
    name: Name
    kind: InputKind = "button"
    at_mm: Place | None = Field(default=None, description="Of a sensor: where it sits; left out: at the datum.")
    heading_deg: Angle_deg = Field(
        default=0.0, description="Of a sensor: where it looks, from ahead to the figure's left."
    )
    wide_deg: Annotated[float, Field(ge=1, le=360)] = Field(
        default=90.0, description="How wide it sees; a beam 2 or so."
    )
    reach_mm: Distance_mm = 3000.0
    weight: Annotated[float, Field(ge=0, le=100)] = Field(
        default=1.0, description="How much it counts for where the figure turns to."
    )
    reads: tuple[Reading, Reading] | None = Field(
        default=None,
        description="What it reads at its low and high end: per cent of its supply, of a receiver µs; left out: 0 and 100, of a receiver 1000 and 2000.",
    )
    middle: Reading | None = Field(
        default=None, description="What it reads let go; left out: half way between its ends."
    )
    still_percent: Annotated[float, Field(ge=0, le=40)] = Field(
        default=0.0, description="So near the middle, of its whole way, it counts as in the middle."
    )

    def _check(self) -> Self:
        low, high = self.ends
        if low == high:
            raise ValueError(f"it reads {low:g} at both ends: measure them anew")
        if self.middle is not None and not min(low, high) < self.middle < max(low, high):
            raise ValueError(
                f"its middle lies between {min(low, high):g} and {max(low, high):g}, not at {self.middle:g}"
            )
        return self

    @property
    def ends(self) -> tuple[float, float]:
        """What it reads at its low and high end."""
        return self.reads or ((1000.0, 2000.0) if self.kind == "receiver" else (0.0, 100.0))

    @property
    def springs(self) -> bool:
        """Whether it goes back to its middle when it is let go."""
        return self.kind == "stick" or self.middle is not None


class _On(Form):
    """By an input."""

    input: Identifier


class Pressed(_On):
    """It goes on: pressed, somebody moves, the beam is broken, it is lifted."""

    kind: Literal["pressed"] = "pressed"


class Released(_On):
    """It goes off."""

    kind: Literal["released"] = "released"


class Above(_On):
    """It rises to a level, or is there as the state ahead begins."""

    kind: Literal["above"] = "above"
    level: Level = 50.0


class Below(_On):
    """It falls below a level, or is below as the state ahead begins."""

    kind: Literal["below"] = "below"
    level: Level = 50.0


class Stopped(_On):
    """Somebody whom it saw moves no more: it was the last that saw anybody, and nothing has moved since."""

    kind: Literal["stopped"] = "stopped"
    still_s: Duration_s = 1.5


class After(Form):
    """So long after the state ahead began, at random between the two."""

    kind: Literal["after"] = "after"
    between_s: Span_s = (2.0, 10.0)

    def _check(self) -> Self:
        if self.between_s[1] < self.between_s[0]:
            raise ValueError("a time between two runs from the shorter to the longer")
        return self


class Ended(Form):
    """All that the state ahead plays is over."""

    kind: Literal["ended"] = "ended"


class Cue(Form):
    """Somebody who runs the show says so, by name."""

    kind: Literal["cue"] = "cue"
    cue: Name = "go"


Trigger = Annotated[Pressed | Released | Above | Below | Stopped | After | Ended | Cue, Field(discriminator="kind")]


class Guard(Value):
    """Only while an input is so."""

    input: Identifier
    state: Literal["on", "off", "above", "below"] = "on"
    level: Level = 50.0


class Performs(Form):
    """A score, or a section of it."""

    kind: Literal["score"] = "score"
    score: Identifier
    section: Identifier | None = None
    again: bool = Field(default=False, description="Round and round, until something else starts.")


class Poses(Form):
    """A kept pose, gone to and held."""

    kind: Literal["pose"] = "pose"
    pose: Identifier
    takes_s: Duration_s = 0.8


class Lives(Form):
    """Its life when idle, for ever."""

    kind: Literal["life"] = "life"


class Says(Form):
    """The next line of a list, or one sound."""

    kind: Literal["says"] = "says"
    lines: Identifier | None = None
    sound: Identifier | None = None

    def _check(self) -> Self:
        if (self.lines is None) == (self.sound is None):
            raise ValueError("it says a line of a list, or one sound")
        return self


class Lights(Form):
    """A light to a level."""

    kind: Literal["light"] = "light"
    channel: Identifier
    level: Level = 100.0
    takes_s: Time_s = 0.5


class Parks(Form):
    """All of it to park, lights too."""

    kind: Literal["park"] = "park"


class Steered(Form):
    """Ribbons do what a hand says at knobs and sticks."""

    kind: Literal["steered"] = "steered"


class Attends(Form):
    """It turns to where somebody is, as its sensors have it, eyes and head sharing the turn."""

    kind: Literal["attends"] = "attends"


Deed = Annotated[Performs | Poses | Lives | Says | Lights | Parks | Attends | Steered, Field(discriminator="kind")]


class State(Value):
    """What it does at one time."""

    id: Identifier
    name: Name
    plays: tuple[Deed, ...] = Field(default=(), max_length=20, description="All at once.")
    stays_s: Span_s | None = Field(
        default=None, description="At least so long, at random between the two, before what it plays counts as over."
    )
    priority: Annotated[int, Field(ge=0, le=9)] = Field(
        default=0, description="Only what is as important or more starts while it lasts."
    )
    deaf: bool = Field(default=False, description="Nothing it notices starts anything before it is over.")

    def _check(self) -> Self:
        if self.stays_s is not None and self.stays_s[1] < self.stays_s[0]:
            raise ValueError("a stay between two runs from the shorter to the longer")
        return self


class Start(Value):
    """What starts a state: a trigger, while in one of some states (none named: in any), under guards."""

    id: Identifier
    to: Identifier
    on: Trigger
    while_in: tuple[Identifier, ...] = Field(default=(), max_length=100, description="States; none named: any.")
    only: tuple[Guard, ...] = Field(default=(), max_length=10)
    chance: Chance = 1.0
    cool_s: Time_s = Field(default=0.0, description="Not again before so long is over.")


class Behaviour(Value):
    """All of it. It begins in the first state."""

    states: tuple[State, ...] = Field(default=(), max_length=200)
    starts: tuple[Start, ...] = Field(default=(), max_length=2000)
    inputs: tuple[Input, ...] = Field(default=(), max_length=64)
    seed: int = Field(default=1, ge=0, le=2**31 - 1)
    approach_deg_per_s: Annotated[float, Field(ge=5, le=400)] = Field(
        default=60.0, description="How fast it goes to where what it plays begins."
    )

    def _check(self) -> Self:
        for field in ("states", "starts", "inputs"):
            ids = [item.id for item in getattr(self, field)]
            twice = sorted({i for i in ids if ids.count(i) > 1})
            if twice:
                raise ValueError(f"{field}: the id '{twice[0]}' is used twice")
        known, inputs = {state.id for state in self.states}, {each.id: each for each in self.inputs}
        faults = []
        for start in self.starts:
            for ident in (start.to, *start.while_in):
                if ident not in known:
                    faults.append(f"starts.{start.id}: there is no state '{ident}'")
            wanted: tuple[str | None, ...] = (getattr(start.on, "input", None), *(guard.input for guard in start.only))
            for by in wanted:
                if by is not None and by not in inputs:
                    faults.append(f"starts.{start.id}: there is no input '{by}'")
        if faults:
            raise ValueError("; ".join(faults))
        return self

    def state(self, state_id: str) -> State:
        """The state of that id. Raises KeyError."""
        for state in self.states:
            if state.id == state_id:
                return state
        raise KeyError(state_id)

    def input(self, input_id: str) -> Input:
        """The input of that id. Raises KeyError."""
        for each in self.inputs:
            if each.id == input_id:
                return each
        raise KeyError(input_id)
