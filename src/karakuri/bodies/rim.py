"""How far out what a joint carries reaches."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.shapes import kind_of
from karakuri.bodies.tree import Tree
from karakuri.model.figure import Figure
from karakuri.model.part import Part


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
    return kind_of(part.shape).far(part.shape)
