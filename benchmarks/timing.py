"""Timing helpers: medians and 95 % points, interleaved ratios, and a yardstick for machines whose speed drifts."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

YARDSTICK_MS, ROUNDS = 3.0, 60_000


def timed(work: Callable[[], object]) -> float:
    """Seconds one call takes."""
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def slowness() -> float:
    """How many times slower than in a fast spell of the machine these numbers were first taken on: a loop that took 3 ms there."""

    def loop() -> None:
        total = 0
        for i in range(ROUNDS):
            total += i

    return max(1.0, timed(loop) * 1e3 / YARDSTICK_MS)


def spread(name: str, seconds: list[float], slow: list[float] | None = None) -> str:
    """Median, 95 % point and largest in ms; beside them the same at the yardstick's pace, where its slowness was taken at each."""
    line = f"{name}: {_points(seconds)} of {len(seconds)}"
    if slow:
        line += f"; at the yardstick's pace {_points([s / w for s, w in zip(seconds, slow, strict=True)])}"
    return line


def _points(seconds: list[float]) -> str:
    ordered = sorted(seconds)
    high = ordered[min(len(ordered) - 1, int(0.95 * len(ordered)))]
    return f"median {statistics.median(ordered) * 1e3:.1f} ms, 95 % {high * 1e3:.1f} ms, largest {ordered[-1] * 1e3:.1f} ms"
