"""How far two solids are apart, in many poses at once: outside each other along the way on which they are farthest apart, one in the hollow of the other by its flat sides.

Along any way n two convex bodies are at least min n·b − max n·a apart; the largest of these is their distance, below 0 how deep they are in one another (separating planes;
Boyd & Vandenberghe, Convex Optimization, 2.5.1 and 8.2). The way is that of the point of {b − a} nearest to nothing (Gilbert, Johnson & Keerthi 1988). What is
told is what the way found gives, so that it is never too large; a library's distances were quicker, but go on for ever where bodies lie evenly in one another.
"""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.bodies.solids import Rows, Solid, ball, single
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import cross

ROUNDS, NEAR, ROUGH = 30, 5e-6, 30.0
"""Found to NEAR m, in at most so many rounds; roughly: to that part of the distance."""
_PAIRS = tuple(itertools.combinations(range(3), 2))


class Frames(Frozen, eq=False):
    """turned (n, 3, 3), own axes to the base's, and middle at (n, 3) m of a solid in n poses."""

    turned: Array
    at: Array

    def some(self, rows: NDArray[np.int64]) -> Frames:
        """Of those poses alone."""
        return Frames(self.turned[rows], self.at[rows])

    def own(self, ways: Array) -> Array:
        """Ways (n, 3) of the base along its own axes."""
        return np.asarray(np.einsum("nij,ni->nj", self.turned, ways))

    def farthest(self, solid: Solid | Rows, ways: Array) -> Array:
        """Its points (n, 3) m farthest along ways (n, 3)."""
        return np.asarray(self.at + np.einsum("nij,nj->ni", self.turned, solid.farthest(self.own(ways))))


class Gaps(Frozen, eq=False):
    """apart (n,) m, below 0: so deep in one another; way (n, 3) from the one to the other on which they are so."""

    apart: Array
    way: Array


def beside(one: Body, a: Frames, other: Body, b: Frames, care: float | None = None) -> Gaps:
    """Of two solids, each as it is on its outside; or, row by row, of many (`rows_of`). With `care` m, roughly: what is farther apart is
    found to a part in ROUGH, what is in one another along few ways; still never told too large."""
    n = len(a.at)
    v = b.at - a.at
    v = np.where(np.linalg.norm(v, axis=1)[:, None] < 1e-9, np.array([1.0, 0.0, 0.0]), v)
    kept, there = np.zeros((n, 3, 3)), np.zeros((n, 3), dtype=bool)
    best, way = np.full(n, -np.inf), v / np.linalg.norm(v, axis=1)[:, None]
    going, deep = np.arange(n), np.zeros(n, dtype=bool)
    for _ in range(ROUNDS):
        size = np.linalg.norm(v[going], axis=1)
        ways = v[going] / size[:, None]
        fa, fb = Frames(a.turned[going], a.at[going]), Frames(b.turned[going], b.at[going])
        p = fb.farthest(_some(other, going), -ways) - fa.farthest(_some(one, going), ways)
        apart = np.einsum("ij,ij->i", ways, p)
        better = apart > best[going]
        best[going[better]], way[going[better]] = apart[better], ways[better]
        nearer, simplex, filled, inside = _nearest(kept[going], there[going], p)
        first = ~there[going].any(axis=1)
        lower = first | (np.linalg.norm(nearer, axis=1) < size - 1e-12)
        kept[going], there[going], v[going] = simplex, filled, np.where(lower[:, None], nearer, v[going])
        deep[going] |= inside | (np.linalg.norm(v[going], axis=1) < 1e-9)
        short = NEAR if care is None else np.where(best[going] > care, size / ROUGH, NEAR)
        going = going[lower & ~deep[going] & (first | (size - best[going] > short))]
        if not len(going):
            break
    rows = np.flatnonzero(deep | (best <= 0))
    if care is not None:
        _roughly_deep(_some(one, rows), a.some(rows), _some(other, rows), b.some(rows), rows, best, way)
        return Gaps(best, way)
    for k in rows:
        best[k], way[k] = _depth(_one(one, int(k)), a, _one(other, int(k)), b, int(k), float(best[k]), way[k])
    return Gaps(best, way)


Body = Solid | Rows
"""One solid in every pose, or one in each."""


def _some(body: Body, rows: NDArray[np.int64]) -> Body:
    """Those rows of it, where it has rows."""
    return body.some(rows) if isinstance(body, Rows) else body


def _one(body: Body, row: int) -> Solid:
    """The solid of one row."""
    if isinstance(body, Solid):
        return body
    return single(int(body.code[row]), body.half[row])


