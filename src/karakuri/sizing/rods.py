"""How a rod bends under what it carries: sag, sway, stress, buckling, play; a beam held at its foot (Roark, Euler, Rayleigh, from memory)."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.rod import area_of, rod_mass_kg, sleeve_area_of
from karakuri.bodies.tree import Tree
from karakuri.catalogue import stuff_of
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.starts import with_corners
from karakuri.mechanics.tied import free_of
from karakuri.model.part import BASE
from karakuri.model.rod import Rod

POSES = 16
EULER_FACTOR = 3.0
"""A rod is loaded to no more than a third of what buckles it: common practice, no source."""
OWN_AXIAL, OWN_SWAY = 0.3, 0.236
"""Shares of its own weight that count at its tip: for buckling (Timoshenko & Gere), and for swaying (Rayleigh, 33 ÷ 140)."""
GRIP = 0.2
"""Of a push fit, as friction: common practice, no source."""
CROOKED = 1e-3
"""A bought rod is straight to so much of its length: common practice, no source."""


class Beam(Frozen):
    """length m, area m², second moment of area m⁴, outer radius m, Young's modulus and what it bears Pa, own mass kg."""

    length: float
    area: float
    second: float
    radius: float
    young: float
    bears: float
    mass: float

    @property
    def euler(self) -> float:
        """What pressed along it buckles it, N: π² E I ÷ (2 L)², held at its foot only."""
        return math.pi**2 * self.young * self.second / (2 * self.length) ** 2


def beam_of(rod: Rod) -> Beam:
    """A rod's numbers in SI. A sleeve glued over it bends with it: areas count by stiffness (transformed section, any text on the strength of
    materials), and what the pair bears is what keeps both straight: for bending the weaker of both, for pressing no more than either."""
    stuff, sleeve, length = stuff_of(rod.stuff), stuff_of(rod.sleeve_stuff), rod.length_mm / 1e3
    outer, inner, outside = rod.thick_mm / 1e3, rod.bore_mm / 1e3, rod.outside_mm / 1e3
    young, bears = stuff["young_GPa"] * 1e9, stuff["bears_MPa"] * 1e6
    area, second = area_of(rod), math.pi * (outer**4 - inner**4) / 64
    if not rod.sleeve_mm:
        return Beam(length, area, second, outer / 2, young, bears, rod_mass_kg(rod))
    times = sleeve["young_GPa"] * 1e9 / young
    around = sleeve["bears_MPa"] * 1e6 / times  # as a stress of the rod's own stuff at the same strain
    both, weak = min(bears, around), max(outer / 2 / bears, outside / 2 / around)
    return Beam(
        length, area + times * sleeve_area_of(rod), second + times * math.pi * (outside**4 - outer**4) / 64,
        weak * both, young, both, rod_mass_kg(rod),
    )  # fmt: skip


class Bent(Frozen):
    """A rod in one pose and posture: across and along N of what it carries (along > 0 presses it), moment N·m at its tip of what sits off it;
    sag m of bending, at its tip, loose m of play there; stress Pa at its foot, alone and `bumped`; pressed N along it, its own share among
    it; gripped N that holds it in a socket; pulled N that draws it out with a bump."""

    across: float
    along: float
    moment: float
    foot: float
    sag: float
    loose: float
    stress: float
    bumped: float
    pressed: float
    gripped: float
    pulled: float
    posture: int = 0


class RodFound(Frozen):
    """Of a rod: where it sags most, where it is stressed most with a bump, where most is pressed on it, where it may slip out; by how many
    times more it carries where all that is at its highest; carried kg; sways Hz; runs_out m at its tip, of a pole that turns."""

    i: int
    beam: Beam
    carried: float
    sagging: Bent
    stressed: Bent
    pressing: Bent
    slipping: Bent
    more: float
    sways: float
    runs_out: float

    def reserves(self, sags_share: float) -> dict[str, float]:
        """What it bears ÷ what is asked: of bending for good, buckling, sagging by a share of its length, and slipping out."""
        beam = self.beam
        return {
            "bends": beam.bears / self.stressed.bumped if self.stressed.bumped > 1e-6 else math.inf,
            "buckles": beam.euler / EULER_FACTOR / self.pressing.pressed if self.pressing.pressed > 1e-9 else math.inf,
            "sags": sags_share * beam.length / (self.sagging.sag + self.sagging.loose) if self.sagging.sag + self.sagging.loose > 1e-12 else math.inf,
            "slips": self.slipping.gripped / self.slipping.pulled if self.slipping.pulled > 1e-9 else math.inf,
        }  # fmt: skip


