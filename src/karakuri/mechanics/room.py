"""Whether parts go past each other in all that their joints do, the least gap of each pair from both sides.

Branch and bound: where two solids are g apart in a pose, they are at least g − Σ Lₖ |Δqₖ| apart in another, Lₖ the farthest that any of their points moves for
1 rad or m of coordinate k; and along the way on which they are apart, at least what they are to first order less all that higher orders may add (Taylor, with a
bound on the rest). A box of poses is parted until its bound says enough; nothing in it is passed over. Only joints on the way between both count.
"""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Generator, Sequence
from typing import Any, NamedTuple

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid
from karakuri.bodies.tree import Tree
from karakuri.course import ALONE, Course
from karakuri.mechanics.apart import Frames
from karakuri.mechanics.kinematics import Placed, place
from karakuri.mechanics.nearer import Bound, Branch
from karakuri.mechanics.pairs import Both, Nearest, RoomFound, between, compared, frames_of, gaps_of

CLOSE, HAIR, BATCH, CORNERS = 1e-4, 1e-6, 32, 6
FIRST, FAILING = 24, 600
"""m to which the least gap is found, and near one that must stay; boxes parted at a time; coordinates up to which all corners are tried. Poses tried of every pair first, and of one
that is far too near."""


def room(
    tree: Tree,
    solids: Sequence[Solid],
    skipped: frozenset[tuple[int, int]],
    enough: float,
    budget: int,
    course: Course = ALONE,
    must: float | None = None,
) -> RoomFound:
    """All pairs of solids but those skipped, (a, b) with a < b; that ride on the same link only where one lies in the other. `enough` m: what is farther apart is
    not looked at closer. At most about `budget` poses are tried for all pairs together; on which side of `must` m a
    least gap is, is looked at to HAIR. Raises GivenUp where `course` says stop."""
    told = compared(tree, solids, skipped)
    if told is None:
        return RoomFound((), (), (), 0, too_many=True)
    pairs, mixed, unseen = told
    within_ = tuple(pairs[k][1:] for k in sorted(mixed))
    wanted, bounds = _not_far(tree, [pair for k, pair in enumerate(pairs) if k not in mixed], solids, enough)
    found = _together(
        tree,
        [
            (both, _search(tree, both, enough, FIRST, bound, must))
            for (both, _, _), bound in zip(wanted, bounds, strict=True)
        ],
        enough,
        course,
        "room between parts",
    )
    again = [k for k, each in enumerate(found) if not each.settled]
    share = budget // max(len(again), 1)
    if share > FIRST:
        closer = _together(
            tree,
            [(wanted[k][0], _search(tree, wanted[k][0], enough, share, bounds[k], must)) for k in again],
            enough,
            course,
            "room, where parts come near",
        )
        for k, each in zip(again, closer, strict=True):
            found[k] = each
    near = [replace(each, a=a, b=b) for each, (_, a, b) in zip(found, wanted, strict=True)]
    near.sort(key=lambda each: (each.least, each.a, each.b))
    kept = [each for each in near if each.least < enough or not each.settled]
    return RoomFound(tuple(kept), within_, tuple(unseen), len(pairs) + len(unseen))


def _not_far(
    tree: Tree, pairs: Sequence[tuple[Both, int, int]], solids: Sequence[Solid], enough: float
) -> tuple[list[tuple[Both, int, int]], list[Bound]]:
    """The pairs of which the balls round both do not say, from the middle of all ranges, that they stay `enough` m apart, each with its bound."""
    half = np.where(tree.high > tree.low, (tree.high - tree.low) / 2, 0.0)
    middle = np.where(tree.high > tree.low, (tree.high + tree.low) / 2, tree.rest)
    placed = place(tree, complete(tree.coupling, middle[:, None].copy()))
    frames = [frames_of(tree, placed, solid) for solid in solids]
    known: dict[tuple[int, int], Branch] = {}
    kept: list[tuple[Both, int, int]] = []
    bounds = []
    for both, a, b in pairs:
        bound = Bound(tree, both, known)
        if not both.inside and float(bound.balls((frames[a], frames[b]), half[:, None])[0]) >= enough:
            continue
        kept.append((both, a, b))
        bounds.append(bound)
    return kept, bounds


def nearest(tree: Tree, both: Both, enough: float, budget: int) -> Nearest:
    """The least gap of both over all their joints do: to CLOSE, or until it is known to be at least `enough` m, or until so many poses were tried."""
    return all_nearest(tree, [both], enough, budget)[0]


def all_nearest(tree: Tree, pairs: Sequence[Both], enough: float, budget: int) -> list[Nearest]:
    """The same of several pairs side by side, each over so many poses at most."""
    return _together(tree, [(both, _search(tree, both, enough, budget, Bound(tree, both))) for both in pairs], enough)


class Exactly(NamedTuple):
    """Two solids' frames of which the gaps are asked to the last micrometre."""

    one: Frames
    other: Frames


Search = Generator[Array | tuple[Frames, Frames], Any, Nearest]
"""Asks for what is placed in poses q (m, n), then for the gaps of two solids in frames, and again, until it knows."""


