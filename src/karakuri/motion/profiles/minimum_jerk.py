"""Minimum jerk: the quintic that starts with the speed reached and no acceleration, and arrives at rest.

From rest 10 s³ − 15 s⁴ + 6 s⁵: Flash & Hogan, J. Neurosci. 5, 1985 (from memory).
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.motion.profiles.contract import Offsets, Profile


def run(t: Array, takes: Array, distance: Array, speed: Array, shape: Array) -> Offsets:
    """See the contract: t, takes in s; (n,) each."""
    time = np.maximum(takes, 1e-9)
    s = np.minimum(t / time, 1.0)
    w = speed * time
    c3, c4, c5 = 10 * distance - 6 * w, -15 * distance + 8 * w, 6 * distance - 3 * w
    inside = t < time
    x = s * (w + s * s * (c3 + s * (c4 + s * c5)))
    v = (w + s * s * (3 * c3 + s * (4 * c4 + s * 5 * c5))) / time
    a = s * (6 * c3 + s * (12 * c4 + s * 20 * c5)) / time**2
    return np.where(inside, x, distance), np.where(inside, v, 0.0), np.where(inside, a, 0.0)


PROFILE = Profile("minimum jerk", run, lambda _: 15 / 8, lambda _: 10 / math.sqrt(3))
