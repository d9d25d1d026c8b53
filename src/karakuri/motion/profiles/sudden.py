"""Sudden: the target is commanded at once; the servo goes as fast as it can."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.motion.profiles.contract import Offsets, Profile


def run(t: Array, takes: Array, distance: Array, speed: Array, shape: Array) -> Offsets:
    """See the contract; t in s, (n,): a step, without a finite speed to show."""
    still = np.zeros_like(distance)
    return distance, still, still


PROFILE = Profile("sudden", run, lambda _: math.inf, lambda _: math.inf)