def bent(beam: Beam, rod: Rod, mass: float, off: Array, axis: Array, gravity: Array, bump: float) -> Bent:
    """A rod with mass kg, off (3,) m from its tip, under gravity (3,) m/s², its axis (3,) from foot to tip, all in one frame; a bump of so
    many times gravity whichever way is worst.

    Sag: F L³ ÷ 3EI + M L² ÷ 2EI + w L⁴ ÷ 8EI, two bearings give M d ÷ 3EI of turn at the foot; more by 1 ÷ (1 − P ÷ P_Euler)."""
    ei, length = beam.young * beam.second, beam.length
    force = mass * gravity
    along = -float(force @ axis)
    sideways = force + along * axis
    across = float(np.linalg.norm(sideways))
    turning = np.cross(off, force)
    moment = float(np.linalg.norm(turning - axis * float(turning @ axis)))
    own = beam.mass * gravity
    own_along = -float(own @ axis)
    line = float(np.linalg.norm(own + own_along * axis)) / length
    foot = across * length + moment + line * length**2 / 2
    sag = across * length**3 / (3 * ei) + moment * length**2 / (2 * ei) + line * length**4 / (8 * ei)
    if rod.held == "two bearings":
        sag += foot * rod.depth_mm / 1e3 / (3 * ei) * length
    pressed = max(along + OWN_AXIAL * own_along, 0.0)
    grows = 1.0 / (1.0 - pressed / beam.euler) if pressed < beam.euler else math.inf
    loose = 0.0 if rod.held == "firm" else rod.play_mm / rod.depth_mm * length
    stress = foot * grows * beam.radius / beam.second + max(along + own_along, 0.0) / beam.area
    g = float(np.linalg.norm(gravity))
    jolt = bump * g * (mass * (length + float(np.linalg.norm(off))) + beam.mass * length / 2)
    bumped = stress + jolt * grows * beam.radius / beam.second
    deep = rod.depth_mm / 1e3
    gripped = GRIP * (2 * foot / deep + across + line * length)
    pulled = max(-(along + own_along) + bump * g * (mass + beam.mass), 0.0) if rod.held == "socket" else 0.0
    return Bent(across, along, moment, foot, min(sag * grows, 1e3), loose, min(stress, 1e15), min(bumped, 1e15), pressed, gripped, pulled)  # fmt: skip


def rod_found(tree: Tree, rod: Rod, i: int, gravities: Array, bump: float) -> RodFound:
    """Rod number i of the figure, over what carries its foot and all postures, gravities (p, 3) m/s²; a bump in times gravity. What it carries
    counts where it is at rest."""
    beam, link = beam_of(rod), link_of(tree, rod.rides_on)
    mass, off, spread = carried(tree, rod)
    axis = np.array(rod.tip_mm) - np.array(rod.at_mm)
    axis = axis / np.linalg.norm(axis)
    every: list[Bent] = []
    for p, g in enumerate(gravities):
        for turned in _turns(tree, link, g):
            every.append(replace(bent(beam, rod, mass, off, axis, turned.T @ g, bump), posture=p))
    stressed = max(every, key=lambda b: b.bumped)
    sways = _sways(beam, mass)
    wobble = 0.0 if rod.held == "firm" else rod.play_mm / 1e3 * (0.5 + beam.length * 1e3 / rod.depth_mm)
    return RodFound(
        i, beam, mass, max(every, key=lambda b: b.sag + b.loose), stressed, max(every, key=lambda b: b.pressed),
        max(every, key=lambda b: b.pulled - b.gripped), (mass + spread) / mass if mass > 0 else 1.0, sways,
        wobble + CROOKED * beam.length if rod.turns else 0.0,
    )  # fmt: skip


def link_of(tree: Tree, rides_on: str) -> int:
    """The link that holds something, −1 for the base."""
    return -1 if rides_on == BASE else tree.index(rides_on)


def _sways(beam: Beam, mass: float) -> float:
    return math.sqrt(3 * beam.young * beam.second / beam.length**3 / (mass + OWN_SWAY * beam.mass)) / (2 * math.pi)


def sways_at(tree: Tree, rod: Rod) -> float:
    """How fast a rod sways with what it carries, Hz (Rayleigh)."""
    return _sways(beam_of(rod), carried(tree, rod)[0])


def carried_rows(tree: Tree, rod: Rod) -> list[int]:
    """Which bodies sit at its tip: parts named, and all that rides on joints named."""
    return [
        b
        for b, body in enumerate(tree.bodies)
        if (body.id in rod.carries and body.kind == "part")
        or any(link in tree.ids and tree.rides[tree.index(link)][b] for link in rod.carries)
    ]


def carried(tree: Tree, rod: Rod) -> tuple[float, Array, float]:
    """Mass kg, where its centre is from the rod's tip (3,) m, both at rest, and by how much the mass may be off, kg."""
    rows = carried_rows(tree, rod)
    mass, more = float(tree.body_mass[rows].sum()), rod.load_g / 1e3
    tip = np.array(rod.tip_mm) / 1e3
    first = (tree.body_mass[rows, None] * (tree.body_at[rows] - tip)).sum(axis=0)
    whole = mass + more
    spread = float(sum(tree.bodies[b].bound for b in rows))
    return whole, first / whole if whole > 0 else np.zeros(3), spread


def _turns(tree: Tree, link: int, gravity: Array) -> list[Array]:
    """How what holds a rod may be turned: at rest, and at corners and places of all joints that carry it."""
    if link < 0:
        return [np.eye(3)]
    carriers = free_of(tree, tree.chains[link])
    q = with_corners(tree, carriers, POSES)
    rotation = place(tree, complete(tree, q, gravity)).rotation[link]
    return [rotation[:, :, n] for n in range(q.shape[1])]


def sag_in(tree: Tree, rod: Rod, q: Array, gravity: Array) -> Array:
    """Where its tip goes by bending in a pose q (m,), rad or m, complete, under gravity (3,) m/s²: (3,) m in the base's frame."""
    link = link_of(tree, rod.rides_on)
    turned = np.eye(3) if link < 0 else place(tree, q[:, None]).rotation[link, :, :, 0]
    axis = np.array(rod.tip_mm) - np.array(rod.at_mm)
    axis = axis / np.linalg.norm(axis)
    mass, off, _ = carried(tree, rod)
    here = turned.T @ gravity
    sag = bent(beam_of(rod), rod, mass, off, axis, here, 0.0).sag
    down = here - axis * float(here @ axis)
    size = float(np.linalg.norm(down))
    out: Array = turned @ (down / size * min(sag, rod.length_mm / 1e3)) if size > 1e-9 else np.zeros(3)
    return out
