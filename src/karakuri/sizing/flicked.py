"""What a wanted move does to a rod by throwing it about: from places all over its range, with all others at rest and at corners, and as long after as the rod swings most."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import put
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.tied import free_of
from karakuri.model.rod import Rod
from karakuri.sizing.rods import sways_at
from karakuri.sizing.wanted import AskedMove, places_of
from karakuri.sizing.whipped import STEP_S, Whipped, whipped

CORNERS, PLACES, BEFORE = 4, 3, 4
AFTER_S = 2.0
"""So long after a move it is looked at, at most: two swings."""


def flicked(tree: Tree, rod: Rod, i: int, k: int, move: AskedMove, gravities: Array) -> Whipped | None:
    """Rod number i while joint k, which follows none, makes a wanted move; gravities (p, 3) m/s²."""
    others = [f for f in free_of(tree, tuple(range(len(tree.ids)))) if f != k]
    begun = with_corners(tree, others, CORNERS)
    starts, ways = places_of(tree, k, move.by, PLACES)
    after = min(2.0 / sways_at(tree, rod), AFTER_S)
    times: Array = np.arange(-BEFORE, int(np.ceil((move.time + after) / STEP_S)), dtype=np.float64) * STEP_S
    went = move.at(np.clip(times, 0.0, move.time))[0]
    pose, row = (each.ravel() for each in np.meshgrid(range(begun.shape[1]), range(len(starts)), indexing="ij"))
    q = np.repeat(begun[:, pose], len(times), axis=1)
    put(tree.coupling, q, k, (starts[row][:, None] + ways[row][:, None] * went).ravel())
    found = whipped(tree, rod, i, gravities, times, q.reshape(len(tree.ids), len(row), len(times)))
    return None if found is None else replace(found, of=tree.ids[k])
