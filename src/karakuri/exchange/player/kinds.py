"""Who makes the player's pulses: one line a kind. Its C++ is hardware_ID.cpp, built by `make ID`; which output is which pin is in pins.py."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PulseKind:
    """`code_bytes` and `ram_bytes` of the program without tables, upper bounds of what avr-g++ 5.4 to 14 make of it with -Os (a test
    compiles and compares); where nothing is plugged in yet, servos on the first `outputs` outputs only."""

    id: str
    name: str
    code_bytes: int
    ram_bytes: int
    outputs: int


KINDS = (
    PulseKind("timer", "own timer", 8000, 80, 8),
    PulseKind("i2c", "16-channel generator", 7500, 70, 16),
)


def pulse_kind(ident: str) -> PulseKind:
    """The kind of that id. Raises StopIteration."""
    return next(kind for kind in KINDS if kind.id == ident)
