"""A plain outline of who wears a figure, to scale: head, neck and trunk to the hips, never in detail.

Heights by share of stature: Drillis and Contini; depths and breadths from memory, for looks only.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array

SIDE = ((0.02, 0.012), (0.05, -0.01), (0.066, -0.09), (0.056, -0.17), (0.062, -0.27), (0.05, -0.3), (-0.05, -0.3), (-0.062, -0.26), (-0.045, -0.16), (-0.06, -0.06), (-0.035, 0.01))  # fmt: skip
FRONT = ((0.03, 0.02), (0.1, 0.008), (0.13, -0.02), (0.115, -0.11), (0.095, -0.18), (0.1, -0.3), (-0.1, -0.3), (-0.095, -0.18), (-0.115, -0.11), (-0.13, -0.02), (-0.1, 0.008), (-0.03, 0.02))  # fmt: skip
EARS, SHOULDERS, BELOW = 0.936, 0.818, 0.09
RING = np.linspace(0, 2 * math.pi, 40, endpoint=False)


def wearer(view: str, height: float, trunk: float, head: float, ears: Array) -> tuple[Array, Array, Array]:
    """Closed outlines (k, 3) m in the room of trunk, neck and head, seen from the 'side' or the 'front'; height m; how far trunk and head
    lean forward, rad; ears (3,) m the middle between the ear holes."""
    side = view == "side"
    foot = ears + _turned(np.array([[-0.03, 0.0, -BELOW * height]]), head)[0]
    top = foot + _turned(np.array([[0.01, 0.0, -(EARS - SHOULDERS - BELOW) * height]]), trunk)[0]
    body = np.array([(x, 0.0, z) if side else (0.0, x, z) for x, z in (SIDE if side else FRONT)]) * height
    wide = 0.0975 if side else 0.076
    tall = 0.065 * height
    along, up = wide * np.cos(RING), tall * np.sin(RING)
    ring = np.stack([along + 0.01, 0 * up, up] if side else [0 * up, along, up], axis=1)
    half = 0.033 * height if side else 0.036 * height
    cut = -0.04 * height
    neck = np.array([(a, 0.0, b) if side else (0.0, a, b) for a, b in ((-half + 0.01, cut), (half, cut))])
    ends = _turned(neck, head) + ears
    neck_foot = np.array([(a, 0.0, 0.0) if side else (0.0, a, 0.0) for a in (half, -half)])
    return (
        _turned(body, trunk) + top,
        np.concatenate([ends, _turned(neck_foot, trunk) + top]),
        _turned(ring, head) + ears,
    )


def _turned(points: Array, lean: float) -> Array:
    """Points (k, 3) leaned forward about y, rad."""
    c, s = math.cos(lean), math.sin(lean)
    x, y, z = points.T
    return np.asarray(np.stack([c * x + s * z, y, -s * x + c * z], axis=1))
