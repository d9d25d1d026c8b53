"""The search where coordinates are tied: followers move with their leader, or something is strung between bodies, so no branch decouples and
no step is exact.

A coordinate that nothing follows, and that draws nothing longer, still has its best place in closed form: a torque is a sine of it, a
torque's square twice one. Of the others each in turn is tried at many places over its range, fine enough for what turns fastest with it, and then closed in on.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache, partial

import numpy as np

from karakuri.bodies.coordinates import complete as follow
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.turn import best_angle

STEP_RAD, MOST_LEVELS, SWEEPS, ZOOM = math.radians(10.0), 181, 8, 33
WAVES_ACROSS, CLOSER, SLID, LET_GO = 49, 2, 25, 7


def is_tied(tree: Tree, joints: tuple[int, ...]) -> bool:
    """Whether any of these joints follows another, carries a follower's load, hangs free, or is turned by more than weight."""
    tied = tree.coupling
    return any(tied.leader[k] != k or len(tied.loads[k]) > 1 or k in tied.hangs or tree.loaded[k] for k in joints)


def free_of(tree: Tree, joints: tuple[int, ...]) -> list[int]:
    """The free coordinates that move these joints, those of no range, and what hangs, left out."""
    leaders = sorted({tree.coupling.leader[k] for k in joints} - set(tree.coupling.hangs))
    return [k for k in leaders if tree.low[k] < tree.high[k]]


def levels(tree: Tree, f: int) -> Array:
    """Places (l,) over the range of free joint f, rad or m."""
    tied = tree.coupling
    fastest = max((abs(tied.gain[k]) for k, j in enumerate(tied.leader) if j == f and not tree.slides[k]), default=1.0)
    wide = (tree.high[f] - tree.low[f]) * (fastest if not tree.slides[f] else max(fastest, 1.0))
    along = tree.slides[f] and fastest <= 1
    count = (SLID if tree.loaded[f] else 5) if along else min(MOST_LEVELS, 3 + 2 * math.ceil(wide / STEP_RAD / 2))
    out: Array = np.linspace(tree.low[f], tree.high[f], count)
    return out


def _plain(tree: Tree, f: int) -> bool:
    """Whether nothing but weight depends on free joint f: no other joint follows it, nothing is strung across it, nothing lies between it and
    its drive or any that shares it, and nothing hangs that it could tilt."""
    return (
        not tree.coupling.hangs
        and not tree.loaded[f]
        and all(leader != f or k == f for k, leader in enumerate(tree.coupling.leader))
        and tree.linkage(f) is None
        and all(group.even or f not in group.reads for group in tree.groups)
    )


Value = Callable[[Array], Array]
Whole = Callable[[Array], Array]
"""Makes poses (m, n) complete, in place: what follows and what hangs to its place."""
Closed = Callable[[Array, int], Array | None]
"""Of poses q (m, n) and a free coordinate: places (l, n), rad or m, one of which is best for each column, or None: it must be searched."""


def _nowhere(q: Array, f: int) -> None:
    return None


