"""The leads of what is plugged into a board, and what each wants of its pin: one table. Colours are common practice, no source; yours may differ."""

from __future__ import annotations

from typing import Literal

from karakuri.frozen import Frozen
from karakuri.model.board import CONTROLLERS, Plug
from karakuri.model.figure import Figure

Ability = Literal["pulse", "dim", "digital", "analog", "data", "clock", "send", "receive"]
Feed = Literal["servo plus", "logic plus", "minus"]
ABILITY_WORDS: dict[Ability, str] = {
    "pulse": "servo pulses", "dim": "a dimmed light", "digital": "on and off", "analog": "a level", "data": "bus data", "clock": "the bus clock",
    "send": "serial words", "receive": "serial words it gets",
}  # fmt: skip


class Lead(Frozen):
    """One wire of a thing: its id, what it wants of a pin, or of what feeds it, and its colour."""

    id: str
    wants: Ability | Feed
    colour: str

    @property
    def signal(self) -> bool:
        """Whether it goes to a pin."""
        return self.wants in ABILITY_WORDS


MINUS, LOGIC, SERVO = (
    Lead("minus", "minus", "black"),
    Lead("plus", "logic plus", "red"),
    Lead("plus", "servo plus", "red"),
)
LEADS: dict[str, tuple[Lead, ...]] = {
    "servo": (Lead("signal", "pulse", "white"), SERVO, MINUS),
    "stepper": (Lead("step", "digital", "white"), Lead("way", "digital", "yellow"), MINUS),
    "light": (Lead("signal", "dim", "white"), SERVO, MINUS),
    "light straight": (Lead("signal", "dim", "white"), MINUS),
    "light string": (Lead("signal", "digital", "green"), SERVO, MINUS),
    "run": (
        Lead("signal", "pulse", "white"),
        MINUS,
    ),  # its controller has a supply of its own: a plus of its plug stays out
    "voice": (Lead("words", "send", "green"), Lead("busy", "digital", "yellow"), SERVO, MINUS),
    "button": (Lead("signal", "digital", "white"), MINUS),
    "sensor": (Lead("signal", "digital", "white"), LOGIC, MINUS),
    "level": (Lead("signal", "analog", "white"), LOGIC, MINUS),
    "follows": (Lead("data", "data", "blue"), Lead("clock", "clock", "yellow"), MINUS),  # fed by itself
    "on the bus": (Lead("data", "data", "blue"), Lead("clock", "clock", "yellow"), LOGIC, MINUS),
}
OF_INPUT = {
    "button": "button", "switch": "button", "lift": "button", "motion": "sensor", "beam": "sensor", "receiver": "sensor", "knob": "level", "stick": "level", "sound": "level",
}  # fmt: skip


def leads_of(figure: Figure, plug: Plug) -> tuple[Lead, ...]:
    """The leads of what a plug plugs in, its signals first. Raises LookupError where that is gone."""
    if plug.of == "drive":
        drive = next((each for each in figure.drives if each.id == plug.item), None)
        if drive is None:
            raise KeyError(plug.item)
        return LEADS["servo" if drive.actuator.stepper is None else "stepper"]
    if plug.of == "light":
        return LEADS["light string" if plug.lamps else "light straight" if plug.straight else "light"]
    if plug.of == "run":
        return LEADS["run"]
    if plug.of == "input":
        assert figure.behaviour is not None
        return LEADS[OF_INPUT[figure.behaviour.input(plug.item).kind]]
    if plug.of == "board" and next(each.kind for each in figure.boards if each.id == plug.item) in CONTROLLERS:
        return LEADS["follows"]
    return LEADS["voice" if plug.of == "voice" else "on the bus"]


def called(figure: Figure, plug: Plug) -> str:
    """What is plugged in, as it is called."""
    if plug.of == "drive":
        drive = next(each for each in figure.drives if each.id == plug.item)
        what = "servo" if drive.actuator.stepper is None else "stepper"
        return f"{what} of {figure.joint(drive.joint).name}"
    if plug.of == "input" and figure.behaviour is not None:
        return figure.behaviour.input(plug.item).name
    if plug.of == "board":
        return next(each.name for each in figure.boards if each.id == plug.item)
    return next(c.name for score in figure.scores for c in score.channels if c.id == plug.item)
