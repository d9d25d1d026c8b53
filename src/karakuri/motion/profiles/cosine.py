"""Cosine: half a cosine wave from rest (Norton, Cam Design, simple harmonic; from memory); a starting speed is let go of smoothly."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.motion.profiles.contract import Offsets, Profile


def run(t: Array, takes: Array, distance: Array, speed: Array, shape: Array) -> Offsets:
    """See the contract: t, takes in s; (n,) each. The starting speed's share is w s (1 − s)²."""
    time = np.maximum(takes, 1e-9)
    s = np.minimum(t / time, 1.0)
    w, turn = speed * time, math.pi * s
    inside = t < time
    x = distance * 0.5 * (1 - np.cos(turn)) + w * s * (1 - s) ** 2
    v = (distance * 0.5 * math.pi * np.sin(turn) + w * (1 - s) * (1 - 3 * s)) / time
    a = (distance * 0.5 * math.pi**2 * np.cos(turn) + w * (6 * s - 4)) / time**2
    return np.where(inside, x, distance), np.where(inside, v, 0.0), np.where(inside, a, 0.0)


PROFILE = Profile("cosine", run, lambda _: math.pi / 2, lambda _: math.pi**2 / 2)
