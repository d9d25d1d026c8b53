"""One output by itself: with a board and nothing else on the Rehearse card, and in the order of a calibration on the Limits card."""

from __future__ import annotations

import math

from karakuri.actuators.pulses import PulseMap
from karakuri.devices.states.trying import LEAST_US, MOST_US
from karakuri.model.drive import Drive
from karakuri.model.joint import Joint
from karakuri.model.score_edits import set_channel
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Write

ABLE = ("confirmed", "ready", "live", "trying")
SWEEP_US_PER_S, STEP_US, MIDDLE_US = 30.0, 10.0, 1500.0
NOT_YET = "Join a board on the Rehearse bench and confirm its power first."
RUNS_ON = "A motor that runs, a wheel’s, goes on after Stop at the speed it was sent: “No more pulses” then, or its supply’s switch."
HOLD_CLEAR = (
    "Take the horn off or hold clear: it creeps there from wherever it stands. Stop, or Esc, holds it where it is."
)


def try_items(desk: Desk) -> list[Item]:
    """Servos tried by their output, before a figure exists."""
    board, number = desk.board, desk.trying
    why = "" if board.state in ABLE else "Confirm its power first." if board.joined else "Join a board first."
    trial = board.trial
    here = trial[1] if trial is not None and trial[0] == number else None
    outputs = int(board.news.get("outputs") or 16)

    def to(us: float, pace: float = 100.0) -> None:
        board.try_output(number, min(max(us, LEAST_US), MOST_US), pace)

    items: list[Item] = [
        Head("ht", "One output by itself"),
        Note("nt", f"Needs no figure, one servo at a time, about 10 °/s, 500 to 2500 µs. {HOLD_CLEAR}"),
        Write("look output", f"Output, 0 to {outputs - 1}", Quantity(number, "count"), "count", lambda v: desk.try_this(min(max(round(v), 0), outputs - 1))),
        Do("tm", "Send the middle, 1500 µs", lambda: to(MIDDLE_US), why),
    ]  # fmt: skip
    if here is not None:
        items += [
            Fact("at", "It was sent to", f"{here:.0f}", "µs"),
            Do("tl", "10 µs less", lambda: to(here - STEP_US)),
            Do("tmo", "10 µs more", lambda: to(here + STEP_US)),
            Do("tdn", "Sweep down slowly", lambda: to(LEAST_US, SWEEP_US_PER_S)),
            Do("tup", "Sweep up slowly", lambda: to(MOST_US, SWEEP_US_PER_S)),
            Do("ts", "Stop here", board.stop),
            Do("tr", "No more pulses", board.release),
            *_as_motor(desk, number, here),
        ]
    return items


def _as_motor(desk: Desk, number: int, us: float) -> list[Item]:
    """What is tried may be a motor that runs: where the figure has its ribbon, what was found is written down."""
    motor = next((o for o in desk.board.outputs() if o.runs and o.number == number), None)
    if motor is None:
        return [Note("tw", RUNS_ON, True)]
    channel = desk.figure.score.moved[motor.channel]
    words = (("still_us", "still"), ("ahead_us", "in full ahead"), ("back_us", "in full back"))
    return [
        Do(f"w{field}", f"Write {us:.0f} µs as its {what}", lambda field=field, what=what: desk.edit(lambda: set_channel(desk.figure, channel.id, field, round(us, 1), what)))
        for field, what in words
    ]  # fmt: skip


def order_items(desk: Desk, joint: Joint, drive: Drive, mapped: PulseMap, number: int, write) -> list[Item]:
    """A calibration in its order: power, middle, horn on, ends. `write(which, angle_deg, pulse_us)` writes an end down."""
    board = desk.board
    powered, trial = board.state in ABLE, board.trial
    here = trial[1] if trial is not None and trial[0] == number else None
    why = "" if powered else NOT_YET
    angles, pulses = mapped.three
    items: list[Item] = [
        Head("ho", "In this order"),
        Note("o1", f"1  Power: {'confirmed' if powered else 'not yet'}. {HOLD_CLEAR}"),
        Do("o2", f"2  Send the middle, {pulses[1]:.0f} µs", lambda: board.try_output(number, pulses[1]), why),
        Note("o3", "3  Put the horn on as near to the middle as it goes; which tooth is told below."),
        Note("o4", "4  Ends: sweep outward slowly, stop before anything grinds, write it down."),
    ]
    rises = pulses[-1] > pulses[0]
    for which, end in ((0, joint.ends[0]), (2, joint.ends[1])):
        goal = MOST_US if (which == 2) == rises else LEAST_US
        items.append(Do(f"sweep{which}", f"Sweep: {end}", lambda goal=goal: board.try_output(number, goal, SWEEP_US_PER_S), "" if powered else " "))  # fmt: skip
    if here is None:
        return items
    items += [Fact("at", "It was sent to", f"{here:.0f}", "µs"), Do("halt", "Stop here", board.stop)]
    for which, end in ((0, joint.ends[0]), (2, joint.ends[1])):
        toward = pulses[which] - pulses[1]
        if (here - pulses[1]) * toward > 0:
            stands = math.degrees(angles[1] + (here - pulses[1]) / mapped.us_per_rad)
            items.append(Do(f"end{which}", f"Write {here:.0f} µs as its end: {end}", lambda which=which, stands=stands: write(which, round(stands, 2), round(here, 1))))  # fmt: skip
    items.append(Do("rel", "No more pulses", board.release))
    return items
