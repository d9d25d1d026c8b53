"""A joint that nothing drives: whether it tips, hangs or floats, where it comes to rest, and what makes it so.

How firmly it comes back is U″, the bend of the energy along it: what swings below its pivot and springs add to it, what stands above takes
from it (U″ = k − m g z for a mass z above a pivot with a spring k; any text on stability).
"""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.bends import load_slopes_and_bends, slopes_and_bends
from karakuri.mechanics.equilibrium import Equilibrium, equilibrium
from karakuri.mechanics.kinematics import Placed, carried_mass, cross, dot, place, place_points
from karakuri.mechanics.starts import corners_first
from karakuri.mechanics.statics import carried_centre, inertia_about_axis
from karakuri.mechanics.tied import free_of

POSES = 8
"""In so many places of the driven joints, besides rest, a free one is looked at."""


class Hanging(Frozen, eq=False):
    """Joint j in one posture and with the driven joints in one place, let go where it is drawn; `posture` by its number. `rests` rad (m) where it comes to rest, `at_stop` there, found
    or not (`converged`); `moment` N·m (N) that would hold it where it is drawn; `back` and `over`, N·m/rad (N/m), what brings it back there
    and what tips it over; per source (s,) the share of each, N·m/rad; `pressed` (s,) N·m (N) by which each source presses it against the stop
    it leans on (below 0: pulls it off), `jolt` N·m (N) by which a bump may pull it off; `away`: the driven joints are
    not at rest; `inertia` kg·m² (kg); centre (3,) m from the pivot; `mass` kg."""

    j: int
    drawn: float
    rests: float
    at_stop: bool
    converged: bool
    moment: float
    back: float
    over: float
    shares: Array
    inertia: float
    centre: Array
    mass: float
    firm_at_rest: float
    pressed: Array
    jolt: float
    posture: int = 0
    away: bool = False

    @property
    def reserve(self) -> float:
        """What brings it back ÷ what tips it over, where it is drawn; infinity where nothing does."""
        return self.back / self.over if self.over > 1e-12 else math.inf

    @property
    def lies(self) -> bool:
        """Whether it leans against a stop where it is drawn: then what presses it there counts, not whether it would come back."""
        return self.at_stop and abs(self.rests - self.drawn) < 1e-3

    @property
    def pressing(self) -> float:
        """All that presses it against its stop, N·m (N)."""
        return float(self.pressed[self.pressed > 0].sum())

    @property
    def pulling(self) -> float:
        """All weight and force that pulls it off its stop, N·m (N), without a bump."""
        return float(-self.pressed[self.pressed < 0].sum())

    @property
    def swings_Hz(self) -> float:
        """Small swings about where it rests, Hz; 0 where it leans against a stop or nothing brings it back."""
        firm = 0.0 if self.at_stop else max(self.firm_at_rest, 0.0)
        return math.sqrt(firm / self.inertia) / (2 * math.pi) if self.inertia > 1e-15 else 0.0


