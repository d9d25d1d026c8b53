"""Ways of wires through a figure: from link to link through the pivots between, so that what is long enough there is long enough in every pose.

Of a joint that turns, its pivot lies on its axis and stays where it is for both its sides: the way to it and on from it is as long in every pose, and no
straight line is longer. A joint that slides adds as far as it goes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place, place_points
from karakuri.model.figure import Figure
from karakuri.model.part import BASE

MM = 1e-3


class Spot(Frozen):
    """Where an end is: what it rides on, and its place with the figure at all zeros, mm."""

    rides_on: str
    at_mm: tuple[float, float, float]


class Way(Frozen):
    """A way: its length through the pivots, m, and the joints it crosses, by id, from the one end to the other."""

    length: float
    crosses: tuple[str, ...]


def way(figure: Figure, a: Spot, b: Spot) -> Way:
    """The way from one place to another. Raises KeyError where a joint is gone."""
    up, down = _chain(figure, a.rides_on), _chain(figure, b.rides_on)
    shared = len(set(up) & set(down))
    crossed = [*up[: len(up) - shared], *reversed(down[: len(down) - shared])]
    here, length = np.array(a.at_mm), 0.0
    for ident in crossed:
        joint = figure.joint(ident)
        there = np.array(joint.at_mm)
        length += float(np.linalg.norm(there - here))
        if joint.kind == "slide":
            length += max(abs(end) for end in joint.range)
        here = there
    return Way((length + float(np.linalg.norm(np.array(b.at_mm) - here))) * MM, tuple(crossed))


def _chain(figure: Figure, rides_on: str) -> list[str]:
    """Joints from where it rides down to the base, nearest first."""
    out: list[str] = []
    while rides_on != BASE:
        out.append(rides_on)
        rides_on = figure.joint(rides_on).rides_on
    return out


def farthest(tree: Tree, a: Spot, b: Spot, poses: Array) -> float:
    """The farthest the two get from each other in any of some poses (m, n) rad or m, in a straight line, m."""
    there, ends = place(tree, poses), []
    for each in (a, b):
        link = tree.index(each.rides_on) if each.rides_on != BASE else -1
        ends.append(place_points(tree, there, link, np.array([each.at_mm]) * MM))
    return float(np.sqrt(((ends[0] - ends[1]) ** 2).sum(axis=1)).max(initial=0.0))


def straight(a: Spot, b: Spot) -> float:
    """How far apart two places are, m, at all zeros."""
    return math.dist(a.at_mm, b.at_mm) * MM


def poses_to_try(tree: Tree, crossed: Sequence[str], count: int = 256, seed: int = 0) -> Array:
    """Poses (m, n) rad or m thrown over the wanted ranges of the joints that are crossed and of what leads them, all others at rest; the ends of each
    range among them."""
    chance = np.random.default_rng(seed)
    index = sorted({tree.coupling.leader[tree.index(ident)] for ident in crossed})
    low, high = tree.low[index], tree.high[index]
    q = np.repeat(tree.rest[:, None], count, axis=1)
    thrown = chance.uniform(size=(len(index), count))
    ends = chance.integers(0, 3, size=thrown.shape)  # a third low, a third high, a third between
    thrown = np.where(ends == 0, 0.0, np.where(ends == 1, 1.0, thrown))
    q[index] = low[:, None] + thrown * (high - low)[:, None]
    return complete(tree.coupling, q)
