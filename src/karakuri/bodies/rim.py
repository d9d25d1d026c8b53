"""How far out what a joint carries reaches."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.tree import Tree
from karakuri.model.figure import Figure
from karakuri.model.part import Box, Cylinder, Ellipsoid, Part, Sphere


def rim(figure: Figure, tree: Tree, j: int) -> float:
    """From joint j's axis, at rest, to the farthest that any part it carries may reach, m: the parts' middles and how large they are at most."""
    axis, pivot = tree.axis[j], tree.pivot[j]
    out = 0.0
    for part in figure.parts:
        if part.rides_on == "base" or j not in tree.chains[tree.index(part.rides_on)]:
            continue
        off = np.array(part.at_mm) / 1e3 - pivot
        out = max(out, float(np.linalg.norm(off - axis * (off @ axis))) + half_size(part))
    return out


def half_size(part: Part) -> float:
    """From the middle of a part to its farthest point, m."""
    shape = part.shape
    if isinstance(shape, Box):
        return float(np.linalg.norm(shape.size_mm)) / 2e3
    if isinstance(shape, Cylinder):
        return float(np.hypot(shape.radius_mm, shape.height_mm / 2)) / 1e3
    if isinstance(shape, Ellipsoid):
        return max(shape.semi_axes_mm) / 1e3
    return shape.radius_mm / 1e3 if isinstance(shape, Sphere) else 0.0
