"""The figure as a tree of links: what mechanics computes with. SI, radians, the datum's frame with the figure at rest."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.coordinates import Coupling, complete, coupling, led, reach
from karakuri.bodies.elements import load_of, origin_of
from karakuri.bodies.elements.contract import Load
from karakuri.bodies.inertia import ORIGIN_BOUNDS, Array, centre_mm, part_inertia, part_mass_kg
from karakuri.bodies.linkages import linkages_of
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.linkages.shared import Group
from karakuri.bodies.rod import rod_mass_kg
from karakuri.frozen import Frozen
from karakuri.model.element import About, Anchor
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.part import BASE
from karakuri.model.ref import Ref, RefKind
from karakuri.model.stand import Posture

_REFS: dict[str, RefKind] = {"part": "part", "servo": "drive", "element": "element", "rod": "rod"}


class Body(Frozen, eq=False):
    """One weighed thing: a part, a servo, fitted ballast, or half of an element at one of its ends. `link` is −1 for the base."""

    id: str
    name: str
    kind: str
    link: int
    at: tuple[float, float, float]
    mass: float
    bound: float
    origin: str
    movable: bool

    @property
    def ref(self) -> Ref:
        """What of the figure it is."""
        return Ref(_REFS[self.kind], self.id)


class Source(Frozen):
    """What asks something of a drive: a body by its weight, or an element by its force."""

    ref: Ref
    name: str
    origin: str


class Tree(Frozen, eq=False):
    """Joints parents first. Arrays: parent (m,), axis, pivot, low, high per joint; link arrays have m + 1 rows, base last.

    mass (m+1,) kg; com (m+1, 3) m from the datum; inertia (m+1, 3, 3) kg·m² about each link's own centre of mass.
    Of the bodies: body_at (k, 3) m, body_link (k,), body_mass, body_bound (k,) kg. `loads` are what pulls besides gravity. Computing takes
    these; `bodies`, `elements` and `ids` are for names. `linkages` lie between joints and their drives, one for each joint, or none at all; `groups`
    are drives that share joints: those have no linkage of their own.
    """

    ids: tuple[str, ...]
    parent: tuple[int, ...]
    axis: Array
    pivot: Array
    slides: tuple[bool, ...]
    low: Array
    high: Array
    mass: Array
    com: Array
    inertia: Array
    bodies: tuple[Body, ...]
    body_at: Array
    body_link: NDArray[np.int64]
    body_mass: Array
    body_bound: Array
    unknown: tuple[tuple[str, int], ...]
    coupling: Coupling
    loads: tuple[Load, ...] = ()
    elements: tuple[Source, ...] = ()
    linkages: tuple[Linkage | None, ...] = ()
    groups: tuple[Group, ...] = ()

    @cached_property
    def sources(self) -> tuple[Source, ...]:
        """All that asks something of drives: the bodies, then the elements."""
        return (*(Source(body.ref, body.name, body.origin) for body in self.bodies), *self.elements)

    @property
    def amounts(self) -> Array:
        """How much there is of each source: kg of a body, the share of its force of a load; (k + loads,)."""
        return np.concatenate([self.body_mass, [load.scale for load in self.loads]])

    @property
    def amount_bounds(self) -> Array:
        """By how much each of these may be off, kg and shares."""
        return np.concatenate([self.body_bound, [load.scale * load.bound for load in self.loads]])

    @cached_property
    def rest(self) -> Array:
        """The pose nearest to all zeros within the ranges, (m,) rad or m; what follows stands where its leader puts it. Not to be written to."""
        return complete(self.coupling, np.clip(np.zeros(len(self.ids)), self.low, self.high)[:, None])[:, 0]

    @cached_property
    def chains(self) -> tuple[tuple[int, ...], ...]:
        """For each joint, the joints from the base out to it, itself last."""
        out: list[tuple[int, ...]] = []
        for j, p in enumerate(self.parent):
            out.append((*(out[p] if p >= 0 else ()), j))
        return tuple(out)

    @cached_property
    def below(self) -> tuple[tuple[int, ...], ...]:
        """For each joint, all that ride on it, directly or not."""
        out: list[list[int]] = [[] for _ in self.parent]
        for k in reversed(range(len(out))):  # parents come first
            if self.parent[k] >= 0:
                out[self.parent[k]] += [k, *out[k]]
        return tuple(tuple(sorted(each)) for each in out)

    @cached_property
    def children(self) -> tuple[tuple[int, ...], ...]:
        """For each joint, those that ride directly on it."""
        out: list[list[int]] = [[] for _ in self.parent]
        for k, p in enumerate(self.parent):
            if p >= 0:
                out[p].append(k)
        return tuple(map(tuple, out))

    @cached_property
    def rides(self) -> NDArray[np.bool_]:
        """Which bodies turn with which joint, (m, k)."""
        m = len(self.parent)
        turns_with = np.zeros((m, m + 1), dtype=bool)
        for j in range(m):
            turns_with[j, [j, *self.below[j]]] = True
        return turns_with[:, self.body_link]

    def spanned(self, load: Load) -> tuple[int, ...]:
        """Joints that a load turns: those that carry some points of its way and not all of them, or the one it is about."""
        if load.idle:
            return ()
        if load.turns_joint:
            return (load.joint,)
        count: dict[int, int] = {}
        for link in load.links:
            for j in self.chains[link] if link >= 0 else ():
                count[j] = count.get(j, 0) + 1
        return tuple(sorted(j for j, n in count.items() if n < len(load.links)))

    @cached_property
    def loaded(self) -> tuple[tuple[Load, ...], ...]:
        """For each joint, the loads that turn it."""
        out: list[list[Load]] = [[] for _ in self.parent]
        for load in self.loads:
            for j in self.spanned(load):
                out[j].append(load)
        return tuple(map(tuple, out))

    def linkage(self, j: int) -> Linkage | None:
        """What lies between joint j and its drive; None where its own shaft turns it."""
        return self.linkages[j] if self.linkages else None

    def group(self, j: int) -> Group | None:
        """The drives that share joints with that of joint j, its own among them; None where it turns its joint alone."""
        return next((group for group in self.groups if j in group.joints), None)

    def index(self, joint_id: str) -> int:
        """Place of a joint in the arrays. Raises ValueError."""
        return self.ids.index(joint_id)

    def carried(self, j: int) -> frozenset[int]:
        """Links that turn with joint j: its own and those below."""
        return frozenset((j, *self.below[j]))


def ordered_joints(figure: Figure) -> tuple[Joint, ...]:
    """The joints, parents first, otherwise in the figure's order."""
    out: list[Joint] = []
    done = {BASE}
    waiting = list(figure.joints)
    while waiting:
        ready = [joint for joint in waiting if joint.rides_on in done]
        out += ready
        done |= {joint.id for joint in ready}
        waiting = [joint for joint in waiting if joint.id not in done]
    return tuple(out)


