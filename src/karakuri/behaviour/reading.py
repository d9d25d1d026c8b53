"""From what an input reads to where it stands: 0 to 100 per cent of its own way, its middle at 50."""

from __future__ import annotations

from karakuri.model.behaviour import HANDED, Input

LEVELS, MIDDLE = 100.0, 50.0


def level(of: Input, reads: float) -> float:
    """Where an input stands, 0 to 100, that reads so much: per cent of its supply, of a receiver µs. Its ends as measured are 0 and 100, the second may read
    less than the first; near its middle it counts as in the middle."""
    if of.kind not in HANDED:
        return min(max(reads, 0.0), LEVELS)
    low, high = of.ends
    if of.middle is None:
        at = LEVELS * (reads - low) / (high - low)
    elif (reads - of.middle) * (high - low) < 0:
        at = MIDDLE * (reads - low) / (of.middle - low)
    else:
        at = MIDDLE + MIDDLE * (reads - of.middle) / (high - of.middle)
    off, still = min(max(at, 0.0), LEVELS) - MIDDLE, of.still_percent
    if still > 0:
        moved = min(max(abs(off) - still, 0.0) * MIDDLE / (MIDDLE - still), MIDDLE)
        off = moved if off > 0 else -moved
    return MIDDLE + off


def reading(of: Input, at: float) -> float:
    """What an input reads that stands at 0 to 100: the other way round, for a stand-in; what counts as in the middle reads as the middle."""
    if of.kind not in HANDED:
        return at
    off = min(max(at, 0.0), LEVELS) - MIDDLE
    if of.still_percent > 0 and off != 0.0:
        off = (abs(off) * (MIDDLE - of.still_percent) / MIDDLE + of.still_percent) * (1.0 if off > 0 else -1.0)
    low, high = of.ends
    middle = (low + high) / 2 if of.middle is None else of.middle
    return middle + off / MIDDLE * ((high - middle) if off >= 0 else (middle - low))
