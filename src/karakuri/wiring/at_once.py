"""What one controller has to do at once: servo pulses of its own timer, strings of lamps that shut interrupts, working out the next frame.

A frame is 20 ms. Pulses come one after the other from its start; a string of lamps goes out after the last of them, in what is left. A string sends 24 bits a lamp
at 800 kbit/s: 30 µs, and 34 µs as the player of an 8-bit controller sends it, measured in simulation. Sent anywhere else, a pulse whose end falls into it is late by as
long as it takes. Other boards send it by SPI, no interrupt shut, in what the working out and the bus leave of a frame.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.actuators.pulses import own_pulses, pulse_map
from karakuri.actuators.through import travelled
from karakuri.bodies.linkages import shares
from karakuri.catalogue.boards import BoardKind
from karakuri.frozen import Frozen
from karakuri.model.board import Board, Plug
from karakuri.model.channel import RunChannel
from karakuri.model.figure import Figure
from karakuri.model.leads import called
from karakuri.sizing.followed import as_driven
from karakuri.wiring.following import follows
from karakuri.wiring.table import kind_of

FRAME_S, LAMP_S, RESET_S, SPARE_S = 0.020, 34e-6, 300e-6, 300e-6
WORKS_S, EACH_S, FAST = 0.008, 0.00045, 2.0
"""Kept for working out the next frame, and for each ribbon and each output where those are many: from above; of nine and nine, and of servos that share joints, it
takes less than 4.4 ms in simulation at 16 MHz. A 32-bit controller is at least so much faster: from its clock, not measured."""
TOLD_S, HEARS_S = 0.002, 0.0022
"""Of a controller that follows: for taking over what it is told, from above, and what it keeps free for being told, a little more than that takes."""
BUS_S = 0.0016
"""A frame to a generator: 66 bytes of nine bits at 400 kHz."""


class Late(Frozen):
    """By how much a pulse could be late, s, and what that is at its servo, rad."""

    plug: Plug
    name: str
    late: float
    turns: float


class AtOnce(Frozen):
    """Of one controller: the widest pulses of its servos, within their soft limits, and of its motors together, s, and how many these are; how long its strings take, s, and their names; how much of a frame is left for them, s;
    how late the pulse of each servo would be, were they sent whenever they come; and how long working out a frame and telling generators on its bus takes, s."""

    board: Board
    pulses: float
    count: int
    strings: float
    names: tuple[str, ...]
    left: float
    late: tuple[Late, ...]
    busy: float


def lamp_s(kind: BoardKind) -> float:
    """How long a lamp takes a board to send, s."""
    return LAMP_S if kind.string is None else kind.string.lamp_us * 1e-6


def string_s(lamps: int, kind: BoardKind) -> float:
    """How long a string of so many lamps takes a board to send, s, with the pause that makes them take it over."""
    return lamps * lamp_s(kind) + RESET_S if lamps else 0.0


def at_once(figure: Figure, board: Board) -> AtOnce:
    """What a controller has to do in each frame. All times in s."""
    here, kind = [plug for plug in figure.plugs if plug.board == board.id], kind_of(board)
    strings = [plug for plug in here if plug.of == "light" and plug.lamps]
    total = sum(string_s(plug.lamps, kind) for plug in strings)
    widths, late = [], []
    for plug in here:
        if plug.of == "run":
            motor = figure.ribbons[plug.item]
            assert isinstance(motor, RunChannel)
            widths.append(max(motor.ahead_us, motor.back_us) * 1e-6)
        if plug.of != "drive":
            continue
        drive = next(each for each in figure.drives if each.id == plug.item)
        if drive.actuator.stepper is not None:
            continue
        joint = figure.joint(drive.joint)
        if shares(figure, drive) == (drive.joint,):
            driven = as_driven(figure, joint)
            mapped, ends = pulse_map(figure, driven, drive), tuple(end * driven.measure.si for end in driven.range)
        else:
            mapped, ends = own_pulses(figure, drive), travelled(figure, drive)
        widths.append(float(mapped.pulse(np.array(ends)).max()) * 1e-6)  # the player keeps to the soft limits
        late.append(Late(plug, called(figure, plug), total, total * 1e6 / max(mapped.least_us_per_rad, 1e-9)))
    buses = BUS_S * sum(plug.of == "board" for plug in here)
    works = max(WORKS_S, EACH_S * (len(figure.score.moved) + len(widths) + len(strings))) / (FAST if kind.core else 1.0)
    if follows(figure, board):
        works, buses = TOLD_S, HEARS_S
    taken = max(sum(widths), works) + buses
    return AtOnce(
        board,
        math.fsum(widths),
        len(widths),
        total,
        tuple(called(figure, plug) for plug in strings),
        max(0.0, FRAME_S - taken - SPARE_S),
        tuple(late),
        works + buses,
    )


def controllers_of(figure: Figure) -> tuple[Board, ...]:
    """The boards that run a program."""
    return tuple(board for board in figure.boards if kind_of(board).what == "controller")
