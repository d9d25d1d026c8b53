"""Who makes the player's pulses: one line a kind. Its C++ is hardware_ID.cpp, built by `make ID`."""

from __future__ import annotations

from dataclasses import dataclass

PINS = ("4", "5", "6", "7", "8", "9", "10", "12")


@dataclass(frozen=True)
class PulseKind:
    """`code_bytes` and `ram_bytes` of the program without tables, upper bounds of what avr-g++ 5.4 to 14 make of it with -Os (a test
    compiles and compares); servos on the first `outputs` outputs only; `where` says where output {0} is wired."""

    id: str
    name: str
    code_bytes: int
    ram_bytes: int
    outputs: int
    pins: tuple[str, ...]
    where: str

    def place(self, output: int) -> str:
        """Where a servo's output is wired."""
        return self.where.format(self.pins[output] if self.pins else output)


KINDS = (
    PulseKind("timer", "own timer", 8000, 70, len(PINS), PINS, "pin {0}"),
    PulseKind("i2c", "16-channel generator", 7500, 70, 16, (), "channel {0} of the generator"),
)


def pulse_kind(ident: str) -> PulseKind:
    """The kind of that id. Raises StopIteration."""
    return next(kind for kind in KINDS if kind.id == ident)
