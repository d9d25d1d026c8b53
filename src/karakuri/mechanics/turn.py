"""A turning joint seen alone: spinning vectors about its axis, and the angle that is best for a vector.

For a vector r turned about a joint's axis by q and seen along l, the value is A cos q + B sin q + C, so the best q of an
interval is known in closed form. Products with a fixed axis are 3 × 3 matrices: few calls, because the calls, not the
numbers, are what costs.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree


def best_angle(a: Array, b: Array, low: float, high: float, now: Array) -> Array:
    """The q (n,) in [low, high] that makes a cos q + b sin q largest: the peak, else the end that is nearer to it round the circle; where
    neither matters, q stays."""
    middle, half = 0.5 * (low + high), 0.5 * (high - low)
    off = np.arctan2(b, a) - middle
    off -= 2 * math.pi * np.rint(off / (2 * math.pi))
    best = middle + np.minimum(np.maximum(off, -half), half)
    return np.where(np.hypot(a, b) > 1e-15, best, now)


def flattest_angle(a: Array, b: Array, c: Array, low: float, high: float, now: Array) -> Array:
    """The q (n,) in [low, high] at which |a cos q + b sin q + c| is least: at a root, a turning point or an end; q where none is better."""
    size, middle = np.hypot(a, b), np.arctan2(b, a)
    off = np.arccos(np.clip(-c / np.where(size > 1e-15, size, 1.0), -1.0, 1.0))
    tries = np.stack(
        [now, middle + off, middle - off, middle, middle + math.pi, np.full_like(now, low), np.full_like(now, high)]
    )
    inside = low + np.mod(tries - low, 2 * math.pi)
    tries[1:5] = np.where(inside[1:5] <= high, inside[1:5], now)
    values = np.abs(a * np.cos(tries) + b * np.sin(tries) + c)
    out: Array = tries[values.argmin(axis=0), np.arange(len(now))]
    return out


@lru_cache(maxsize=1024)
def about_axis(x: float, y: float, z: float) -> tuple[Array, Array, Array]:
    """For a unit axis, matrices (3, 3): onto it, across it, and the cross product with it. Shared: not to be written to."""
    axis = np.array([x, y, z])
    along = np.outer(axis, axis)
    return along, np.eye(3) - along, np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


@lru_cache(maxsize=1024)
def all_about_axis(x: float, y: float, z: float) -> Array:
    """The three under each other, (9, 3). Shared: not to be written to."""
    return np.concatenate(about_axis(x, y, z))


@lru_cache(maxsize=1024)
def beside(x: float, y: float, z: float) -> Array:
    """What makes of a frame's rows all three products and the axis at once, (10, 3): each turned over, under each other. Shared: not to be
    written to."""
    return np.concatenate([*(each.T for each in about_axis(x, y, z)), np.array([[x, y, z]])])


class Turn:
    """A joint's rotation with its fixed matrices: along the axis, across it, and the cross product with it."""

    def __init__(self, axis: Array, low: float, high: float, slides: bool) -> None:
        self.axis, self.low, self.high, self.slides = axis, float(low), float(high), slides
        self.along, self.across, self.skew = about_axis(*axis.tolist())
        self.all = all_about_axis(*axis.tolist())
        self.moves = self.low < self.high

    def spin(self, q: Array, v: Array) -> Array:
        """v (3, n) turned by q (n,)."""
        if self.slides:
            return v
        three = self.all @ v
        out: Array = three[:3] + three[3:6] * np.cos(q) + three[6:] * np.sin(q)
        return out

    def step(self, left: Array, right: Array, now: Array) -> Array:
        """The angle that makes left · R(q) right largest; right may be one column."""
        if not self.moves or self.slides:
            return now
        two = (self.all[3:] @ right).reshape(2, 3, right.shape[1])
        a, b = two[:, :, 0] @ left if right.shape[1] == 1 else np.einsum("in,kin->kn", left, two)
        return best_angle(a, b, self.low, self.high, now)


def inward(tree: Tree, chain: tuple[int, ...], v: Array, q: Array) -> Array:
    """v (3, n) of the base's frame in that of the last joint of a chain from the base out, for poses q (m, n) rad or m."""
    every = turns(tree)
    for k in chain:
        v = every[k].spin(-q[k], v)
    return v


@lru_cache(maxsize=16)
def turns(tree: Tree) -> tuple[Turn, ...]:
    """The turn of every joint, made once a tree: axis (unit), wanted range in rad (m for a slide)."""
    return tuple(Turn(tree.axis[k], tree.low[k], tree.high[k], tree.slides[k]) for k in range(len(tree.ids)))