def hangings(tree: Tree, gravities: Array, bump: float) -> tuple[tuple[Hanging, ...], ...]:
    """Each free joint, in every posture, gravities (p, 3) m/s², and with the driven joints that carry it at rest and all over their ranges,
    corners first; bump m/s² whichever way is worst. Other free joints hang where they come to rest with it."""
    joints = tree.coupling.free
    drawn = [_drawn(tree, j) for j in joints]
    p, out = len(gravities), []
    each = [(np.tile(poses, (1, p)), np.repeat(gravities.T, poses.shape[1], axis=1)) for poses in drawn]
    for j, (poses, gravity), (let_go, held) in zip(joints, each, _at_rest(tree, joints, each), strict=True):
        n = poses.shape[1] // p
        found = _let_go(tree, j, poses, gravity, bump, let_go, held)
        out.append(tuple(replace(one, posture=k // n, away=k % n > 0) for k, one in enumerate(found)))
    return tuple(out)


def _drawn(tree: Tree, j: int) -> Array:
    """Poses (m, n), rad or m, in which free joint j is looked at: at rest, and over the ranges of what carries it and what is strung to it."""
    carriers = [k for k in free_of(tree, tree.chains[j]) if k != j]
    pulled = [
        k for load in tree.loaded[j] for link in load.links if link >= 0 for k in free_of(tree, tree.chains[link])
    ]
    moving = sorted({*carriers, *pulled} - {j})
    poses = np.repeat(tree.rest[:, None], 1 + (POSES if moving else 0), axis=1)
    low, high = tree.low[moving, None], tree.high[moving, None]
    poses[moving, 1:] = low + corners_first(len(moving), poses.shape[1] - 1, POSES * 3 // 4) * (high - low)
    return poses


def _at_rest(tree: Tree, joints: tuple[int, ...], each: list[tuple[Array, Array]]) -> list[tuple[Equilibrium, Array]]:
    """Of poses (m, n) and gravities (3, n) m/s² for each free joint: all let go, and the poses (m, n) in which that joint is held as drawn and
    all else that is free is let go. In one search, for its cost is that of its calls, not of their columns."""
    if not joints:
        return []
    free, widths = _all_free(tree), [poses.shape[1] for poses, _ in each]
    q, g = (np.concatenate([pair[i] for pair in each], axis=1) for i in (0, 1))
    pinned = np.zeros((len(joints), q.shape[1]), dtype=bool)
    ends = np.cumsum(widths)
    for i, (end, width) in enumerate(zip(ends.tolist(), widths, strict=True)):
        pinned[i, end - width : end] = True
    found = equilibrium(free, np.tile(q, (1, 2)), np.tile(g, (1, 2)), pinned=np.hstack([np.zeros_like(pinned), pinned]))
    places = [slice(end - width, end) for end, width in zip(ends.tolist(), widths, strict=True)]
    return [(found.of(place), found.q[:, place.start + q.shape[1] : place.stop + q.shape[1]]) for place in places]


def _let_go(
    tree: Tree, j: int, drawn: Array, gravity: Array, bump: float, let_go: Equilibrium, held: Array
) -> list[Hanging]:
    """Of each of n poses (m, n), rad or m, each under its own gravity (3, n) m/s²: where all comes to rest, and where the rest does with
    joint j `held` (m, n)."""
    alone, turns = _alone(tree, j), not tree.slides[j]
    at_held, at_rest = place(tree, held), place(tree, let_go.q)
    slope, _ = slopes_and_bends(alone, held, gravity, at_held)
    _, shares = source_terms(tree, j, held, gravity, at_held)
    rests = let_go.q[j]
    ends = np.minimum(np.abs(rests - tree.low[j]), np.abs(rests - tree.high[j])) < 1e-6
    at_stop = let_go.at_stop & ends
    way = np.where(np.abs(rests - tree.low[j]) < 1e-6, 1.0, -1.0)
    pressed = (
        np.where(at_stop, way * source_terms(tree, j, let_go.q, gravity, at_rest)[0], 0.0)
        if at_stop.any()
        else 0.0 * shares
    )
    jolts = np.where(at_stop, bump * _lever(tree, j, at_rest), 0.0)
    centres = carried_centre(tree, at_held)[j] - at_held.pivot[j]
    firm = slopes_and_bends(alone, let_go.q, gravity, at_rest)[1]
    mass = float(carried_mass(tree)[j])
    inertia = inertia_about_axis(tree, let_go.q, j) if turns else np.full(drawn.shape[1], mass)
    return [
        Hanging(
            j=j,
            drawn=float(drawn[j, k]),
            rests=float(rests[k]),
            at_stop=bool(at_stop[k]),
            converged=bool(let_go.converged[k]),
            moment=float(slope[0, k]),
            back=float(shares[shares[:, k] > 0, k].sum()),
            over=float(-shares[shares[:, k] < 0, k].sum()),
            shares=shares[:, k],
            inertia=float(inertia[k]),
            centre=centres[:, k],
            mass=mass,
            firm_at_rest=float(firm[k, 0, 0]),
            pressed=pressed[:, k],
            jolt=float(jolts[k]),
        )
        for k in range(drawn.shape[1])
    ]


class Rest(Frozen):
    """A place, rad or m, where a free joint may stay by itself; `stays`: it comes back there when touched, else it tips away from it."""

    at: float
    stays: bool


def holding_curve(tree: Tree, j: int, pose: Array, gravity: Array, count: int = 181) -> tuple[Array, Array]:
    """Places (count,) rad or m over all that free joint j can reach, and what would hold it there, (count,) N·m (N); driven ones as in pose
    (m,), other free ones at rest; gravity (3,) m/s²."""
    places = np.linspace(float(tree.low[j]), float(tree.high[j]), count)
    held = _others_free(tree, j)
    q = np.repeat(pose[:, None], count, axis=1)
    q[j] = places
    q = equilibrium(held, q, gravity).q
    slope, _ = slopes_and_bends(_alone(tree, j), q, np.repeat(gravity[:, None], count, axis=1))
    return places, slope[0]


def rests(places: Array, holds: Array, stopped: bool) -> tuple[Rest, ...]:
    """All places, rad or m, along a curve (k,) of what would hold it there, N·m, where it may stay by itself: where that changes its sign, and,
    where its ends are stops, ends it leans against."""
    found = [Rest(float(places[0]), True)] if stopped and holds[0] > 0 else []
    for a, b, x, y in zip(places[:-1], places[1:], holds[:-1], holds[1:], strict=True):
        if (x < 0) != (y < 0):
            found.append(Rest(float(a + (b - a) * x / (x - y)) if x != y else float(a), bool(y > x)))
    return (*found, Rest(float(places[-1]), True)) if stopped and holds[-1] < 0 else tuple(found)


def _lever(tree: Tree, j: int, placed: Placed) -> Array:
    """kg·m (kg), (n,): what an acceleration of what joint j carries turns it with at most."""
    mass = float(carried_mass(tree)[j])
    if tree.slides[j]:
        return np.full(placed.com.shape[-1], mass)
    arm = cross(placed.axis[j], carried_centre(tree, placed)[j] - placed.pivot[j])
    return np.asarray(mass * np.sqrt(dot(arm, arm)))


def source_terms(tree: Tree, j: int, q: Array, gravity: Array, at: Placed | None = None) -> tuple[Array, Array]:
    """What each source adds to the slope of the energy along joint j in poses q (m, n), (s, n) N·m (N), and to how firmly it comes back, (s, n)
    N·m/rad (N/m): slopes and bends with that source alone, of all that moves with joint j; gravity (3, n) m/s²; `at` where all is, if known."""
    alone, n = _alone(tree, j), q.shape[1]
    amounts = tree.amounts
    slopes, bends = np.zeros((len(amounts), n)), np.zeros((len(amounts), n))
    at = at or place(tree, q)
    bodies = len(tree.body_mass)
    plain = len(tree.coupling.loads[j]) == 1  # nothing follows it: all bodies at once
    if plain and bodies:
        slopes[:bodies], bends[:bodies] = _of_bodies(tree, j, at, gravity)
    for i in range(len(amounts)):
        if i < bodies and (plain or not any(tree.rides[k, i] for k, _ in tree.coupling.loads[j])):
            continue
        if i >= bodies:
            slope, bend = load_slopes_and_bends(alone, q, tree.loads[i - bodies], at)
        else:
            com = np.zeros_like(at.com)
            link = int(tree.body_link[i])
            com[link] = place_points(tree, at, link, tree.body_at[i : i + 1])[0]
            slope, bend = slopes_and_bends(_only(alone, i), q, gravity, replace(at, com=com))
        slopes[i], bends[i] = slope[0], bend[:, 0, 0]
    return slopes, bends


def _of_bodies(tree: Tree, j: int, at: Placed, gravity: Array) -> tuple[Array, Array]:
    """The same of the weight of every body, (k, n) each, where nothing follows joint j: −m a · (r × g) and −m a · ((a × r) × g)."""
    n = gravity.shape[1]
    slopes, bends = np.zeros((len(tree.body_mass), n)), np.zeros((len(tree.body_mass), n))
    axis = at.axis[j]
    for link in tree.carried(j):
        rows = np.flatnonzero(tree.body_link == link)
        if not len(rows):
            continue
        mass = tree.body_mass[rows][:, None]
        if tree.slides[j]:
            slopes[rows] = -mass * dot(axis, gravity)
            continue
        arm = (place_points(tree, at, link, tree.body_at[rows]) - at.pivot[j]).transpose(1, 0, 2)
        a, g = axis[:, None], gravity[:, None]
        slopes[rows] = -mass * dot(a, cross(arm, g))
        bends[rows] = -mass * dot(a, cross(cross(a, arm), g))
    return slopes, bends


def _only(tree: Tree, i: int) -> Tree:
    """The tree with body i alone."""
    m = len(tree.ids)
    mass, com = np.zeros(m + 1), np.zeros((m + 1, 3))
    mass[tree.body_link[i]], com[tree.body_link[i]] = tree.body_mass[i], tree.body_at[i]
    return replace(tree, mass=mass, com=com, loads=())


def _alone(tree: Tree, j: int) -> Tree:
    """The tree in which joint j is all that hangs."""
    return replace(tree, coupling=replace(tree.coupling, hangs=(j,)))


def _all_free(tree: Tree) -> Tree:
    """The tree in which what rubs hangs too, as if it did not."""
    return replace(tree, coupling=replace(tree.coupling, hangs=tree.coupling.free))


def _others_free(tree: Tree, j: int) -> Tree:
    """The tree in which joint j is held and all else that is free hangs."""
    return replace(tree, coupling=replace(tree.coupling, hangs=tuple(h for h in tree.coupling.free if h != j)))
