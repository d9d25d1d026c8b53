"""What a motion does to a rod and what it carries: how it is thrown about, swinging at its own pace, against what it bears."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import place, place_points
from karakuri.mechanics.swing import felt
from karakuri.model.rod import Rod
from karakuri.sizing.rods import EULER_FACTOR, OWN_AXIAL, Beam, Bent, beam_of, bent, carried_rows, link_of, sways_at

STEP_S = 0.005
DAMPING = 0.01
"""Of critical, of a rod by itself: common practice, no source."""
AWAY = (1 / 1.15, 1.15)
"""So many times as fast it may sway as is reckoned: what holds it gives too. Common practice, no source."""
LOOKED_AT, LEAST_STIFF = 24, 0.05


class Whipped(Frozen, eq=False):
    """Rod number i at its worst moment, s, in a posture: `what` it does, as of a rod that stands, by the reserve of that, and the least that it has where it sways a little slower or faster than
    reckoned; `hard` m/s² is how it is thrown, weight among it, `bent` what that makes of it; `of` the joint whose wanted move does it, '' where the score does."""

    i: int
    what: str
    reserve: float
    low: float
    hard: float
    at_s: float
    posture: int
    bent: Bent
    beam: Beam
    sways: float
    of: str = ""


def lead_s(tree: Tree, rod: Rod) -> float:
    """For how long, s, a rod still feels what it was pushed with: to a twentieth, ten seconds at most."""
    return min(3.0 / (DAMPING * 2 * math.pi * sways_at(tree, rod)), 10.0)


def whipped(tree: Tree, rod: Rod, i: int, gravities: Array, times: Array, poses: Array) -> Whipped | None:
    """Rod number i over motions: poses (m, s, n) rad or m at times (n,) s, STEP_S apart, of s motions, each begun at rest; gravities (p, 3) m/s². What hangs is carried as it hangs at rest. None
    where nothing moves it, or it and what it carries weigh nothing."""
    m, motions, n = poses.shape
    beam, sways = beam_of(rod), sways_at(tree, rod)
    rows, load, link = carried_rows(tree, rod), rod.load_g / 1e3, link_of(tree, rod.rides_on)
    mass = float(tree.body_mass[rows].sum()) + load
    if n < 3 or mass + beam.mass <= 0:
        return None
    foot, tip = np.array(rod.at_mm) / 1e3, np.array(rod.tip_mm) / 1e3
    axis = (tip - foot) / np.linalg.norm(tip - foot)
    worst: Whipped | None = None
    for p, gravity in enumerate(gravities):
        q = poses.reshape(m, -1)
        q = complete(tree, q.copy(), gravity) if tree.coupling.hangs else q
        placed = place(tree, q)
        turned = np.tile(np.eye(3)[:, :, None], (1, 1, q.shape[1])) if link < 0 else placed.rotation[link]
        tip_at = place_points(tree, placed, link, tip[None])[0]
        first = load * tip_at
        for k in rows:
            first = first + tree.body_mass[k] * place_points(tree, placed, int(tree.body_link[k]), tree.body_at[k : k + 1])[0]  # fmt: skip
        centre = first / mass if mass > 0 else tip_at
        off = np.einsum("jin,jn->in", turned, centre - tip_at)
        path = centre.reshape(3, motions, n)
        hard = np.zeros_like(path)
        hard[..., 1:-1] = np.diff(path, 2, axis=-1) / STEP_S**2
        pushed = np.einsum("jin,jn->in", turned, gravity[:, None] - hard.reshape(3, -1)).reshape(3, motions, n)
        along = np.einsum("i,isn->sn", axis, pushed)
        across = pushed - axis[:, None, None] * along
        found, pressed = [], -float(along.mean()) * (mass + OWN_AXIAL * beam.mass)
        softer = math.sqrt(
            max(1.0 - pressed / beam.euler, LEAST_STIFF)
        )  # what presses along it slows it, what pulls makes it quicker
        for times_as_fast in (softer, *(softer * away for away in AWAY)):
            swung = felt(across, STEP_S, sways * times_as_fast, DAMPING) + axis[:, None, None] * along
            found.append(_worst(beam, rod, mass, off, axis, swung.reshape(3, -1)))
        what, reserve, k, there = found[0]
        low = min(each[1] for each in found)
        here = Whipped(i, what, reserve, low, float(np.linalg.norm(there)), float(times[k % n]), p, bent(beam, rod, mass, off[:, k], axis, there, 0.0), beam, sways * softer)  # fmt: skip
        worst = here if worst is None else worse(worst, here)
    return worst


def worse(one: Whipped, other: Whipped) -> Whipped:
    """The one that leaves less, with the least that either may have."""
    return replace(min(one, other, key=_reserve), low=min(one.low, other.low))


def _reserve(found: Whipped) -> float:
    return found.reserve


def _worst(beam: Beam, rod: Rod, mass: float, off: Array, axis: Array, swung: Array) -> tuple[str, float, int, Array]:
    """Of what is felt (3, n) m/s² in the rod's own frame, with what it carries off (3, n) m its tip: what it does worst, its reserve, at which sample, and what is felt there, (3,)."""
    along = axis @ swung
    sideways = np.linalg.norm(swung - axis[:, None] * along, axis=0)
    turning = np.linalg.norm(np.cross(off, swung, axis=0), axis=0)
    moment = sideways * (mass * beam.length + beam.mass * beam.length / 2) + mass * turning
    some = {int(k) for values in (moment, along, -along) for k in np.argsort(-values)[:LOOKED_AT]}
    best = ("", math.inf, 0)
    for k in sorted(some):
        there = bent(beam, rod, mass, off[:, k], axis, swung[:, k], 0.0)
        each = {
            "bends": beam.bears / there.stress if there.stress > 1e-6 else math.inf,
            "buckles": beam.euler / EULER_FACTOR / there.pressed if there.pressed > 1e-9 else math.inf,
            "slips": there.gripped / there.pulled if there.pulled > 1e-9 else math.inf,
        }
        what = min(each, key=lambda name: each[name])
        if each[what] < best[1]:
            best = (what, each[what], k)
    return *best, swung[:, best[2]]