def tied_coordinate_ascent(
    tree: Tree, value: Value, free: list[int], q: Array, closed: Closed = _nowhere, sweeps: int = SWEEPS, whole: Whole | None = None
) -> Array:  # fmt: skip
    """Make value(q), (n,), as large as steps along the free coordinates can from each column of q (m, n), rad or m, changed in place. What
    hangs may be among them: it is let go of in several places.
    `whole` completes poses where something hangs; else only what follows is put in its place."""
    whole = whole or partial(follow, tree.coupling)
    best = value(whole(q))
    some = list(free)
    for sweep in range(sweeps):
        before, gained = best.copy(), []
        for f in some:
            then = best
            known = _ways_to_hang(tree, q, f) if f in tree.coupling.hangs else closed(q, f)
            if known is not None:
                best = _tried(whole, value, q, f, known, best)
                gained += [f] if _grown(then, best) else []
                continue
            places = levels(tree, f)
            width = (places[1] - places[0]) if len(places) > 1 else 0.0
            best = _tried(whole, value, q, f, np.repeat(places[:, None], q.shape[1], axis=1), best)
            for _ in range(1 + (sweep + 1) // 2):
                best = _tried(whole, value, q, f, _closer(q[f], width, tree.low[f], tree.high[f]), best)
                width /= (ZOOM - 1) / 2
            gained += [f] if _grown(then, best) else []
        if not _grown(before, best):
            if len(some) == len(free):
                break
            some = list(free)  # those that gave nothing are asked once more
        else:
            some = gained
    return best


def tied_look(tree: Tree, value: Value, free: list[int], q: Array, near: bool = False) -> Array:
    """As tied_coordinate_ascent, in four calls, for a hand that drags, from poses that are nearly the worst: all coordinates are tried at once, each alone,
    then all where each did best; and the same again from the better of both, closer too. Nothing may hang in the tree. q (m, n) rad or m is changed in place;
    values (n,). `near`: only about where it stands."""
    whole, n = partial(follow, tree.coupling), q.shape[1]
    columns, over = np.arange(n), {f: levels(tree, f) for f in free}
    best = np.full(n, -np.inf)
    for closer in (True,) if near else (False, True):
        places = {f: np.repeat(at[:, None], n, axis=1) for f, at in over.items()}
        if closer:
            places = {f: np.concatenate([each, _near(tree, f, q[f], over[f])]) for f, each in places.items()}
        many = whole(np.concatenate([q, *(_at(q, f, each) for f, each in places.items())], axis=1))
        found, first, together = value(many).reshape(-1, n), 1, q.copy()
        for f, each in places.items():
            k = found[first : first + len(each)].argmax(axis=0)
            together[f] = np.where(found[first + k, columns] > found[0], each[k, columns], q[f])
            first += len(each)
        k = found.argmax(axis=0)
        best = _better(q, best, many.reshape(len(q), -1, n)[:, k, columns], found[k, columns])
        best = _better(q, best, whole(together), value(together))
    return best


def _better(q: Array, best: Array, poses: Array, values: Array) -> Array:
    """Put into q (m, n) the columns of poses whose values (n,) are above `best` (n,); the larger of both."""
    better = values > best
    q[:, better] = poses[:, better]
    return np.where(better, values, best)


def _near(tree: Tree, f: int, around: Array, places: Array) -> Array:
    """Places (l, n), rad or m, of coordinate f about those (n,), as far as from one of `places` (k,) to the next."""
    return _closer(around, float(places[1] - places[0]) if len(places) > 1 else 0.0, tree.low[f], tree.high[f])[::4]


def _grown(before: Array, best: Array) -> bool:
    return bool(np.any(best - before > 1e-9 * (1e-6 + np.abs(best))))


def _ways_to_hang(tree: Tree, q: Array, f: int) -> Array:
    """Places (l, n), rad or m, from which hanging joint f is let go: it may come to rest in several."""
    return np.repeat(np.linspace(tree.low[f], tree.high[f], LET_GO)[:, None], q.shape[1], axis=1)


def _closer(around: Array, width: float, low: float, high: float) -> Array:
    """Places (l, n) within `width` either way of those (n,), in low … high, rad or m."""
    return np.clip(around + np.linspace(-width, width, ZOOM)[:, None], low, high)


@lru_cache(maxsize=8)
def _fit(degree: int) -> tuple[Array, Array]:
    """Angles (k,) rad at which a trigonometric polynomial is looked at, and what (k, k) makes its coefficients of the values there:
    constant, then cosine and sine of each degree."""
    count = 2 * degree + 1
    at = np.array([2 * math.pi * k / count for k in range(count)])
    return at, np.asarray(np.linalg.inv(_waves(at, degree)), dtype=float)


def _waves(angle: Array, degree: int) -> Array:
    """1, cos, sin, cos 2, sin 2 … of angles (…,) rad, as the last axis."""
    each = [np.ones_like(angle)]
    for k in range(1, degree + 1):
        each += [np.cos(k * angle), np.sin(k * angle)]
    out: Array = np.stack(each, axis=-1)
    return out


def _at(q: Array, f: int, places: Array) -> Array:
    """Poses q (m, n) with coordinate f at places (l, n) rad or m: (m, l × n), all poses at the first of them first."""
    many = np.tile(q, (1, len(places)))
    many[f] = places.ravel()
    return many


def _largest_place(value: Value, low: float, high: float, n: int) -> Array:
    """The place (n,), rad, in low … high at which value, of places (l, n) rad, is largest in each column: by trying ever closer."""
    places = np.repeat(np.linspace(low, high, WAVES_ACROSS)[:, None], n, axis=1)
    width = (high - low) / (WAVES_ACROSS - 1)
    for _ in range(CLOSER):
        best = places[value(places).argmax(axis=0), np.arange(n)]
        places = _closer(best, width, low, high)
        width /= (ZOOM - 1) / 2
    out: Array = places[value(places).argmax(axis=0), np.arange(n)]
    return out


def of_degree(tree: Tree, value: Value, degree: int) -> Closed:
    """For a value that is a trigonometric polynomial of every turning coordinate that only weight depends on, of `degree` 1, as a torque, N·m, is,
    or 2, as its square is; along a slide of that kind it is largest at an end."""
    at, solve = _fit(degree)

    def closed(q: Array, f: int) -> Array | None:
        low, high, n = float(tree.low[f]), float(tree.high[f]), q.shape[1]
        if not _plain(tree, f):
            return None
        if tree.slides[f]:
            return np.repeat([[low], [high]], n, axis=1)
        known = solve @ value(_at(q, f, np.repeat(at[:, None], n, axis=1))).reshape(len(at), n)
        if degree == 1:
            return best_angle(known[1], known[2], low, high, q[f])[None, :]
        return _largest_place(lambda places: np.einsum("lnk,kn->ln", _waves(places, degree), known), low, high, n)[
            None, :
        ]

    return closed


def _tried(whole: Whole, value: Value, q: Array, f: int, places: Array, best: Array) -> Array:
    """Column by column the best of the places (l, n) for coordinate f, where it is better than what was."""
    n, count = q.shape[1], len(places)
    many = whole(_at(q, f, places))
    found = value(many).reshape(count, n)
    k = found.argmax(axis=0)
    top = found[k, np.arange(n)]
    better = top > best
    q[:, better] = many.reshape(len(q), count, n)[:, k, np.arange(n)][:, better]
    return np.where(better, top, best)


def best_each(q: Array, value: Array, n: int, p: int) -> Array:
    """Of each of p equal groups of poses q (m, k), rad or m, those n with the largest value (k,): what hangs may hang in several ways, and the
    steps keep to one; (m, n) for each group, one after the other."""
    k = q.shape[1] // p
    if k == n:
        return q.copy()
    order = np.sort(np.argsort(-value.reshape(p, k), axis=1, kind="stable")[:, :n], axis=1)
    return q[:, (order + np.arange(p)[:, None] * k).ravel()]
