"""Shared by the measurements: percentiles and how they are written."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def timed(work: Callable[[], object]) -> float:
    """Seconds one call takes."""
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def percentile(values: list[float], share: float) -> float:
    """The value that a share of all values does not exceed."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]


def spread(name: str, seconds: list[float]) -> str:
    """Median, 95 % and largest, in ms."""
    return (
        f"{name}: median {statistics.median(seconds) * 1e3:.1f} ms, 95 % {percentile(seconds, 0.95) * 1e3:.1f} ms, "
        f"largest {max(seconds) * 1e3:.1f} ms of {len(seconds)}"
    )
