"""What a ruler and a luggage scale tell of an element's force."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from karakuri.model.element import Pull

STANDARD_GRAVITY = 9.80665


def newtons(pull: Pull) -> float:
    """What hangs, as a force, N: grams on a scale are read where gravity is standard (CGPM 1901)."""
    return pull.weight_g / 1e3 * STANDARD_GRAVITY


def fitted(pulls: Sequence[Pull], unit: Callable[[float], float]) -> float | None:
    """The factor of a law `unit`, N at a length in m, that comes nearest to the pulls by least squares; None where they say nothing."""
    x = np.array([unit(pull.length_mm / 1e3) for pull in pulls])
    y = np.array([newtons(pull) for pull in pulls])
    square = float(x @ x)
    return max(float(x @ y) / square, 0.0) or None if square > 1e-18 else None


def line(pulls: Sequence[Pull], free: float) -> tuple[float, float] | None:
    """Rate N/m and preload N of a spring of free length, m, from its pulls: least squares; from one pull, or all of one length, without a
    preload. None where they say nothing."""
    s = np.array([pull.length_mm / 1e3 - free for pull in pulls])
    y = np.array([newtons(pull) for pull in pulls])
    way = np.sign(s.sum()) or 1.0
    if float(np.ptp(s)) > 1e-6:
        rate, preload = np.polyfit(s, y * way, 1)
        if rate > 0 and preload * way >= 0:
            return float(rate), float(preload * way)
    square = float(s @ s)
    rate = float(s @ (y * way)) / square if square > 1e-12 else 0.0
    return (rate, 0.0) if rate > 0 else None
