"""What is surely free inside a surface: flat sides round a middle with no point of the surface within them.

The surface is taken as points no farther apart than a part of its size. Each is held off by the side that faces it most; a side stands where the nearest of
those lies, less what points may miss. A body inside with so much left to every side is at least so far from the surface, since what lies beyond a flat side is
(separating planes; Boyd & Vandenberghe, Convex Optimization, 2.5.1): dents push a side in, bulges are not counted, so it is never too much.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array

SIDES, PARTS, BLOCK = 160, 80.0, 200_000
"""Ways round; the size over how far points may be apart; points looked at in one go."""

Side = tuple[float, float, float, float]


def hollow(corners: Array, middle: Array, ways: Array) -> tuple[Side, ...]:
    """Flat sides (unit way x, y, z, and how far from nothing) of what is free about `middle` (3,), by triangles (m, 3, 3), ways (k, 3); none where nothing is.
    All in the surface's own unit."""
    size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    grain = size / PARTS
    points = _sampled(corners, grain) - middle
    far = np.full(len(ways), np.inf)
    for begin in range(0, len(points), BLOCK):
        reach = points[begin : begin + BLOCK] @ ways.T
        faces = reach.argmax(axis=1)
        np.minimum.at(far, faces, reach[np.arange(len(faces)), faces])
    far -= grain
    used = np.isfinite(far)
    if not (far[used] > grain).all() or not _shut(ways[used]):
        return ()
    return tuple(
        (float(w[0]), float(w[1]), float(w[2]), round(float(f + w @ middle), 6))
        for w, f in zip(ways[used], far[used], strict=True)
    )


def _shut(ways: Array) -> bool:
    """Whether flat sides with those ways (k, 3) leave no way out: every way round has one within 60° of it."""
    return len(ways) >= 4 and bool(((ways @ -ways.T).max(axis=1) > 0.5).all())


def _sampled(corners: Array, grain: float) -> Array:
    """Points (n, 3) of triangles (m, 3, 3), so many that none of the surface is farther from one of them than `grain`; one for each cell."""
    cell = grain / 2.6
    longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    out, parts, covered = [_thinned(corners.reshape(-1, 3), cell)], 2, cell
    while (some := corners[longest > covered]).size:
        some = some[longest[longest > covered] <= cell * parts] if parts < MOST_PARTS else some
        steps = np.arange(parts + 1) / parts
        a, b = (each.ravel() for each in np.meshgrid(steps, steps, indexing="ij"))
        inside = a + b <= 1 + 1e-12
        shares = np.stack([a[inside], b[inside], 1 - a[inside] - b[inside]], axis=1)
        each = max(1, 1_000_000 // len(shares))
        for begin in range(0, len(some), each):
            out.append(_thinned(np.einsum("sk,mki->msi", shares, some[begin : begin + each]).reshape(-1, 3), cell))
        if parts >= MOST_PARTS:
            break
        covered, parts = cell * parts, parts * 2
    return _thinned(np.concatenate(out), cell)


MOST_PARTS = 512
"""So many parts of an edge are finer than any cell of a surface that is no larger than itself."""


def _thinned(points: Array, cell: float) -> Array:
    """One of points (n, 3) in each cell."""
    number = np.floor((points - points.min(axis=0)) / cell).astype(np.int64)
    wide = number.max(axis=0) + 1
    _, kept = np.unique((number[:, 0] * wide[1] + number[:, 1]) * wide[2] + number[:, 2], return_index=True)
    return points[kept]
