"""What holds something on, against its weight and a bump any way: pulled off, shifted, and peeled from one edge, together.

One face holds with a pull P, against shifting with S, and against tilting with P × half its spread (half of what holds on each edge). Asked of
it at once, pull ÷ P + shift ÷ S + tilt ÷ what it holds against tilting is at most 1: the straight line between what each could do alone, never
more than it can.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.elements.magnets import BR_TESLA, THIN_SHARE, pull_when_shut
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import cross, dot, place, place_points
from karakuri.mechanics.starts import with_corners
from karakuri.model.fastening import Bands, Fastened, HookLoop, MagnetFace
from karakuri.model.figure import Figure
from karakuri.sizing.drag import over_all

SLIPS = 0.2
"""Share of its pull that a magnet holds against shifting, on steel or another magnet: common practice, no source."""
ELASTIC_SLIPS = 0.3
LOOP_PULL_PA, LOOP_SHEAR_PA, LOOP_PEEL = 50e3, 80e3, 250.0
"""Hook and loop: what a square metre holds straight off and along it, and a metre of edge against peeling, N/m. From memory of makers' tables."""
MAGNETS_OFF, LOOP_OFF, BANDS_OFF = 0.2, 0.5, 0.3
POSES, STEPS = 16, 16
STEP_S = 1e-3
"""Over so short a time the way of a weight is looked at, to tell how hard it is thrown."""
SIDEWAYS = tuple(np.array([x, y, z]) / np.sqrt(3.0) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1))
HAND_N = 22.2
"""What one hand should need at most to work something (ADA 309.4, ISO 21542)."""


class Grip(Frozen):
    """What a face holds: straight off and along it, N; against tilting, N·m; `off` the share by which that may be wrong."""

    pull: float
    shear: float
    tilt: float
    off: float


class FastenedFound(Frozen, eq=False):
    """Fastening i of a figure where most is asked of it: pull and shear N, tilt N·m with twist in shear; `used` the sum of shares; mass kg it
    holds, with bound kg, arm m from its face to its weight; `outgrown_by` the first thing added with which it is; posture by its number."""

    i: int
    grip: Grip
    pull: float
    shear: float
    tilt: float
    used: float
    mass: float
    bound: float
    arm: float
    outgrown_by: str
    posture: int

    @property
    def reserve(self) -> float:
        """What it could hold ÷ what is asked of it, at that place."""
        return 1.0 / self.used if self.used > 1e-12 else float("inf")

    @property
    def low(self) -> float:
        """The same with its masses and its grip at their worst."""
        heavier = 1.0 + (self.bound / self.mass if self.mass > 0 else 0.0)
        return self.reserve * (1 - self.grip.off) / heavier

    @property
    def holds_kg(self) -> float:
        """As much as it could hold with its weight where it is."""
        return self.mass * self.reserve


def grip_of(fastening: Fastened) -> Grip:
    """What a face holds by what it is made of."""
    half = fastening.spread_mm / 2e3
    if isinstance(fastening, MagnetFace):
        steel = fastening.on != "magnet"
        one = pull_when_shut(fastening.wide_mm / 1e3, fastening.thick_mm / 1e3, BR_TESLA[fastening.grade], steel, fastening.gap_mm / 1e3)  # fmt: skip
        pull = one * fastening.count * (THIN_SHARE if fastening.on == "thin steel" else 1.0)
        return Grip(pull, SLIPS * pull, pull * max(half, fastening.wide_mm / 2e3), MAGNETS_OFF)
    if isinstance(fastening, HookLoop):
        area = fastening.long_mm * fastening.wide_mm / 1e6 * fastening.count
        edge = LOOP_PEEL * fastening.wide_mm / 1e3 * fastening.count
        lever = max(fastening.long_mm, fastening.spread_mm) / 1e3
        return Grip(LOOP_PULL_PA * area, LOOP_SHEAR_PA * area, edge * lever, LOOP_OFF)
    assert isinstance(fastening, Bands)
    pull = fastening.pull_N * fastening.count
    return Grip(pull, ELASTIC_SLIPS * pull, pull * half, BANDS_OFF)