def _together(
    tree: Tree, searches: Sequence[tuple[Both, Search]], care: float, course: Course = ALONE, what: str = ""
) -> list[Nearest]:
    """All searches side by side: what they ask for at one time is worked out at once, poses all together, gaps by the kinds of both. Raises GivenUp."""
    found: dict[int, Nearest] = {}
    asked: dict[int, Any] = {}

    def go(k: int, answer: Any) -> None:
        try:
            asked[k] = searches[k][1].send(answer)
        except StopIteration as end:
            found[k] = end.value

    for k in range(len(searches)):
        go(k, None)
    while asked:
        course.at(what, len(found) / len(searches))
        poses = {k: q for k, q in asked.items() if isinstance(q, np.ndarray)}
        gaps = {k: frames for k, frames in asked.items() if k not in poses}
        asked.clear()
        if poses:
            placed, at = place(tree, np.concatenate(list(poses.values()), axis=1)), 0
            for k, q in poses.items():
                part = slice(at, at + q.shape[1])
                at += q.shape[1]
                go(k, _columns(placed, part))
        last = [(k, searches[k][0], frames) for k, frames in gaps.items() if isinstance(frames, Exactly)]
        some = [(k, searches[k][0], frames) for k, frames in gaps.items() if not isinstance(frames, Exactly)]
        for k, answer in itertools.chain(gaps_of(some, care), gaps_of(last, None)):
            go(k, answer)
    return [found[k] for k in range(len(searches))]


def _columns(placed: Placed, some: Any) -> Placed:
    return Placed(*(each[..., some] for each in (placed.rotation, placed.pivot, placed.axis, placed.com)))


def _search(tree: Tree, both: Both, enough: float, budget: int, bound: Bound, must: float | None = None) -> Search:
    moves, moving = bound.moves, between(tree, both.one.link, both.other.link)
    low, high, still = tree.low, tree.high, tree.rest
    free = [k for k in range(len(moves)) if moves[k] > 0 and high[k] > low[k]]
    best, pose, way, tried = np.inf, still, np.zeros(3), 0

    def look(many: Array, halves: Array) -> Generator[Any, Any, Array]:
        nonlocal best, pose, way, tried
        q = complete(tree.coupling, many)
        placed = yield q
        frames = (frames_of(tree, placed, both.one), frames_of(tree, placed, both.other))
        lows = np.full(q.shape[1], -np.inf) if both.inside else bound.balls(frames, halves)
        close = np.flatnonzero(lows < enough)
        tried += len(close) + 1
        if not len(close):
            return lows
        placed, frames = _columns(placed, close), (frames[0].some(close), frames[1].some(close))
        gaps = yield frames
        lows[close] = np.maximum(lows[close], bound.lowest(placed, frames, gaps, halves[:, close]))
        c = int(gaps.apart.argmin())
        if gaps.apart[c] < best:
            best, pose, way = float(gaps.apart[c]), q[:, close[c]].copy(), gaps.way[c]
        return lows

    middle, half = still.copy(), np.zeros_like(still)
    middle[free], half[free] = ((low + high) / 2)[free], ((high - low) / 2)[free]
    count = itertools.count()
    lows = yield from look(middle[:, None], half[:, None])
    heap = [(float(lows[0]), next(count), middle, half)]
    least, ends = heap[0][0], list[tuple[float, ...]]()
    while heap:
        least = heap[0][0]
        if _known(least, best, enough, must) or tried >= budget:
            break
        if best < enough / 2 and tried >= FAILING:
            break  # far too near for certain: that it may come nearer still changes nothing
        if not ends and tried >= FIRST // 2 and len(free) <= CORNERS:  # the nearest is often at a corner
            ends = list(itertools.product(*((low[k], high[k]) for k in free)))
            corners = np.repeat(still[:, None], len(ends), axis=1)
            corners[free] = np.array(ends).T
            yield from look(corners, np.zeros_like(corners))
        parted = []
        for over, _, m, h in [heapq.heappop(heap) for _ in range(min(BATCH, len(heap)))]:
            k = int(np.argmax(moves * h))
            for side in (-0.5, 0.5):
                m2, h2 = m.copy(), h.copy()
                m2[k], h2[k] = m[k] + side * h[k], h[k] / 2
                parted.append((over, m2, h2))
        lows = yield from look(np.stack([m for _, m, _ in parted], axis=1), np.stack([h for _, _, h in parted], axis=1))
        for (over, m, h), lowest in zip(parted, lows, strict=True):
            heapq.heappush(heap, (max(over, float(lowest)), next(count), m, h))
    if not np.isfinite(best):  # the balls alone said enough wherever it was looked
        placed = yield still[:, None].copy()
        gaps = yield frames_of(tree, placed, both.one), frames_of(tree, placed, both.other)
        best, way = float(gaps.apart[0]), gaps.way[0]
    if not both.inside and np.isfinite(best):  # on the way depths and far gaps were found roughly
        placed = yield pose[:, None].copy()
        exact = yield Exactly(frames_of(tree, placed, both.one), frames_of(tree, placed, both.other))
        best, way = float(exact.apart[0]), exact.way[0]
    least = min(least, best)
    return Nearest(-1, -1, both.inside, least, best, pose, way, moving, _known(least, best, enough, must))


def _known(least: float, best: float, enough: float, must: float | None) -> bool:
    """Whether a least gap between `least` and `best` m is known well enough: at least `enough`, or to CLOSE, or to HAIR where `must` lies between both."""
    close = HAIR if must is not None and least < must <= best else CLOSE
    return least >= enough or best - least <= close
