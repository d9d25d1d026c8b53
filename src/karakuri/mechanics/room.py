"""Whether parts go past each other in all that their joints do, the least gap of each pair from both sides; long for its room because bound and search prove it together.

Branch and bound: where two solids are g apart in a pose, they are at least g − Σ Lₖ |Δqₖ| apart in another, Lₖ the farthest that any of their points moves for
1 rad or m of coordinate k; and along the way on which they are apart, at least what they are to first order less all that higher orders may add (Taylor, with a
bound on the rest). A box of poses is parted until its bound says enough; nothing in it is passed over. Only joints on the way between both count.
"""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Generator, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Solid, rows_of
from karakuri.bodies.tree import Tree
from karakuri.course import ALONE, Course
from karakuri.mechanics.apart import Frames, Gaps, beside, within
from karakuri.mechanics.kinematics import Placed, cross, place

CLOSE, BATCH, CORNERS, MOST_CORNERS = 1e-4, 32, 6, 8
FIRST, FAILING, MOST_PAIRS, GLANCES = 24, 600, 10_000, 10
"""m to which the least gap is found; boxes parted at a time; coordinates up to which all corners are tried, and up to which a box's bound is taken at its corners.
Poses tried of every pair first, and of one that is far too near; pairs up to which all are looked at; poses looked at for a first answer."""


@dataclass(frozen=True, eq=False)
class Nearest:
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


@dataclass(frozen=True, eq=False)
class RoomFound:
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


@dataclass(frozen=True, eq=False)
class Both:
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


