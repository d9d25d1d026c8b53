"""Trapezoid of speed: ramps of a share of the time at either end, steady speed between (Biagiotti & Melchiorri 2008, § 3.2, from memory)."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.motion.profiles.contract import Offsets, Profile


def run(t: Array, takes: Array, distance: Array, speed: Array, shape: Array) -> Offsets:
    """See the contract: t, takes in s; shape is the ramp share 0 … 0.5; (n,) each."""
    time = np.maximum(takes, 1e-9)
    ramp = np.clip(shape, 1e-3, 0.5) * time
    steady = (distance - 0.5 * speed * ramp) / (time - ramp)
    up, down = (steady - speed) / ramp, -steady / ramp
    first, last = t < ramp, t >= time - ramp
    late = t - (time - ramp)
    x = np.where(
        first,
        speed * t + 0.5 * up * t * t,
        0.5 * (speed + steady) * ramp
        + np.where(last, steady * (time - 2 * ramp + late) + 0.5 * down * late**2, steady * (t - ramp)),
    )
    v = np.where(first, speed + up * t, np.where(last, steady + down * late, steady))
    a = np.where(first, up, np.where(last, down, 0.0))
    inside = t < time
    return np.where(inside, x, distance), np.where(inside, v, 0.0), np.where(inside, a, 0.0)


PROFILE = Profile("trapezoid", run, lambda r: 1 / (1 - r), lambda r: 1 / (r * (1 - r)), edges=lambda r: (r, 1 - r))
