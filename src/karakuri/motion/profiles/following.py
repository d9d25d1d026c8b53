"""Following: each moment a fixed share of what is left, so that it lags and never quite arrives; first-order lag, time constant in s."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.motion.profiles.contract import Offsets, Profile


def run(t: Array, takes: Array, distance: Array, speed: Array, shape: Array) -> Offsets:
    """See the contract: t in s; shape is the time constant, s; (n,) each. The speed at departure is not kept: it leaps."""
    tau = np.maximum(shape, 1e-3)
    left = distance * np.exp(-t / tau)
    return distance - left, left / tau, -left / tau**2


PROFILE = Profile("following", run, lambda _: math.inf, lambda _: math.inf, arrives=False)
