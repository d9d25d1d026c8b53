"""Rocking: how far what is thrown about shifts where the figure presses on the floor, against how far that may go before an edge lifts.

Where all pressure of the floor may be thought to act (zero-moment point): Vukobratović and Borovac, Int. J. Humanoid Robotics 1, 2004 (from memory).
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.dynamics import thrown
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.tipping import Footing, edges

LEAST_M = 1e-6


class Rocking(Frozen, eq=False):
    """Where the shift is the largest share of what there is: at_s s, in a posture, towards an edge whose outward normal (2,) is `out`. Standing there the figure presses `may` m
    inside that edge; its motion shifts that by `shifts` m towards it, infinitely far where it leaves the floor, in a pose (m,) rad or m. `of` the joint whose wanted move does it, '' where the
    score does."""

    at_s: float
    posture: int
    out: Array
    may: float
    shifts: float
    pose: Array
    of: str = ""

    @property
    def reserve(self) -> float:
        """May ÷ shifts."""
        return self.may / self.shifts if self.shifts > LEAST_M else float("inf")


def rocking(tree: Tree, on: Footing, gravities: Array, times: Array, q: Array, qd: Array, qdd: Array) -> Rocking | None:
    """The worst of the moments (n,) s at which the figure moves so: q, qd, qdd (m, n) rad, rad/s, rad/s²; gravities (p, 3) m/s². None where nothing weighs anything, or it falls standing
    still anyway. What hangs is carried as it hangs at rest."""
    return rocking_in(tree, on, gravities, times, q, qd, qdd, (len(times),))[0] if len(times) else None


def rocking_in(
    tree: Tree, on: Footing, gravities: Array, times: Array, q: Array, qd: Array, qdd: Array, ends: tuple[int, ...]
) -> list[Rocking | None]:
    """The same of several motions one after the other in q, qd, qdd (m, n) rad, rad/s, rad/s², each up to one of the `ends`, none of them empty: all in one go. times (n,) s; gravities (p, 3) m/s²."""
    worst = list[Rocking | None]([None] * len(ends))
    if float(tree.mass.sum()) <= 0:
        return worst
    _, inward = edges(on)
    for p, (there, share, inside, shift) in enumerate(_shares(tree, on, gravities, q, qd, qdd)):
        for part, (a, b) in enumerate(zip((0, *ends[:-1]), ends, strict=True)):
            here, before = share[:, a:b], worst[part]
            k, i = np.unravel_index(int(here.argmax()), here.shape)
            if here[k, i] > 0.0 and (before is None or here[k, i] > 1.0 / before.reserve):
                at = a + int(i)
                worst[part] = Rocking(
                    float(times[at]), p, -inward[k], float(inside[k, at]), float(shift[k, at]), there[:, at]
                )
    return worst


def used(tree: Tree, on: Footing, gravities: Array, q: Array, qd: Array, qdd: Array) -> Array:
    """Of each moment (n,) of a motion q, qd, qdd (m, n) rad, rad/s, rad/s², the largest share of what there is that the shift takes, over all edges and gravities (p, 3) m/s²."""
    if float(tree.mass.sum()) <= 0:
        return np.zeros(q.shape[1])
    return np.asarray(
        np.max([share.max(axis=0) for _, share, _, _ in _shares(tree, on, gravities, q, qd, qdd)], axis=0)
    )


def _shares(
    tree: Tree, on: Footing, gravities: Array, q: Array, qd: Array, qdd: Array
) -> Iterable[tuple[Array, Array, Array, Array]]:
    """In each posture the poses (m, n) rad or m, and by edge and moment (k, n): which share of what there is the shift takes, how far inside it presses standing, m, and the shift, m."""
    total, floor = float(tree.mass.sum()), on.floor_mm / 1e3
    corners, inward = edges(on)

    def moving(there: Array) -> tuple[Array, Array, Array, Array]:
        force, moment = thrown(tree, there, qd, qdd)
        return there, force, moment, np.einsum("k,kin->in", tree.mass, place(tree, there).com)

    given = None if tree.coupling.hangs else moving(q)
    for gravity in gravities:
        there, force, moment, whole = moving(complete(tree, q.copy(), gravity)) if given is None else given
        still, turns = np.tile(-gravity[:, None] * total, (1, q.shape[1])), np.cross(whole, -gravity, axis=0)
        stands = _presses(still, turns, floor)
        goes = _presses(force + still, moment + turns, floor)
        inside = np.stack([inward[k] @ (stands - corners[k][:, None]) for k in range(len(corners))])
        shift = inside - np.stack([inward[k] @ (goes - corners[k][:, None]) for k in range(len(corners))])
        shift[:, (force + still)[2] <= 0.0] = np.inf
        share = np.where((inside > 0) & (shift > LEAST_M), shift / np.maximum(inside, LEAST_M), 0.0)
        yield there, share, inside, shift


def _presses(force: Array, moment: Array, floor: float) -> Array:
    """Where on the floor, (2, n) m, a force (3, n) N acts whose moment about the datum is (3, n) N·m, so that it turns the figure about no line in the floor."""
    down = np.where(np.abs(force[2]) > 1e-9, force[2], 1e-9)
    return np.stack([(floor * force[0] - moment[1]) / down, (moment[0] + floor * force[1]) / down])
