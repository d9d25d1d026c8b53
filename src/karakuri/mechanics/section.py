"""A section straight up through a pose: what solids look like where a plane cuts them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.outline import hull
from karakuri.bodies.solids import Solid, ball
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.pairs import Nearest, frames_of

Points = list[tuple[float, float]]


class Section(Frozen, eq=False):
    """Outlines and, of hollow ones, insides of all solids in m, along the plane and up; [] of what it misses. `nearest`: the two places that are nearest, of a and of b."""

    outsides: tuple[Points, ...]
    insides: tuple[Points, ...]
    nearest: tuple[tuple[float, float], tuple[float, float]]


def section(tree: Tree, solids: tuple[Solid, ...], found: Nearest) -> Section:
    """Through where both come nearest, in that pose, upright, along the way on which they are apart; where that is straight up, fore and aft."""
    placed = place(tree, found.pose[:, None])
    frames = [frames_of(tree, placed, solid) for solid in solids]
    way = found.way
    level = np.array([way[0], way[1], 0.0])
    size = float(np.linalg.norm(level))
    along = level / size if size > 0.05 else np.array([1.0, 0.0, 0.0])
    plane = np.stack([along, [0.0, 0.0, 1.0]])
    across = np.cross(plane[0], plane[1])
    small, side = (found.a, 1.0) if solids[found.a].far < solids[found.b].far else (found.b, -1.0)
    if found.inside:
        small, side = found.b, -1.0
    there = _face(frames[small].at[0] + solids[small].points @ frames[small].turned[0].T, side * way)
    other = there + side * way * found.most
    height = float(there @ across)

    def cut(k: int, grown: float) -> Points:
        points = frames[k].at[0] + (solids[k].points * grown) @ frames[k].turned[0].T
        return _cut(points, solids[k].kind == "egg", plane, across, height)

    hollow = [1 - solid.wall / float(solid.half.min()) if solid.wall > 0 else 0.0 for solid in solids]
    flat = [
        (float(p @ plane[0]), float(p @ plane[1])) for p in ((there, other) if small == found.a else (other, there))
    ]
    return Section(
        tuple(cut(k, 1.0) for k in range(len(solids))),
        tuple(cut(k, share) if share > 0 else [] for k, share in enumerate(hollow)),
        (flat[0], flat[1]),
    )


def _face(points: Array, way: Array) -> Array:
    """The middle of the corners (k, 3) m that are farthest along a way, of a face or an edge all of them."""
    off = points @ way
    return np.asarray(points[off > off.max() - 5e-4].mean(axis=0))


def _cut(points: Array, egg: bool, plane: Array, across: Array, height: float) -> Points:
    """Where the plane cuts the hull of points (k, 3): of all lines that join one on either side, of an egg those of its net, the outermost."""
    off = points @ across - height
    if egg:
        faces = ball()[1]
        lines: NDArray[np.int64] = np.stack([faces.ravel(), np.roll(faces, 1, axis=1).ravel()])
        lines = lines[:, (off[lines[0]] >= 0) & (off[lines[1]] < 0)]
    else:
        lines = np.stack(np.meshgrid(np.flatnonzero(off >= 0), np.flatnonzero(off < 0))).reshape(2, -1)
    one, other = lines
    if not len(one):
        return []
    share = off[one] / (off[one] - off[other])
    flat = (points[one] + share[:, None] * (points[other] - points[one])) @ plane.T
    return hull([(float(x), float(y)) for x, y in np.unique(np.round(flat, 6), axis=0)])
