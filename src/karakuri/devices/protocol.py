"""The line protocol: one command a line, one answer a line, ASCII, ended by a line feed. docs/protocol.md says it in full.

ID                          BOARD karakuri-line 1 OUTPUTS 16 RATE 50
LIMIT output:low:high:park  OK                (µs; kept on board)
WAKE ms output:us           OK                (sparse pulses for so long: from an unknown place)
SET ms output:us …          OK                (over so many ms; 0 at once)
QUERY                       AT output:us …    (of outputs that are on)
RELEASE output | ALL        OK                (no more pulses)
PARK                        OK                (all to park over 2 s)
anything else               NO reason
of itself:                  IN pin level      (an input changed; 0 to 100)
"""

from __future__ import annotations

import re

from karakuri.errors import Trouble
from karakuri.frozen import Frozen

NAME, VERSION, LEAST_US, MOST_US, LONGEST = "karakuri-line", 1, 200, 3000, 199
SILENCE_S = 0.5


class BoardTrouble(Trouble):
    """A board said what it should not, or nothing."""


class Identity(Frozen):
    """What a board says of itself."""

    outputs: int
    rate_hz: int


def set_line(ms: int, values: list[tuple[int, float]]) -> str:
    """SET of outputs to pulses, µs, over ms."""
    return f"SET {ms} " + " ".join(f"{output}:{round(us)}" for output, us in values)


def set_lines(ms: int, values: list[tuple[int, float]]) -> list[str]:
    """The same on as many lines as their length asks for."""
    out, some = [], list[tuple[int, float]]()
    for pair in values:
        if len(set_line(ms, [*some, pair])) > LONGEST:
            out.append(set_line(ms, some))
            some = []
        some.append(pair)
    return [*out, set_line(ms, some)] if some else out


def limit_line(output: int, low_us: float, high_us: float, park_us: float) -> str:
    """LIMIT of one output; low and high in either order."""
    a, b = sorted((round(low_us), round(high_us)))
    return f"LIMIT {output}:{a}:{b}:{min(max(round(park_us), a), b)}"


def wake_line(ms: int, output: int, us: float) -> str:
    """WAKE of one output."""
    return f"WAKE {ms} {output}:{round(us)}"


def release_line(output: int) -> str:
    """RELEASE of one output."""
    return f"RELEASE {output}"


def read_identity(line: str) -> Identity:
    """The answer to ID. Raises BoardTrouble."""
    match = re.fullmatch(rf"BOARD {NAME} (\d{{1,4}}) OUTPUTS (\d{{1,4}}) RATE (\d{{1,4}})", line.strip())
    if match is None:
        raise BoardTrouble(
            f"The board was asked who it is; expected 'BOARD {NAME} 1 OUTPUTS n RATE 50', found {line[:60]!r}. "
            "Check that the line protocol's firmware is on it."
        )
    if int(match[1]) != VERSION:
        raise BoardTrouble(f"The board speaks version {match[1]} of the protocol, expected {VERSION}. Send it the newer firmware.")  # fmt: skip
    return Identity(int(match[2]), int(match[3]))


def read_places(line: str) -> dict[int, float]:
    """The answer to QUERY: output → µs. Raises BoardTrouble."""
    words = line.split()
    found: dict[int, float] = {}
    for word in words[1:]:
        pair = re.fullmatch(r"([0-9]{1,3}):([0-9]{1,5})", word)
        if pair is None:
            raise BoardTrouble(f"The board was asked where it stands; expected 'AT output:µs …', found {line[:60]!r}.")
        found[int(pair[1])] = float(pair[2])
    if not words or words[0] != "AT":
        raise BoardTrouble(f"The board was asked where it stands; expected 'AT output:µs …', found {line[:60]!r}.")
    return found


def read_input(line: str) -> tuple[str, float] | None:
    """What a board says of itself: the pin of an input and what it reads, 0 to 100, of a receiver's channel 1 to 3000 µs; None where the line is no such
    event."""
    match = re.fullmatch(r"IN ([A-Z]{0,3}[0-9]{1,3}) ([0-9]{1,4}(?:\.[0-9])?)(us)?", line.strip())
    if match is None or not float(match[2]) <= (3000 if match[3] else 100):
        return None
    return match[1], float(match[2])


def answers(asked: str, line: str) -> bool:
    """Whether a line may be the answer to what was asked: not what the board says of itself, and where it was asked who it is or where it stands, no OK or NO that
    belongs to a line from before."""
    word = line.split(" ", 1)[0]
    return read_input(line) is None and not (asked in ("ID", "QUERY") and word in ("OK", "NO"))


def well(line: str) -> bool:
    """Whether a line is an answer at all: OK, NO, AT or BOARD."""
    return line.split(" ", 1)[0] in ("OK", "NO", "AT", "BOARD")
