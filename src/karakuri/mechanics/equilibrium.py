"""Where what hangs comes to rest: the least energy near the pose before, by its own weight and what is strung to it.

Of joints that hang free, driven ones given, energy is U = −Σ m g · r + Σ stored in loads; its slope along a hanging joint is what a drive
there would have to hold. Newton's steps on that slope, never longer than a real thing would swing through in one go without passing
another rest, and never uphill: so it snaps where the real thing snaps. Where it stands on a summit it is nudged off.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.coordinates import TURN
from karakuri.bodies.coordinates import complete as follow
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.bends import slopes_and_bends
from karakuri.mechanics.kinematics import Placed, each_column, place
from karakuri.mechanics.loads import load_energy

ROUNDS, SEARCHED, STEP, NUDGE, CLOSE, NEAR = 300, 60, math.radians(15.0), 1e-3, 1e-4, math.radians(8.0)
SHARES = np.array([1.0, 0.5, 0.2, 0.05, 0.005, 0.0005])
TIGHT, ON_END = 1e-9, 4


class Equilibrium(Frozen, eq=False):
    """q (m, n) rad or m with what hangs at rest. Of each pose: `stable` (n,) it comes back when touched; `converged` (n,); `residual` (n,)
    N·m, the largest slope that is left; `at_stop` (n,) a hanging joint leans against an end of what it can reach."""

    q: Array
    stable: NDArray[np.bool_]
    converged: NDArray[np.bool_]
    residual: Array
    at_stop: NDArray[np.bool_]

    def of(self, some: slice) -> Equilibrium:
        """The same of some of the poses."""
        return Equilibrium(
            self.q[:, some], self.stable[some], self.converged[some], self.residual[some], self.at_stop[some]
        )

    def reason(self, k: int = 0) -> str:
        """In words, of pose k."""
        if not self.converged[k]:
            return f"no rest was found in {ROUNDS} steps"
        if self.at_stop[k]:
            return "it leans against its stop"
        if self.stable[k]:
            return "it hangs there and comes back when touched"
        return "it stays only as long as nothing touches it"


def energy(tree: Tree, q: Array, gravity: Array, placed: Placed | None = None) -> Array:
    """Of weight and of all loads, (n,) J, from the datum; q (m, n) rad or m, complete; gravity (3,) or (3, n) m/s²; `placed` where that is known
    already."""
    placed = placed or place(tree, q)
    weight = (tree.mass @ placed.com.reshape(len(tree.mass), -1)).reshape(3, -1) * each_column(gravity, q.shape[1])
    return np.asarray(load_energy(tree, placed, q) - weight.sum(axis=0))


def equilibrium(
    tree: Tree, q: Array, gravity: Array, rounds: int = ROUNDS, pinned: NDArray[np.bool_] | None = None
) -> Equilibrium:
    """From poses q (m, n), rad or m, let go of all that hangs; gravity (3,) or (3, n) m/s², base frame. q itself is left as it is.
    `pinned` (h, n): which of the h that hang are held in which pose, where they stand."""
    hangs = list(tree.coupling.hangs)
    n = q.shape[1]
    q = follow(tree.coupling, q.copy())
    if not hangs:
        yes = np.ones(n, dtype=bool)
        return Equilibrium(q, yes, yes, np.zeros(n), ~yes)
    low, high = (np.repeat(end[:, None], n, axis=1) for end in stopped(tree))
    if pinned is not None:
        low, high = np.where(pinned, q[hangs], low), np.where(pinned, q[hangs], high)
    most = np.where(np.array(tree.slides)[hangs], 0.005, STEP)[:, None]
    q[hangs] = np.clip(q[hangs], low, high)
    follow(tree.coupling, q)
    g = np.ascontiguousarray(np.broadcast_to(gravity if gravity.ndim == 2 else gravity[:, None], (3, n)))
    scale = 1e-9 + float(tree.mass.sum()) * float(np.linalg.norm(g, axis=0).max(initial=0.0)) * 0.01
    slope, bend = slopes_and_bends(tree, q, g)
    if pendulums(tree):
        _let_swing(tree, q, slope, bend, low, high)
        slope, bend = slopes_and_bends(tree, q, g)
    going, stored = np.arange(n), energy(tree, q, g)
    for _ in range(rounds):
        here, slopes, bends = q[:, going], slope[:, going], bend[going]
        least, greatest = low[:, going], high[:, going]
        held = _held(here[hangs], slopes, least, greatest)
        values, ways = _spectrum(bends, held)
        pulls = np.where(held, 0.0, slopes)
        flat = np.abs(pulls).max(axis=0) <= TIGHT * scale
        summit = flat & (values[:, 0] < -1e-6 * scale)
        # nothing pulls on a summit: there it is touched, the way it falls off most steeply
        left = ~flat | summit
        if not left.any():
            break
        along = np.einsum("nij,in->nj", ways, pulls)
        step = -np.einsum("nij,nj->in", ways, along / np.maximum(np.abs(values), 1e-3 * scale))
        step = np.where(summit, NUDGE * ways[:, :, 0].T, step)
        share = (most / np.maximum(np.abs(step), 1e-12)).min(axis=0)
        step = np.where(held, 0.0, step * np.minimum(1.0, share))
        going, here, step, pulled = going[left], here[:, left], step[:, left], np.abs(pulls[:, left]).max(axis=0)
        least, greatest = least[:, left], greatest[:, left]
        bowl = (values[left, 0] > 0) & (np.abs(step).max(axis=0) < NEAR)
        gs, before = g[:, going], here[hangs].copy()
        far = np.flatnonzero((share[left] < 1.0) & ~bowl)
        times = np.ones(len(going))
        if len(far):
            many = (here[:, far], gs[:, far], step[:, far], least[:, far], greatest[:, far])
            times[far] = _so_far(tree, *many, stored[going[far]])
        here[hangs] = np.clip(before + times * step, least, greatest)
        at = place(tree, follow(tree.coupling, here))
        new, bent = slopes_and_bends(tree, here, gs, at)
        after = energy(tree, here, gs, at)
        # no other steps are tried where it is lower and still downhill at this one's end, nor in a bowl, its floor in sight, where less slope is left
        now = np.abs(np.where(_held(here[hangs], new, least, greatest), 0.0, new)).max(axis=0)
        downhill = (np.einsum("hn,hn->n", new, step) <= 0) & (after < stored[going])
        bad = np.flatnonzero(~np.where(bowl, now <= 0.7 * pulled + TIGHT * scale, downhill))
        if len(bad):
            back = here[:, bad]
            back[hangs] = before[:, bad]
            follow(tree.coupling, back)
            _walk(tree, back, gs[:, bad], step[:, bad], least[:, bad], greatest[:, bad])
            here[:, bad] = back
            at = place(tree, back)
            new[:, bad], bent[bad] = slopes_and_bends(tree, back, gs[:, bad], at)
            after[bad] = energy(tree, back, gs[:, bad], at)
        q[:, going], slope[:, going], bend[going], stored[going] = here, new, bent, after
    held = _held(q[hangs], slope, low, high)
    for h in hangs:
        if _unwound(tree, h):
            q[h] -= 2 * TURN * np.rint(q[h] / (2 * TURN))
    values, _ = _spectrum(bend, held)
    residual = np.abs(np.where(held, 0.0, slope)).max(axis=0)
    return Equilibrium(q, values[:, 0] > 0, residual <= 1e3 * TIGHT * scale, residual, np.asarray(held.any(axis=0)))


@lru_cache(maxsize=64)
def pendulums(tree: Tree) -> bool:
    """Whether all that hangs turns, by weight alone, with nothing that follows it and nothing else that hangs from it."""
    hangs = set(tree.coupling.hangs)
    return not any(
        tree.slides[h] or tree.loaded[h] or hangs & set(tree.below[h]) or not _unwound(tree, h) for h in hangs
    )


def _let_swing(tree: Tree, q: Array, slope: Array, bend: Array, low: Array, high: Array) -> None:
    """Pendulums in q (m, n) straight down to where each is lowest, for alone the energy is a sine of its angle; or to the stop on that way;
    between low and high (h, n) or (h, 1)."""
    for i, h in enumerate(tree.coupling.hangs):
        q[h] = np.clip(q[h] + np.arctan2(-slope[i], bend[:, i, i]), low[i], high[i])
        q[h] -= np.where(np.isfinite(low[i]), 0.0, 2 * TURN * np.rint(q[h] / (2 * TURN)))


def _held(at: Array, slope: Array, low: Array, high: Array) -> NDArray[np.bool_]:
    """Which hanging coordinates (k, n) lean against an end, or have nowhere to go."""
    return np.asarray(((at <= low) & (slope > 0)) | ((at >= high) & (slope < 0)) | (low >= high))


def _unwound(tree: Tree, h: int) -> bool:
    """Whether a turn more or less of hanging joint h is the same: nothing is wound up by it, and nothing follows it."""
    wound = any(load.turns_joint for load in tree.loaded[h])
    return not tree.slides[h] and not wound and len([k for k in tree.coupling.leader if k == h]) == 1


def stopped(tree: Tree) -> tuple[Array, Array]:
    """The ends, (h,) rad or m, low and high, between which each of h hanging joints can swing: its stops; without any, round and round."""
    hangs = list(tree.coupling.hangs)
    round_and_round = ~np.array(tree.slides)[hangs] & (tree.high[hangs] - tree.low[hangs] >= 2 * TURN)
    return np.where(round_and_round, -np.inf, tree.low[hangs]), np.where(round_and_round, np.inf, tree.high[hangs])


def complete(tree: Tree, q: Array, gravity: Array) -> Array:
    """q (m, n), rad or m, with every follower where its leader puts it, and all that hangs at rest under gravity (3,) or (3, n) m/s²,
    from where it stands in q; changed in place and returned."""
    if not tree.coupling.hangs:
        return follow(tree.coupling, q)
    if pendulums(tree):
        follow(tree.coupling, q)
        pull = np.broadcast_to(gravity if gravity.ndim == 2 else gravity[:, None], (3, q.shape[1]))
        low, high = (end[:, None] for end in stopped(tree))
        _let_swing(tree, q, *slopes_and_bends(tree, q, pull), low, high)
    else:
        q[:] = equilibrium(tree, q, gravity, SEARCHED).q
    return q


def _spectrum(bend: Array, held: NDArray[np.bool_]) -> tuple[Array, Array]:
    """Principal bends (n, k), the softest first, and their ways (n, k, k); what leans against a stop counts as firm."""
    firm = held.T
    some = np.where(firm[:, :, None] | firm[:, None, :], 0.0, bend)
    index = np.arange(some.shape[1])
    some[:, index, index] = np.where(firm, 1e9, some[:, index, index])
    values, ways = np.linalg.eigh(some)
    return values, ways


def _so_far(tree: Tree, q: Array, g: Array, step: Array, low: Array, high: Array, stored: Array) -> Array:
    """How many of some steps (h, n) on end it goes down at each, (n,), at least one, from poses q (m, n) with energies (n,) J: it passes nothing that
    single steps would not."""
    hangs, n = list(tree.coupling.hangs), q.shape[1]
    many = np.tile(q, (1, ON_END))
    many[hangs] = np.concatenate([np.clip(q[hangs] + k * step, low, high) for k in range(1, ON_END + 1)], axis=1)
    levels = energy(tree, follow(tree.coupling, many), np.tile(g, (1, ON_END))).reshape(ON_END, n)
    falls = np.diff(np.concatenate([stored[None], levels]), axis=0) < 0
    return np.asarray(np.maximum(np.logical_and.accumulate(falls, axis=0).sum(axis=0), 1.0))


def _walk(tree: Tree, q: Array, g: Array, step: Array, low: Array, high: Array) -> None:
    """Go as much of a step (k, n), or of one of its parts, as lowers the energy most, column by column; changes q."""
    hangs, n = list(tree.coupling.hangs), q.shape[1]
    if float(np.abs(step).max(initial=0.0)) < CLOSE:  # energy is too flat there to tell anything
        q[hangs] = np.clip(q[hangs] + step, low, high)
        follow(tree.coupling, q)
        return
    parts = np.eye(len(hangs))[:, :, None] * step[None] if len(hangs) > 1 else np.zeros((0, *step.shape))
    ways = np.concatenate([step[None], parts])  # where one coordinate is at a kink, the others still get on
    tries = q[hangs] + (SHARES[:, None, None, None] * ways[None]).reshape(-1, *step.shape)
    tries = np.clip(tries, low, high).transpose(1, 0, 2)
    many = np.tile(q, (1, tries.shape[1]))
    many[hangs] = tries.reshape(len(hangs), -1)
    after = energy(tree, follow(tree.coupling, many), np.tile(g, (1, tries.shape[1]))).reshape(-1, n)
    best = after.argmin(axis=0)
    q[hangs] = tries[:, best, np.arange(n)]
    follow(tree.coupling, q)
