"""Looking at a point: eyes and head share the turn, the eyes first, the head where it is far.

The head joins in beyond 15 to 20° (from memory; motion/life/glances.py). Found by least squares (scipy.optimize.least_squares, trust region reflective).
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree, build_tree
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.starts import rest_pose
from karakuri.model.figure import Figure
from karakuri.model.timings import TIMINGS, TimingKind

AIMS, TURNED_FAR, HEAD, EYES = (30.0, 3e3), 3.0, 0.25, 0.05
"""What weighs how much: that it looks there, more and more, that eyes do not turn far, that the head stays, that the eyes stay."""
NEAR_M = 1e-3


class Looked(Frozen):
    """Where joints stand to look at a point, by id, rad; how far the worst eye, or between them eyes that turn as one, look past it, rad; whether there was anything that looks."""

    pose: dict[str, float]
    off: float
    looks: bool


def look_at(figure: Figure, point_mm: tuple[float, float, float], joins_deg: float = 15.0) -> Looked:
    """The pose in which a figure looks at a point, mm from its datum; joints that neither see nor carry what sees stay at rest."""
    from scipy.optimize import least_squares

    tree = build_tree(figure)
    rest, groups = rest_pose(tree), _groups(figure, tree)
    eyes, sees = _eyes(figure, tree)
    if not eyes or not groups:
        return Looked({}, math.inf, False)
    point = np.array(point_mm) / 1e3
    low = np.array([max(tree.low[j] for j in group) for group in groups])
    high = np.array([min(tree.high[j] for j in group) for group in groups])
    is_eye = np.array([figure.joint(tree.ids[group[0]]).timed is TIMINGS["eye"] for group in groups])
    joins = math.radians(joins_deg) if sees == "eye" else 0.0

    def posed(u: Array) -> Array:
        q = rest.copy()
        for group, value in zip(groups, u, strict=True):
            q[list(group)] = value
        return complete(tree.coupling, q[:, None])

    tied = any(
        len({eye for eye in eyes if _carries(tree, j, eye)}) > 1
        for g, e in zip(groups, is_eye, strict=True)
        if e
        for j in g
    ) or any(e and len(g) > 1 for g, e in zip(groups, is_eye, strict=True))

    def residuals(u: Array, aim: float) -> Array:
        each, between = _off(tree, eyes, posed(u), point)
        far = np.maximum(np.abs(u) - joins, 0.0) * is_eye
        stays = np.where(is_eye, EYES, HEAD) * u
        out: Array = np.concatenate([aim * (between if tied else each).ravel(), TURNED_FAR * far, stays])
        return out

    start = np.clip(np.zeros(len(groups)), low + 1e-9, np.maximum(high - 1e-9, low + 2e-9))
    wide = high - low > 1e-6
    if not wide.all():
        high = np.where(wide, high, low + 1e-6)
        start = np.clip(start, low, high)
    aimed = start
    for aim in AIMS:
        inside = np.clip(aimed, low + 1e-9 * (high - low), high - 1e-9 * (high - low))
        aimed = least_squares(residuals, inside, bounds=(low, high), xtol=1e-9, ftol=1e-10, args=(aim,)).x
    each, between = _off(tree, eyes, posed(aimed), point)
    worst = float(np.linalg.norm(between) if tied else np.linalg.norm(each, axis=0).max())
    pose = {tree.ids[j]: float(value) for group, value in zip(groups, aimed, strict=True) for j in group}
    return Looked(pose, 2.0 * math.asin(min(1.0, worst / 2.0)), True)


def _carries(tree: Tree, j: int, eye: int) -> bool:
    """Whether a joint is that eye's, or carries it."""
    while eye >= 0 and eye != j:
        eye = tree.parent[eye]
    return eye == j


def _off(tree: Tree, eyes: tuple[int, ...], q: Array, point: Array) -> tuple[Array, Array]:
    """How far each eye looks past the point, (3, e), and how far they do between them, (3,): the way looked less the way to it, both of length 1."""
    placed = place(tree, q)
    looks = np.stack([placed.rotation[j, :, 0, 0] for j in eyes], axis=1)
    ways = point[:, None] - np.stack([placed.pivot[j, :, 0] for j in eyes], axis=1)
    return looks - _one(ways), _one(looks.sum(axis=1)) - _one(ways.mean(axis=1))


def _one(way: Array) -> Array:
    """Ways (3,) or (3, e) m at length 1."""
    out: Array = way / np.maximum(np.linalg.norm(way, axis=0), NEAR_M)
    return out


def _eyes(figure: Figure, tree: Tree) -> tuple[tuple[int, ...], TimingKind]:
    """The rows of what sees: the outermost joints of eyes, or where there are none of the head; and which."""
    kinds: tuple[TimingKind, ...] = ("eye", "head")
    for kind in kinds:
        rows = [tree.index(j.id) for j in figure.joints if j.kind == "turn" and j.timed is TIMINGS[kind]]
        outermost = tuple(j for j in rows if not any(tree.parent[k] == j for k in rows))
        if outermost:
            return outermost, kind
    return (), "head"


def _groups(figure: Figure, tree: Tree) -> list[tuple[int, ...]]:
    """Rows of driven joints of eyes and head, those of one ribbon together."""
    wanted = {
        j.id
        for j in figure.joints
        if j.role == "driven" and j.kind == "turn" and j.timed in (TIMINGS["eye"], TIMINGS["head"])
        if abs(j.axis[0]) < max(abs(j.axis[1]), abs(j.axis[2]))  # what leans looks nowhere else
    }
    out: list[tuple[int, ...]] = []
    done: set[str] = set()
    for channel in figure.score.moved:
        inside = tuple(tree.index(ident) for ident in channel.joints if ident in wanted)
        if inside:
            out.append(inside)
            done |= set(channel.joints)
    return out + [(tree.index(ident),) for ident in tree.ids if ident in wanted - done]