def pressing_N(figure: Figure, joint_id: str) -> float:
    """By how much what holds a joint on by magnets presses its bearing together, N: what turns on it rubs with that too."""
    return sum(
        grip_of(each).pull for each in figure.fastenings if isinstance(each, MagnetFace) and joint_id in each.carries
    )


def fastened(it: Fastened, tree: Tree, i: int, gravities: Array, bump: float) -> FastenedFound | None:
    """Fastening number i under gravities (p, 3) m/s² and a bump of so many m/s² any way, with joints at the corners of their ranges. None where it
    holds nothing that weighs anything."""
    grip, rows = grip_of(it), held_rows(tree, it.carries)
    mass = float(tree.body_mass[rows].sum())
    if mass <= 0:
        return None
    free = [k for k in range(len(tree.ids)) if tree.coupling.leader[k] == k and tree.low[k] < tree.high[k]]
    poses = with_corners(tree, free, POSES)
    q, pulls, _ = over_all(tree, poses, gravities, 1)
    placed, n = place(tree, q), q.shape[1]
    centre = np.zeros((3, n))
    for k in rows:
        centre += tree.body_mass[k] * place_points(tree, placed, int(tree.body_link[k]), tree.body_at[k : k + 1])[0]
    link = tree.ids.index(it.rides_on) if it.rides_on in tree.ids else -1
    way = np.array(it.off) / np.linalg.norm(it.off)
    ends = np.stack([np.array(it.at_mm) / 1e3, np.array(it.at_mm) / 1e3 + way])
    face, tip = place_points(tree, placed, link, ends)
    starts = np.array((*np.eye(3), *-np.eye(3), *SIDEWAYS))
    every = (1, len(starts))  # each place from each start: (3, s n)
    asking = _Asking(
        grip, np.tile(centre / mass - face, every), np.tile(tip - face, every), max(it.spread_mm / 2e3, 1e-4)
    )
    pulls, way = np.tile(pulls, every), np.repeat(starts.T, n, axis=1)
    best, force = np.full(n * len(starts), -1.0), np.zeros_like(way)
    for _ in range(STEPS):  # what is asked is convex in the bump: its steepest way is never worse than the one before
        here = mass * (pulls + bump * way)
        used, steep = asking.used(here)
        better = used > best
        best, force = np.where(better, used, best), np.where(better, here, force)
        size = np.sqrt(dot(steep, steep))
        way = np.where(size > 1e-12, steep / np.maximum(size, 1e-12), way)
    k = int(best.argmax())
    pull, shear, tilt = (float(each[k]) for each in asking.parts(force)[:3])
    used_most, posture, away = float(best[k]), k % n // (n // len(gravities)), float(np.linalg.norm(asking.arm[:, k]))
    bound = float(tree.body_bound[rows].sum())
    by = _outgrown_by(tree, rows, mass, used_most)
    return FastenedFound(i, grip, pull, shear, tilt, used_most, mass, bound, away, by, posture)


class Thrown(Frozen):
    """Fastening i where a score, or a wanted move, asks most of it: at_s s, the sum of shares `used`, mass kg it holds, `hard` the acceleration of that, m/s²; posture by its number; `of` the
    joint whose wanted move it is, '' where it is the score."""

    i: int
    at_s: float
    used: float
    mass: float
    hard: float
    posture: int
    of: str = ""

    @property
    def reserve(self) -> float:
        """What it could hold ÷ what is asked of it then."""
        return 1.0 / self.used if self.used > 1e-12 else float("inf")


