"""A mass on a spring whose foot is thrown about: what it feels, from what a stiff one would.

One degree of freedom, x″ + 2ζω x′ + ω² x = b (any text on vibration); its answer is exact for what runs straight from sample to sample.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array

MOST_DECAY, LONGEST = 30.0, 512


def felt(pushed: Array, step: float, frequency: float, damping: float) -> Array:
    """ω² x, (k, n) m/s² or with more before the n, of what is pushed with as many, samples `step` s apart, and swings at `frequency` Hz; it begins at rest under the first of them. 0 < damping < 1 of critical."""
    omega = 2 * math.pi * frequency
    mu = complex(-damping * omega, omega * math.sqrt(1 - damping**2))
    goes = np.exp(mu * step)
    first, slope = (goes - 1) / mu, (goes - 1 - mu * step) / (mu**2 * step)
    added = pushed[..., :-1] * first + np.diff(pushed, axis=-1) * slope
    z = np.empty(pushed.shape, dtype=complex)
    z[..., 0] = -pushed[..., 0] / mu
    block = max(1, min(LONGEST, int(MOST_DECAY / (damping * omega * step))))
    powers = goes ** np.arange(1, block + 1)
    for k in range(0, added.shape[-1], block):
        some = added[..., k : k + block]
        grown = powers[: some.shape[-1]]
        z[..., k + 1 : k + 1 + some.shape[-1]] = grown * (z[..., k : k + 1] + np.cumsum(some / grown, axis=-1))
    return np.asarray(z.imag / mu.imag * omega**2)
