"""Servos that share joints, as the player works out where each stands: what lies between joints and servo, as tables of numbers for the same closed
forms."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.linkages.ball import BallEnds
from karakuri.bodies.linkages.bevel import BevelWheel
from karakuri.bodies.linkages.shared import Own
from karakuri.errors import Fault
from karakuri.exchange.outputs import Mixed, Output
from karakuri.frozen import Frozen

STEP_BYTES, LINK_BYTES, CODE_BYTES = 38, 75, 2900
"""Of one joint, of one servo's numbers, and of the program that reads them: upper bounds (a test compiles and compares)."""
BALL, SUM = 0, 1
NOWHERE = 255


class StepRow(Frozen):
    """One joint: its channel or 255, whether it slides, gain and offset from the channel's place (rad for rad) to the joint's, axis, pivot m, and +1 or −1 for
    where it lies, or what one rad of it adds to a sum."""

    channel: int
    slides: int
    gain: float
    offset: float
    axis: tuple[float, float, float]
    pivot: tuple[float, float, float]
    way: float


class LinkRow(Frozen):
    """One servo: the number of its output's row, its kind, its steps; of a rod with ball ends: ball, shaft, e1, e2 (m and units), horn, rod m, side, begins."""

    output: int
    kind: int
    steps: tuple[StepRow, ...]
    numbers: tuple[float, ...]

    @property
    def flash_bytes(self) -> int:
        """Bytes of its tables."""
        return LINK_BYTES + STEP_BYTES * len(self.steps)


def link_row(number: int, output: Output) -> LinkRow | Fault | None:
    """Of the output in row `number`; None where it goes by one place alone; a fault for what the player cannot work out."""
    mixed = output.mixed
    if mixed is None:
        return None
    drive = mixed.drive
    if isinstance(drive, BallEnds):
        steps = tuple(_step(mixed, each.row, each.slides, each.axis, each.pivot, each.way) for each in drive.path)
        numbers = (*drive.ball, *drive.shaft, *drive.e1, *drive.e2, drive.horn, drive.rod, drive.side, drive.begins)
        return LinkRow(number, BALL, steps, numbers)
    nothing = (0.0, 0.0, 0.0)
    if isinstance(drive, BevelWheel):
        rows = ((drive.carrier, 1.0), (drive.wheel, drive.gain))
        return LinkRow(
            number, SUM, tuple(_step(mixed, row, False, nothing, nothing, way) for row, way in rows), (0.0,) * 16
        )
    assert isinstance(drive, Own)
    return Fault(f"output of {output.name}", "a servo that turns its own joint", "one that reads others")


def _step(
    mixed: Mixed,
    row: int,
    slides: bool,
    axis: tuple[float, float, float],
    pivot: tuple[float, float, float],
    way: float,
) -> StepRow:
    """A joint by the channel that moves it, itself or what it follows; or where it rests."""
    leader = mixed.tied.leader[row]
    gain, offset = (1.0, 0.0) if leader == row else (float(mixed.tied.gain[row]), float(mixed.tied.offset[row]))
    channel = mixed.channels[leader]
    if channel < 0:
        channel, gain, offset = NOWHERE, 0.0, gain * float(mixed.rest[leader]) + offset
    return StepRow(channel, int(slides), gain, offset, axis, pivot, way)


def links_text(links: tuple[LinkRow, ...]) -> list[str]:
    """Their part of score.h; nothing where there are none."""
    if not links:
        return []
    first = np.cumsum([0, *(len(link.steps) for link in links)]).tolist()
    return [
        f"#define LINKS {len(links)}  // servos that share joints",
        "// channel, slides, gain, offset, axis, pivot, way",
        "const Step STEP[] PROGMEM = {",
        *(f"  {{{s.channel}, {s.slides}, {_numbers((s.gain, s.offset))}, {{{_numbers(s.axis)}}}, {{{_numbers(s.pivot)}}}, {_numbers((s.way,))}}},"
          for link in links for s in link.steps),
        "};",
        "",
        "// output, kind, first of its joints, count; ball, shaft, e1, e2, horn, rod, side, begins",
        "const Link LINK[] PROGMEM = {",
        *(f"  {{{link.output}, {link.kind}, {at}, {len(link.steps)}, {_three(link.numbers, 0)}, {_three(link.numbers, 3)}, {_three(link.numbers, 6)}, "
          f"{_three(link.numbers, 9)}, {_numbers(link.numbers[12:])}}}," for link, at in zip(links, first, strict=False)),
        "};",
        "",
    ]  # fmt: skip


def _three(numbers: tuple[float, ...], at: int) -> str:
    return f"{{{_numbers(numbers[at : at + 3])}}}"


def _numbers(values: tuple[float, ...]) -> str:
    return ", ".join(f"{value:.9e}f" for value in values)