def _nearest(
    kept: Array, there: NDArray[np.bool_], p: Array
) -> tuple[Array, Array, NDArray[np.bool_], NDArray[np.bool_]]:
    """Of the corners kept (n, 3, 3), those there (n, 3), and the new one p (n, 3): the point of their hull nearest to nothing, the corners it lies between, which of these are there, and
    where nothing is inside. Each face with the new corner is tried; what is none, as it is flat, is passed over."""
    n = len(p)
    best, square = p.copy(), np.einsum("ij,ij->i", p, p)
    used = np.zeros((n, 3), dtype=bool)
    with np.errstate(all="ignore"):
        for i in range(3):
            e = kept[:, i] - p
            t = -np.einsum("ij,ij->i", p, e) / np.einsum("ij,ij->i", e, e)
            _take(best, square, used, p + t[:, None] * e, there[:, i] & (t > 0) & (t <= 1), (i,))
        for i, j in _PAIRS:
            e, f = kept[:, i] - p, kept[:, j] - p
            ee, ef, ff = (np.einsum("ij,ij->i", *two) for two in ((e, e), (e, f), (f, f)))
            pe, pf = np.einsum("ij,ij->i", p, e), np.einsum("ij,ij->i", p, f)
            flat = ee * ff - ef * ef
            s, t = (ef * pf - ff * pe) / flat, (ef * pe - ee * pf) / flat
            fine = there[:, i] & there[:, j] & (flat > 1e-12 * ee * ff) & (s > 0) & (t > 0) & (s + t <= 1)
            _take(best, square, used, p + s[:, None] * e + t[:, None] * f, fine, (i, j))
        e, f, g = (kept[:, i] - p for i in range(3))
        fg = cross(f.T, g.T).T
        room = np.einsum("ij,ij->i", e, fg)
        shares = [np.einsum("ij,ij->i", -p, each) / room for each in (fg, cross(g.T, e.T).T, cross(e.T, f.T).T)]
        inside = there.all(axis=1) & (np.abs(room) > 1e-18) & (np.minimum.reduce(shares) >= 0) & (sum(shares) <= 1)
    simplex, filled = np.where(used[:, :, None], kept, 0.0), used
    slot = np.argmin(filled, axis=1)  # one is always free: at most two were used
    rows = np.arange(n)
    simplex[rows, slot], filled[rows, slot] = p, True
    return best, simplex, filled, inside


def _take(
    best: Array, square: Array, used: NDArray[np.bool_], point: Array, fine: NDArray[np.bool_], corners: tuple[int, ...]
) -> None:
    """Takes the points that are fine and nearer."""
    size = np.einsum("ij,ij->i", point, point)
    nearer = fine & (size < square)
    best[nearer], square[nearer] = point[nearer], size[nearer]
    used[nearer] = False
    for i in corners:
        used[nearer, i] = True


def _roughly_deep(
    one: Body, a: Frames, other: Body, b: Frames, rows: NDArray[np.int64], best: Array, way: Array
) -> None:
    """How deep the bodies of those rows are in one another, along their own axes and from middle to middle; written into best (n,) and way (n, 3)."""
    if not len(rows):
        return
    middle = b.at - a.at
    size = np.linalg.norm(middle, axis=1)[:, None]
    tries = [np.where(size > 1e-9, middle / np.maximum(size, 1e-9), np.array([1.0, 0.0, 0.0]))]
    tries += [sign * frames.turned[:, :, k] for frames in (a, b) for k in range(3) for sign in (1.0, -1.0)]
    for ways in tries:
        apart = np.einsum("ij,ij->i", ways, middle) - one.reaches(a.own(ways)) - other.reaches(b.own(-ways))
        better = apart > best[rows]
        best[rows[better]], way[rows[better]] = apart[better], ways[better]


def _depth(one: Solid, a: Frames, other: Solid, b: Frames, k: int, best: float, way: Array) -> tuple[float, Array]:
    """The way on which the bodies of pose k are least deep in one another, of many ways all round and their own axes; never told less deep than they are."""
    axes = np.concatenate([a.turned[k].T, b.turned[k].T])
    ways = np.concatenate([ball()[0], axes, -axes])
    middle = b.at[k] - a.at[k]
    for spread in (0.0, 0.08, 0.02):
        if spread:
            ways = way + spread * ball()[0]
            ways = ways / np.linalg.norm(ways, axis=1)[:, None]
        apart = ways @ middle - one.reach(ways @ a.turned[k]) - other.reach(-ways @ b.turned[k])
        found = int(apart.argmax())
        if apart[found] > best:
            best, way = float(apart[found]), ways[found]
    return best, way


def within(shell: Solid, a: Frames, other: Solid, b: Frames) -> Gaps:
    """Of a solid in the hollow of another, to its flat sides."""
    cavity = shell.cavity
    assert cavity is not None
    n, sides = len(a.at), len(cavity.far)
    ways = np.einsum("nij,fj->nfi", a.turned, cavity.ways)
    own = np.einsum("nij,nfi->nfj", b.turned, ways).reshape(-1, 3)
    left = cavity.far - np.einsum("nfi,ni->nf", ways, b.at - a.at) - other.reach(own).reshape(n, sides)
    k = left.argmin(axis=1)
    rows = np.arange(n)
    return Gaps(left[rows, k], -ways[rows, k])