def thrown(
    it: Fastened, tree: Tree, i: int, gravities: Array, times: Array, q: Array, qd: Array, qdd: Array
) -> Thrown | None:
    """Fastening number i at moments (n,) s of a motion q, qd, qdd (m, n) rad, rad/s, rad/s², under gravities (p, 3) m/s²: the weight of what it holds and what its motion asks besides. None
    where it holds nothing that weighs anything."""
    grip, rows = grip_of(it), held_rows(tree, it.carries)
    mass = float(tree.body_mass[rows].sum())
    if mass <= 0 or not len(times):
        return None
    link = tree.ids.index(it.rides_on) if it.rides_on in tree.ids else -1
    way = np.array(it.off) / np.linalg.norm(it.off)
    ends = np.stack([np.array(it.at_mm) / 1e3, np.array(it.at_mm) / 1e3 + way])

    def centre(poses: Array) -> Array:
        placed, out = place(tree, poses), np.zeros((3, poses.shape[1]))
        for k in rows:
            out += tree.body_mass[k] * place_points(tree, placed, int(tree.body_link[k]), tree.body_at[k : k + 1])[0]
        return np.asarray(out / mass)

    def moving(at: Array) -> tuple[_Asking, Array]:
        here, bends = centre(at), qdd * STEP_S**2 / 2
        hard = (centre(at + qd * STEP_S + bends) - 2 * here + centre(at - qd * STEP_S + bends)) / STEP_S**2
        face, tip = place_points(tree, place(tree, at), link, ends)
        return _Asking(grip, here - face, tip - face, max(it.spread_mm / 2e3, 1e-4)), hard

    given, best = None if tree.coupling.hangs else moving(q), None
    for posture, gravity in enumerate(gravities):  # what hangs is carried as it hangs at rest
        asking, hard = moving(complete(tree, q.copy(), gravity)) if given is None else given
        used = asking.used(mass * (gravity[:, None] - hard))[0]
        k = int(used.argmax())
        if best is None or used[k] > best.used:
            best = Thrown(i, float(times[k]), float(used[k]), mass, float(np.linalg.norm(hard[:, k])), posture)
    return best


class _Asking(Frozen, eq=False):
    """What forces on a weight ask of a grip: arm (3, n) m from the face to the weight, normal (3, n) the way it comes off, half m its spread."""

    grip: Grip
    arm: Array
    normal: Array
    half: float

    def parts(self, force: Array) -> tuple[Array, Array, Array, Array, Array, Array]:
        """Of forces (3, n) N: pull and shear N, with twist in it, tilt N·m, each (n,); and along the face, twist, tilting as they point."""
        out = dot(self.normal, force)
        along = force - self.normal * out
        turning = cross(self.arm, force)
        twist = dot(self.normal, turning)
        tilting = turning - self.normal * twist
        shear = np.sqrt(dot(along, along)) + np.abs(twist) / self.half
        return np.maximum(out, 0.0), shear, np.sqrt(dot(tilting, tilting)), along, twist, tilting

    def used(self, force: Array) -> tuple[Array, Array]:
        """The sum of shares (n,), and how it grows with the force, (3, n) 1/N."""
        pull, shear, tilt, along, twist, tilting = self.parts(force)
        used = pull / self.grip.pull + shear / self.grip.shear + tilt / self.grip.tilt
        size = np.maximum(np.sqrt(dot(along, along)), 1e-12)
        steep = self.normal * (pull > 0) / self.grip.pull + along / size / self.grip.shear
        steep = steep + np.sign(twist) * cross(self.normal, self.arm) / (self.half * self.grip.shear)
        steep = steep + cross(tilting / np.maximum(tilt, 1e-12), self.arm) / self.grip.tilt
        return used, steep


def held_rows(tree: Tree, carries: tuple[str, ...]) -> list[int]:
    """Which bodies come off with it: parts named, and all that rides on joints named."""
    links = {j for ident in carries if ident in tree.ids for j in tree.carried(tree.index(ident))}
    parts = set(carries)
    return [k for k, link in enumerate(tree.body_link.tolist()) if link in links or (tree.bodies[k].kind == "part" and tree.bodies[k].id in parts)]  # fmt: skip


def _outgrown_by(tree: Tree, rows: list[int], mass: float, used: float) -> str:
    """The first thing, in the order in which they were added, with which it is outgrown; '' where it is not."""
    so_far, could = 0.0, mass / used if used > 0 else float("inf")
    for k in rows:
        so_far += float(tree.body_mass[k])
        if so_far > could:
            return tree.bodies[k].name
    return ""