def room(
    tree: Tree,
    solids: Sequence[Solid],
    skipped: frozenset[tuple[int, int]],
    enough: float,
    budget: int,
    course: Course = ALONE,
) -> RoomFound:
    """All pairs of solids but those skipped, (a, b) with a < b; that ride on the same link only where one lies in the other. `enough` m: what is farther apart is
    not looked at closer. At most about `budget` poses are tried for all pairs together. Raises GivenUp where `course` says stop."""
    told = _compared(tree, solids, skipped)
    if told is None:
        return RoomFound((), (), (), 0, too_many=True)
    pairs, mixed, unseen = told
    within_ = tuple(pairs[k][1:] for k in sorted(mixed))
    wanted, bounds = _not_far(tree, [pair for k, pair in enumerate(pairs) if k not in mixed], solids, enough)
    found = _together(
        tree,
        [(both, _search(tree, both, enough, FIRST, bound)) for (both, _, _), bound in zip(wanted, bounds, strict=True)],
        enough,
        course,
        "room between parts",
    )
    again = [k for k, each in enumerate(found) if not each.settled]
    share = budget // max(len(again), 1)
    if share > FIRST:
        closer = _together(
            tree,
            [(wanted[k][0], _search(tree, wanted[k][0], enough, share, bounds[k])) for k in again],
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


Pairs = list[tuple[Both, int, int]]
"""Two solids, and which they are; the hollow one first where one lies in the other."""


def _compared(
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
    mixed = {k for k, gaps in _gaps(close, None) if gaps.apart[0] < 0}
    return pairs, mixed, unseen


def glance(tree: Tree, solids: Sequence[Solid], skipped: frozenset[tuple[int, int]], enough: float) -> RoomFound:
    """The same from GLANCES poses alone, for a first answer: what is nearer than `enough` m in one of them is; of all else nothing is said."""
    told = _compared(tree, solids, skipped)
    if told is None:
        return RoomFound((), (), (), 0, too_many=True)
    pairs, mixed, unseen = told
    wanted, _ = _not_far(tree, [pair for k, pair in enumerate(pairs) if k not in mixed], solids, enough)
    wide = tree.high > tree.low
    low, high = np.where(wide, tree.low, tree.rest), np.where(wide, tree.high, tree.rest)
    rng = np.random.default_rng(0)
    many = [tree.rest, low, high, (low + high) / 2, *(np.where(s > 0, low, high) for s in rng.choice([-1, 1], (GLANCES - 4, len(low))))]  # fmt: skip
    q = complete(tree.coupling, np.stack(many, axis=1))
    placed = place(tree, q)
    frames = [frames_of(tree, placed, solid) for solid in solids]
    near = []
    for k, gaps in _gaps([(k, both, (frames[a], frames[b])) for k, (both, a, b) in enumerate(wanted)], enough):
        c = int(gaps.apart.argmin())
        if gaps.apart[c] >= enough:
            continue
        both, a, b = wanted[k]
        most, way = float(gaps.apart[c]), gaps.way[c]
        if not both.inside:  # depths and far gaps were found roughly
            alone = np.array([c])
            exact = beside(both.one, frames[a].some(alone), both.other, frames[b].some(alone))
            most, way = float(exact.apart[0]), exact.way[0]
        moving = between(tree, both.one.link, both.other.link)
        near.append(Nearest(a, b, both.inside, -np.inf, most, q[:, c].copy(), way, moving, False))
    near.sort(key=lambda each: (each.most, each.a, each.b))
    within_ = tuple(pairs[k][1:] for k in sorted(mixed))
    return RoomFound(tuple(near), within_, tuple(unseen), len(pairs) + len(unseen), glanced=True)


def _not_far(
    tree: Tree, pairs: Sequence[tuple[Both, int, int]], solids: Sequence[Solid], enough: float
) -> tuple[list[tuple[Both, int, int]], list[Bound]]:
    """The pairs of which the balls round both do not say, from the middle of all ranges, that they stay `enough` m apart, each with its bound."""
    half = np.where(tree.high > tree.low, (tree.high - tree.low) / 2, 0.0)
    middle = np.where(tree.high > tree.low, (tree.high + tree.low) / 2, tree.rest)
    placed = place(tree, complete(tree.coupling, middle[:, None].copy()))
    frames = [frames_of(tree, placed, solid) for solid in solids]
    known: dict[tuple[int, int], _Branch] = {}
    kept: list[tuple[Both, int, int]] = []
    bounds = []
    for both, a, b in pairs:
        bound = Bound(tree, both, known)
        if not both.inside and float(bound.balls((frames[a], frames[b]), half[:, None])[0]) >= enough:
            continue
        kept.append((both, a, b))
        bounds.append(bound)
    return kept, bounds


@dataclass(frozen=True, eq=False)
class _Branch:
    """What moves one of two solids: joints from the inside out, the free coordinate of each and its gain, by how far (k,) m any of its points, and its middle, move for 1 rad or m of each joint, at most; a ball by its middle alone."""

    joints: tuple[int, ...]
    leads: tuple[int, ...]
    gain: Array
    arms: Array
    middle: Array
    slides: tuple[bool, ...]
    round: bool


def _branch(tree: Tree, solid: Solid, other: Solid) -> _Branch:
    chain = [j for j in between(tree, solid.link, other.link) if solid.link >= 0 and j in tree.chains[solid.link]]
    tied, round_ = tree.coupling, solid.kind == "egg" and float(np.ptp(solid.half)) == 0.0
    far = 0.0 if round_ else solid.far
    arms, reach = np.zeros(len(chain)), 0.0
    for i, j in reversed(list(enumerate(chain))):
        if i == len(chain) - 1:
            off = solid.at - tree.pivot[j]
            across = off - tree.axis[j] * float(off @ tree.axis[j])
            arms[i], reach = float(np.linalg.norm(across)) + far, float(np.linalg.norm(off)) + far
        else:
            reach += float(np.linalg.norm(tree.pivot[chain[i + 1]] - tree.pivot[j]))
            arms[i] = reach
        if tree.slides[j]:
            reach += max(abs(float(tree.low[j])), abs(float(tree.high[j])))
            arms[i] = 1.0
    leads = tuple(tied.leader[j] for j in chain)
    gain = np.array([float(tied.gain[j]) if k != j else 1.0 for j, k in zip(chain, leads, strict=True)])
    middle = np.where(np.array([tree.slides[j] for j in chain], dtype=bool), arms, arms - far)
    return _Branch(tuple(chain), leads, gain, arms, middle, tuple(tree.slides[j] for j in chain), round_)


class Bound:
    """How near two solids may come within a box of poses, from what they are in its middle."""

    def __init__(self, tree: Tree, both: Both, known: dict[tuple[int, int], _Branch] | None = None) -> None:
        """`known` branches of solids, by which solid and towards which link, are added to."""
        self.both, self.m = both, len(tree.parent)
        known = {} if known is None else known
        ways = ((both.one, both.other), (both.other, both.one))
        for solid, other in ways:
            if (id(solid), other.link) not in known:
                known[id(solid), other.link] = _branch(tree, solid, other)
        self.branches = tuple(known[id(solid), other.link] for solid, other in ways)
        self.moves, self.middles = np.zeros(self.m), np.zeros(self.m)
        """By how far (m,) any point of one goes from the other for 1 rad or m of each free coordinate, at most; and their middles."""
        for branch in self.branches:
            for k, gain, arm, middle in zip(branch.leads, branch.gain, branch.arms, branch.middle, strict=True):
                self.moves[k] += abs(gain) * arm
                self.middles[k] += abs(gain) * middle

    def balls(self, frames: tuple[Frames, Frames], halves: Array) -> Array:
        """Never nearer than this (n,), m, in boxes of half widths `halves` (m, n) about n poses: by the balls round both alone."""
        apart = np.linalg.norm(frames[0].at - frames[1].at, axis=1) - self.both.one.far - self.both.other.far
        return np.asarray(apart - self.middles @ halves)

    def lowest(self, placed: Placed, frames: tuple[Frames, Frames], gaps: Gaps, halves: Array) -> Array:
        """Never nearer than this (n,), m, in boxes of half widths `halves` (m, n), rad and m, about n poses."""
        plain = np.asarray(gaps.apart - self.moves @ halves)
        free = np.flatnonzero((halves.max(axis=1, initial=0.0) > 0) & (self.moves > 0))
        if self.both.inside or not len(free) or len(free) > MOST_CORNERS:
            return plain
        return np.maximum(plain, self._along(placed, frames, gaps.way, free, halves))

    def _along(
        self, placed: Placed, frames: tuple[Frames, Frames], way: Array, free: NDArray[np.int64], halves: Array
    ) -> Array:
        """Along one way apart, to first order at every corner of the box, which is its worst since reach is convex, less all that higher orders may add."""
        signs = np.array(list(itertools.product((-1.0, 1.0), repeat=len(free))))
        n, corners = len(way), len(signs)
        by = np.zeros((self.m, n, corners))
        by[free] = halves[free][:, :, None] * signs.T[:, None, :]
        total, more = np.zeros((n, corners)), np.zeros(n)
        solids = (self.both.one, self.both.other)
        for branch, solid, frame, side in zip(self.branches, solids, frames, (1.0, -1.0), strict=True):
            out = side * way  # towards the other
            ways, still = np.repeat(out[:, None], corners, axis=1), np.zeros((n, corners))
            for j, k, gain, slides in zip(branch.joints, branch.leads, branch.gain, branch.slides, strict=True):
                step, axis = by[k] * gain, placed.axis[j].T
                if slides:
                    still += step * np.einsum("ni,ni->n", out, axis)[:, None]
                else:
                    turn = cross(out.T, axis.T).T
                    ways += step[:, :, None] * turn[:, None]
                    still -= step * np.einsum("ni,ni->n", turn, placed.pivot[j].T)[:, None]
            own = frame.own(out)[:, None] if branch.round else np.einsum("nij,nci->ncj", frame.turned, ways)
            total -= np.einsum("nci,ni->nc", ways, frame.at) + still
            total -= solid.reach(own.reshape(-1, 3)).reshape(n, -1)
            widths = np.abs(branch.gain)[:, None] * halves[list(branch.leads)]
            pair = np.minimum(branch.arms[:, None], branch.arms[None])
            sliding = np.array(branch.slides, dtype=bool)
            pair = np.where(sliding[:, None] | sliding[None], np.maximum(branch.arms[:, None], branch.arms[None]), pair)
            more += 0.5 * np.einsum("kn,kl,ln->n", widths, pair, widths)
        return np.asarray(total.min(axis=1) - more)


def nearest(tree: Tree, both: Both, enough: float, budget: int) -> Nearest:
    """The least gap of both over all their joints do: to CLOSE, or until it is known to be at least `enough` m, or until so many poses were tried."""
    return _together(tree, [(both, _search(tree, both, enough, budget, Bound(tree, both)))], enough)[0]


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
        for k, answer in itertools.chain(_gaps(some, care), _gaps(last, None)):
            go(k, answer)
    return [found[k] for k in range(len(searches))]


def _columns(placed: Placed, some: Any) -> Placed:
    return Placed(*(each[..., some] for each in (placed.rotation, placed.pivot, placed.axis, placed.com)))


def _gaps(asked: Sequence[tuple[int, Both, tuple[Frames, Frames]]], care: float | None) -> Iterator[tuple[int, Gaps]]:
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


def _search(tree: Tree, both: Both, enough: float, budget: int, bound: Bound) -> Search:
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
        if least >= enough or best - least <= CLOSE or tried >= budget:
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
    settled = least >= enough or best - least <= CLOSE
    return Nearest(-1, -1, both.inside, least, best, pose, way, moving, settled)