def build_tree(figure: Figure) -> Tree:
    """The tree of a figure. Growth is added to parts; a servo is a body on the joint's parent, at the pivot by default."""
    joints = ordered_joints(figure)
    ids = tuple(joint.id for joint in joints)
    place = {joint_id: i for i, joint_id in enumerate(ids)} | {BASE: -1}
    m = len(ids)
    parent = tuple(place[joint.rides_on] for joint in joints)
    axis = np.array([_unit(joint.axis) for joint in joints]).reshape(m, 3)
    pivot = np.array([joint.at_mm for joint in joints]).reshape(m, 3) / 1e3
    slides = tuple(joint.kind == "slide" for joint in joints)
    low, high = (np.array([reach(joint)[i] for joint in joints]).reshape(m) for i in (0, 1))
    tied = coupling(figure, ids)
    low, high = led(tied, low, high)
    linkages, groups = linkages_of(figure, ids, tied)
    bodies, unknown = _bodies(figure, place)
    mass, com, inertia = _lumped(figure, bodies, m)
    body_at = np.array([body.at for body in bodies]).reshape(-1, 3) / 1e3
    body_link = np.array([body.link for body in bodies], dtype=np.int64)
    body_mass, body_bound = (
        np.array([getattr(body, name) for body in bodies]).reshape(-1) for name in ("mass", "bound")
    )
    return Tree(
        ids=ids,
        parent=parent,
        axis=axis,
        pivot=pivot,
        slides=slides,
        low=low,
        high=high,
        mass=mass,
        com=com,
        inertia=inertia,
        bodies=bodies,
        body_at=body_at,
        body_link=body_link,
        body_mass=body_mass,
        body_bound=body_bound,
        unknown=unknown,
        coupling=tied,
        loads=tuple(load_of(element, place) for element in figure.elements),
        elements=tuple(Source(Ref("element", e.id), e.name, origin_of(e)) for e in figure.elements),
        linkages=linkages,
        groups=groups,
    )


def wanted_range(joint: Joint) -> tuple[float, float]:
    """Wanted range of a joint: low and high in rad (turn) or m (slide)."""
    low, high = joint.range
    return low * joint.measure.si, high * joint.measure.si


def posture_rotation(posture: Posture) -> Array:
    """Rotation (3, 3) from the base's frame to the room's: rolled about x, then leaned nose-down about y, from deg."""
    p, r = math.radians(posture.lean_deg), math.radians(posture.roll_deg)
    about_y = np.array([[math.cos(p), 0, math.sin(p)], [0, 1, 0], [-math.sin(p), 0, math.cos(p)]])
    about_x = np.array([[1, 0, 0], [0, math.cos(r), -math.sin(r)], [0, math.sin(r), math.cos(r)]])
    out: Array = about_y @ about_x
    return out


