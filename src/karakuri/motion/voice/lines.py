"""Which line of a list is said next: openings once, then in order from a random start, or at random with none of the last few; and when."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator

from karakuri.model.figure import Figure
from karakuri.model.lines import Lines
from karakuri.motion.life.chance import Chance

PAUSE_S = 0.4


def said(lines: Lines, chance: Chance) -> Iterator[str]:
    """Ids of sounds, for ever; ends after the openings where there are no lines."""
    yield from lines.openings
    if not lines.lines:
        return
    if lines.order == "in order":
        k = int(chance.share() * len(lines.lines))
        while True:
            yield lines.lines[k]
            k = (k + 1) % len(lines.lines)
    last: deque[str] = deque(lines.openings[-1:], maxlen=max(0, min(lines.again_after, len(lines.lines) - 1)))
    while True:
        free = [line for line in lines.lines if line not in last]
        line = free[int(chance.share() * len(free))]
        last.append(line)
        yield line


def said_when(figure: Figure, lines: Lines, seed: int, from_s: float, to_s: float) -> list[tuple[float, str]]:
    """When each line of a list begins, s, from a time until another, and which: every so often, never over the one before, and none that would not end in time."""
    out: list[tuple[float, str]] = []
    at = from_s
    for line in said(lines, Chance(seed, 16)):
        long = figure.sound(line).length_s
        if at + long > to_s or len(out) >= 2000:
            break
        out.append((round(at, 3), line))
        at += max(lines.every_s, long + PAUSE_S)
    return out
