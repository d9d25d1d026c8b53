"""Pairs of solids that are compared for room: which, where both are in a pose, how far apart, and what is found of them."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid, rows_of
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.apart import Frames, Gaps, beside, within
from karakuri.mechanics.kinematics import Placed, place

MOST_PAIRS = 10_000
"""Up to so many all are looked at."""


class Nearest(Frozen, eq=False):
    """Solids a and b, `inside` where b lies in the hollow of a: never nearer than `least` m, and `most` m apart in `pose` (m,), along `way` (3,) from the one to the other. `moving`: the joints on the way between both. settled: no poses are left unlooked at that decide."""

    a: int
    b: int
    inside: bool
    least: float
    most: float
    pose: Array
    way: Array
    moving: tuple[int, ...]
    settled: bool


class RoomFound(Frozen, eq=False):
    """Of all pairs compared, those that may come nearer than enough; `within` (a, b) are in one another as the figure is drawn;
    `unseen`: in a hollow whose inside is not known; compared: how many pairs. too_many: more than MOST_PAIRS, none is looked at."""

    near: tuple[Nearest, ...]
    within: tuple[tuple[int, int], ...]
    unseen: tuple[tuple[int, int], ...]
    compared: int
    too_many: bool = False
    glanced: bool = False
    """Only a few poses were looked at: that a pair is not among `near` says nothing."""
    rows: tuple[int, ...] = ()
    """Of each solid, which part of the figure it is."""


def place_of(tree: Tree, rides_on: str) -> int:
    """The link of that joint, −1 of the base."""
    return tree.index(rides_on) if rides_on in tree.ids else -1


def between(tree: Tree, one: int, other: int) -> tuple[int, ...]:
    """Joints on the way from link to link; none where both ride on the same."""
    a = tree.chains[one] if one >= 0 else ()
    b = tree.chains[other] if other >= 0 else ()
    return tuple(sorted(set(a) ^ set(b)))


class Both(Frozen, eq=False):
    """Two solids; `inside`: the other lies in the hollow of the one."""

    one: Solid
    other: Solid
    inside: bool

    def gaps(self, tree: Tree, placed: Placed) -> Gaps:
        """In every pose that is placed."""
        a, b = frames_of(tree, placed, self.one), frames_of(tree, placed, self.other)
        return (within if self.inside else beside)(self.one, a, self.other, b)


def frames_of(tree: Tree, placed: Placed, solid: Solid) -> Frames:
    """Where a solid is in every pose that is placed."""
    n = placed.com.shape[-1]
    if solid.link < 0:
        return Frames(np.broadcast_to(solid.turned, (n, 3, 3)), np.broadcast_to(solid.at, (n, 3)))
    rotation = np.moveaxis(placed.rotation[solid.link], -1, 0)
    at = placed.pivot[solid.link].T + rotation @ (solid.at - tree.pivot[solid.link])
    return Frames(rotation @ solid.turned, at)


def inside(one: Solid, other: Solid) -> bool:
    """Whether, as they are drawn, the other lies in the hollow of the one: its middle does."""
    if one.wall <= 0:
        return False
    off = one.turned.T @ (other.at - one.at)
    if one.kind == "box":
        return bool((np.abs(off) < one.half).all())
    if one.kind == "egg":
        return bool(np.linalg.norm(off / one.half) < 1)
    if one.kind == "cylinder":
        return bool(np.hypot(off[0], off[1]) < one.half[0] and abs(off[2]) < one.half[2])
    return bool((np.abs(off) < one.half).all())


Pairs = list[tuple[Both, int, int]]
"""Two solids, and which they are; the hollow one first where one lies in the other."""


def compared(
    tree: Tree, solids: Sequence[Solid], skipped: frozenset[tuple[int, int]]
) -> tuple[Pairs, set[int], list[tuple[int, int]]] | None:
    """The pairs that are compared; which of them are in one another as drawn; what lies in a hollow that is not known. None where there are too many."""
    unseen: list[tuple[int, int]] = []
    pairs: Pairs = []
    rest = place(tree, tree.rest[:, None])
    frames = [frames_of(tree, rest, solid) for solid in solids]
    for a, b in itertools.combinations(range(len(solids)), 2):
        hollow = solids[a].wall > 0 or solids[b].wall > 0
        if (a, b) in skipped or not (hollow or solids[a].link != solids[b].link):
            continue
        lies = {(x, y) for x, y in ((a, b), (b, a)) if hollow and inside(solids[x], solids[y])}
        if not lies and solids[a].link == solids[b].link:
            continue
        first, second = max(lies, key=lambda pair: solids[pair[0]].far) if lies else (a, b)
        if lies and solids[first].cavity is None:
            unseen.append((first, second))
        else:
            pairs.append((Both(solids[first], solids[second], bool(lies)), first, second))
        if len(pairs) > MOST_PAIRS:
            return None
    close = []
    for k, (both, a, b) in enumerate(pairs):
        apart = float(np.linalg.norm(frames[a].at - frames[b].at)) - both.one.far - both.other.far
        if both.inside and both.one.kind == "mesh":
            continue  # beyond what is surely free inside it: not in its matter for certain
        if both.inside or apart < 0:
            close.append((k, both, (frames[a], frames[b])))
    mixed = {k for k, gaps in gaps_of(close, None) if gaps.apart[0] < 0}
    return pairs, mixed, unseen


def gaps_of(asked: Sequence[tuple[int, Both, tuple[Frames, Frames]]], care: float | None) -> Iterator[tuple[int, Gaps]]:
    """Gaps of each, all that are no meshes at once; m beyond which they are found roughly, None: nowhere."""
    some: list[tuple[int, Both, tuple[Frames, Frames]]] = []
    for k, both, frames in asked:
        if both.inside:
            yield k, within(both.one, frames[0], both.other, frames[1])
        elif "mesh" in (both.one.kind, both.other.kind):
            yield k, beside(both.one, frames[0], both.other, frames[1], care)
        else:
            some.append((k, both, frames))
    if not some:
        return
    counts = [len(frames[0].at) for _, _, frames in some]
    one, other = (rows_of([getattr(both, side) for _, both, _ in some], counts) for side in ("one", "other"))
    a, b = (
        Frames(*(np.concatenate([getattr(frames[s], what) for _, _, frames in some]) for what in ("turned", "at")))
        for s in (0, 1)
    )
    gaps, at = beside(one, a, other, b, care), 0
    for (k, _, _), n in zip(some, counts, strict=True):
        yield k, Gaps(gaps.apart[at : at + n], gaps.way[at : at + n])
        at += n