def posture_gravity(posture: Posture, gravity: float) -> Array:
    """What pulls, (3,) m/s², from gravity in m/s², in the base's frame: gravity seen from the leaning base, less the base's acceleration."""
    out: Array = posture_rotation(posture).T @ np.array([0.0, 0.0, -gravity]) - np.array(posture.acceleration_mps2)
    return out


def _unit(axis: tuple[float, float, float]) -> tuple[float, float, float]:
    length = math.hypot(*axis)
    return (axis[0] / length, axis[1] / length, axis[2] / length)


def _bodies(figure: Figure, place: dict[str, int]) -> tuple[tuple[Body, ...], tuple[tuple[str, int], ...]]:
    materials = {material.id: material for material in figure.materials}
    growth = 1.0 + figure.assumptions.growth_percent / 100.0
    bodies: list[Body] = []
    unknown: list[tuple[str, int]] = []
    for part in figure.parts:
        known = part_mass_kg(part, materials)
        if known is None:
            unknown.append((part.id, place[part.rides_on]))
            continue
        mass, bound, origin = known
        bodies.append(
            Body(
                id=part.id,
                name=part.name,
                kind="part",
                link=place[part.rides_on],
                at=centre_mm(part),
                mass=mass * growth,
                bound=bound * growth,
                origin=origin,
                movable=part.movable,
            )
        )
    for drive in figure.drives:
        joint = figure.joint(drive.joint)
        mass = drive.actuator.mass_g / 1e3
        share = ORIGIN_BOUNDS[drive.actuator.mass_origin]
        first = drive.at_mm or joint.at_mm
        for k, at in enumerate((first, drive.other_at_mm or first)[: drive.servos]):
            bodies.append(
                Body(
                    id=drive.id,
                    name=f"{'second ' if k else ''}servo of {joint.name}",
                    kind="servo",
                    link=place[figure.mounted_on(drive)],
                    at=at,
                    mass=mass,
                    bound=mass * share,
                    origin=drive.actuator.mass_origin,
                    movable=False,
                )
            )
    return (*bodies, *_of_elements(figure, place), *_of_rods(figure, place)), tuple(unknown)


def _of_elements(figure: Figure, place: dict[str, int]) -> Iterable[Body]:
    """What elements weigh: half at each end; a spring about a joint, on what the joint rides on."""
    for element in figure.elements:
        if element.mass_g <= 0:
            continue
        if isinstance(element, About):
            joint = figure.joint(element.joint)
            ends: tuple[Anchor, ...] = (Anchor(rides_on=joint.rides_on, at_mm=joint.at_mm),)
        else:
            ends = element.ends
        mass = element.mass_g / 1e3 / len(ends)
        for end in ends:
            yield Body(
                id=element.id,
                name=element.name,
                kind="element",
                link=place[end.rides_on],
                at=end.at_mm,
                mass=mass,
                bound=mass * ORIGIN_BOUNDS[element.origin],
                origin=element.origin,
                movable=False,
            )


def _of_rods(figure: Figure, place: dict[str, int]) -> Iterable[Body]:
    """What rods weigh, typical of their stuff: halves at two places along, so that each turns about its middle as a slender rod does."""
    for rod in figure.rods:
        mass = rod_mass_kg(rod) / 2
        for share in (0.5 - 0.5 / math.sqrt(3), 0.5 + 0.5 / math.sqrt(3)):
            x, y, z = (a + share * (b - a) for a, b in zip(rod.at_mm, rod.tip_mm, strict=True))
            yield Body(
                id=rod.id,
                name=rod.name,
                kind="rod",
                link=place[rod.rides_on],
                at=(x, y, z),
                mass=mass,
                bound=mass * ORIGIN_BOUNDS["typical"],
                origin="typical",
                movable=False,
            )


def _lumped(figure: Figure, bodies: tuple[Body, ...], m: int) -> tuple[Array, Array, Array]:
    parts = {part.id: part for part in figure.parts}
    mass, first, about = np.zeros(m + 1), np.zeros((m + 1, 3)), np.zeros((m + 1, 3, 3))
    at = np.array([body.at for body in bodies]).reshape(-1, 3) / 1e3
    weight, link = np.array([body.mass for body in bodies]), np.array([body.link for body in bodies], dtype=np.int64)
    own = np.zeros((len(bodies), 3, 3))
    for i, body in enumerate(bodies):
        if body.kind == "part":
            own[i] = part_inertia(parts[body.id], body.mass)
    own += weight[:, None, None] * (
        np.einsum("ki,ki->k", at, at)[:, None, None] * np.eye(3) - at[:, :, None] * at[:, None, :]
    )
    np.add.at(mass, link, weight)
    np.add.at(first, link, weight[:, None] * at)
    np.add.at(about, link, own)
    com = np.divide(first, mass[:, None], out=np.zeros_like(first), where=mass[:, None] > 0)
    shift = mass[:, None, None] * (
        np.einsum("ij,ij->i", com, com)[:, None, None] * np.eye(3) - com[:, :, None] * com[:, None, :]
    )
    return mass, com, about - shift
