"""Who makes the player's pulses: one line a kind. Its C++ is hardware_ID.cpp, built by `make ID`; which output is which pin is in pins.py."""

from __future__ import annotations

from karakuri.frozen import Frozen


class PulseKind(Frozen):
    """`code_bytes` and `ram_bytes` of the program without tables, and `servo_bytes` of RAM for each servo, from above by what avr-g++ makes of it with -Os (a
    test compiles and compares, to a tenth); where nothing is plugged in yet, servos on the first `outputs` outputs only."""

    id: str
    name: str
    code_bytes: int
    ram_bytes: int
    outputs: int
    servo_bytes: int = 0


KINDS = (
    PulseKind("timer", "own timer", 7740, 10, 8, 10),
    PulseKind("i2c", "16-channel generator", 7620, 40, 16),
)


CORE = PulseKind("core", "16-channel generator", 170_000, 22_000, 16)
"""On a board that is reached by its editor's core alone; most of it is that core: from memory, no check."""


def pulse_kind(ident: str) -> PulseKind:
    """The kind of that id. Raises StopIteration."""
    return next(kind for kind in KINDS if kind.id == ident)
