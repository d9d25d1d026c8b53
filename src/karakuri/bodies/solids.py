"""Parts as convex bodies: how far each reaches any way, and the inside of a hollow one as a cavity with flat sides.

A mesh is taken by its outermost corners, so that dents are filled; a sheet and a point have no body. A cavity's flat sides stand on the shell's own outside,
corners on it, less its wall: never larger than it is, at most 0.4 % of its size smaller.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from functools import cache, cached_property

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array, turned
from karakuri.frozen import Frozen
from karakuri.model.part import Box, Cylinder, Ellipsoid, Mesh, Part, Sphere

SIDES, FINE = 96, 16


class Cavity(Frozen, eq=False):
    """Flat sides: ways (f, 3) out, unit, and how far (f,) m each is from the middle, along the shell's own axes."""

    ways: Array
    far: Array


WAYS = np.array([w for w in itertools.product((-1.0, 0.0, 1.0), repeat=3) if any(w)])
WAYS = WAYS / np.linalg.norm(WAYS, axis=1)[:, None]
"""Ways (26, 3), unit, to the sides, edges and corners of a cube."""


class Solid(Frozen, eq=False):
    """One part on link `link` (−1 the base): middle at (3,) m and turned (3, 3), own axes to the figure's, at rest; half (3,) m: of a box half its sides, of an
    egg its semi-axes, of a cylinder radius, radius, half its height; corners (k, 3) m of a mesh from its middle. wall m of a hollow one, else 0; `open`: a tube
    without ends. far m: from its middle to its farthest point."""

    kind: str
    link: int
    at: Array
    turned: Array
    half: Array
    corners: Array
    wall: float
    open: bool
    far: float
    inner: Array | None = None
    """Of a mesh flat sides (k, 4) of what is surely free inside, its wall not yet taken off: unit way and m from its middle."""

    def reach(self, ways: Array) -> Array:
        """How far (n,) m it reaches from its middle along ways (n, 3), unit, along its own axes."""
        if self.kind == "box":
            out: Array = np.abs(ways) @ self.half
        elif self.kind == "egg":
            out = np.asarray(np.linalg.norm(ways * self.half, axis=1))
        elif self.kind == "cylinder":
            out = self.half[0] * np.hypot(ways[:, 0], ways[:, 1]) + self.half[2] * np.abs(ways[:, 2])
        else:
            out = np.asarray((ways @ self.corners.T).max(axis=1))
        return out

    def reaches(self, ways: Array) -> Array:
        """The same, by its points: (n,) m along ways (n, 3), unit, along its own axes."""
        return np.asarray(np.einsum("ij,ij->i", self.farthest(ways), ways))

    def farthest(self, ways: Array) -> Array:
        """Its points (n, 3) m farthest along ways (n, 3), along its own axes."""
        if self.kind == "box":
            return np.asarray(np.where(ways < 0, -self.half, self.half))
        if self.kind == "egg":
            scaled = ways * self.half
            return np.asarray(self.half * scaled / np.maximum(np.linalg.norm(scaled, axis=1), 1e-300)[:, None])
        if self.kind == "cylinder":
            out = np.empty_like(ways)
            out[:, :2] = (
                self.half[..., :2] * ways[:, :2] / np.maximum(np.hypot(ways[:, 0], ways[:, 1]), 1e-300)[:, None]
            )
            out[:, 2] = np.where(ways[:, 2] < 0, -self.half[..., 2], self.half[..., 2])
            return out
        return np.asarray(self.corners[(ways @ self.corners.T).argmax(axis=1)])

    def away(self, points: Array) -> Array:
        """How far (n,) m points (n, 3), along its own axes, are from it at least; not above 0 inside it. Never too large."""
        off = np.abs(points)
        if self.kind == "box":
            beyond = off - self.half
            out = np.linalg.norm(np.maximum(beyond, 0.0), axis=1)
            return np.asarray(np.where(out > 0, out, beyond.max(axis=1)))
        if self.kind == "egg":
            return np.asarray((np.linalg.norm(points / self.half, axis=1) - 1.0) * self.half.min())
        if self.kind == "cylinder":
            around, along = np.hypot(points[:, 0], points[:, 1]) - self.half[0], off[:, 2] - self.half[2]
            out = np.hypot(np.maximum(around, 0.0), np.maximum(along, 0.0))
            return np.asarray(np.where(out > 0, out, np.maximum(around, along)))
        return np.asarray((points @ WAYS.T - self.reach(WAYS)).max(axis=1))

    @cached_property
    def cavity(self) -> Cavity | None:
        """Its inside; None of what is not hollow, and of a mesh of which nobody knows what is free inside."""
        if self.wall <= 0:
            return None
        if self.kind == "mesh":
            far = self.inner[:, 3] - self.wall if self.inner is not None else np.zeros(0)
            return Cavity(self.inner[:, :3], far) if self.inner is not None and len(far) and far.min() > 0 else None
        if self.kind == "box":
            ways = np.concatenate([np.eye(3), -np.eye(3)])
            return Cavity(ways, np.tile(self.half, 2) - self.wall)
        if self.kind == "cylinder":
            angles = (np.arange(SIDES) + 0.5) * 2 * math.pi / SIDES
            ways = np.stack([np.cos(angles), np.sin(angles), 0 * angles], axis=1)
            far = np.full(SIDES, self.half[0] * math.cos(math.pi / SIDES))
            if not self.open:
                ways = np.concatenate([ways, [[0.0, 0.0, 1.0], [0.0, 0.0, -1.0]]])
                far = np.concatenate([far, np.full(2, self.half[2])])
            return Cavity(ways, far - self.wall)
        corners = ball()[0] * self.half
        a, b, c = (corners[ball()[1][:, k]] for k in range(3))
        across = np.cross(b - a, c - a)
        ways = across / np.linalg.norm(across, axis=1)[:, None]
        return Cavity(ways, np.einsum("ij,ij->i", ways, a) - self.wall)

    @cached_property
    def points(self) -> Array:
        """Corners (k, 3) m on its outside, along its own axes, whose hull it is, or nearly so: for drawing it."""
        if self.kind == "box":
            return np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], dtype=float) * self.half
        if self.kind == "egg":
            return np.asarray(ball()[0] * self.half)
        if self.kind == "cylinder":
            angles = np.arange(48) * 2 * math.pi / 48
            rim = np.stack([np.cos(angles), np.sin(angles), 1 + 0 * angles], axis=1)
            return np.concatenate([rim, rim * (1, 1, -1)]) * self.half
        return self.corners


CODES = {"box": 0, "egg": 1, "cylinder": 2}


class Rows(Frozen, eq=False):
    """Many solids that are no meshes, a row each: which kind (n,), as CODES say, and half (n, 3) m."""

    code: NDArray[np.int64]
    half: Array

    def some(self, rows: NDArray[np.int64]) -> Rows:
        """Of those rows alone."""
        return Rows(self.code[rows], self.half[rows])

    def farthest(self, ways: Array) -> Array:
        """Their points (n, 3) m farthest along ways (n, 3), along their own axes."""
        corners = np.where(ways < 0, -self.half, self.half)
        scaled = ways * self.half
        long = np.maximum(np.sqrt(np.einsum("ij,ij->i", scaled, scaled)), 1e-300)[:, None]
        rim = self.half * scaled / long
        wide = np.maximum(np.hypot(ways[:, 0], ways[:, 1]), 1e-300)[:, None]
        drum = np.concatenate([self.half[:, :2] * ways[:, :2] / wide, corners[:, 2:]], axis=1)
        code = self.code[:, None]
        return np.asarray(np.where(code == 0, corners, np.where(code == 1, rim, drum)))

    def reaches(self, ways: Array) -> Array:
        """How far (n,) m each reaches from its middle along its way (n, 3), along its own axes."""
        return np.asarray(np.einsum("ij,ij->i", self.farthest(ways), ways))


def single(code: int, half: Array) -> Solid:
    """One of such rows by itself, about its own middle; half (3,) m."""
    kind = next(name for name, each in CODES.items() if each == code)
    return Solid(kind, -1, np.zeros(3), np.eye(3), half, np.zeros((0, 3)), 0.0, False, float(np.linalg.norm(half)))


def rows_of(solids: Sequence[Solid], counts: Sequence[int]) -> Rows:
    """Solids that are no meshes, each in so many rows."""
    code = np.array([CODES[each.kind] for each in solids], dtype=np.int64)
    return Rows(np.repeat(code, counts), np.repeat(np.stack([each.half for each in solids]), counts, axis=0))


@cache
def ball() -> tuple[Array, NDArray[np.int64]]:
    """Corners (k, 3) of a ball of radius 1 and its flat triangles (f, 3): an octahedron, each edge parted in FINE, drawn out to the ball."""
    steps = [(i, j) for i in range(FINE + 1) for j in range(FINE + 1 - i)]
    number = {step: k for k, step in enumerate(steps)}
    face = [(number[i, j], number[i + 1, j], number[i, j + 1]) for i, j in steps if i + j < FINE]
    face += [(number[i + 1, j], number[i + 1, j + 1], number[i, j + 1]) for i, j in steps if i + j < FINE - 1]
    flat = np.array([(i, j, FINE - i - j) for i, j in steps], dtype=float)
    signs = [np.array(sign) for sign in itertools.product((1.0, -1.0), repeat=3)]
    corners = np.concatenate([flat * sign for sign in signs])
    outwards = [np.array(face) if sign.prod() > 0 else np.array(face)[:, ::-1] for sign in signs]
    faces = np.concatenate([each + k * len(steps) for k, each in enumerate(outwards)])
    unique, back = np.unique(corners, axis=0, return_inverse=True)
    return unique / np.linalg.norm(unique, axis=1)[:, None], back.reshape(-1)[faces]


def solid_of(part: Part, link: int) -> Solid | None:
    """A part's body; None of a point and of a sheet, which gives way."""
    shape, none = part.shape, np.zeros((0, 3))
    if isinstance(shape, Box):
        kind, half = "box", np.array(shape.size_mm) / 2e3
        far = float(np.linalg.norm(half))
    elif isinstance(shape, Sphere):
        kind, half = "egg", np.full(3, shape.radius_mm / 1e3)
        far = float(half[0])
    elif isinstance(shape, Ellipsoid):
        kind, half = "egg", np.array(shape.semi_axes_mm) / 1e3
        far = float(half.max())
    elif isinstance(shape, Cylinder):
        kind, half = "cylinder", np.array([shape.radius_mm, shape.radius_mm, shape.height_mm / 2]) / 1e3
        far = float(np.hypot(half[0], half[2]))
    elif isinstance(shape, Mesh) and len(shape.hull) >= 4:
        kind, half = "mesh", np.array(shape.size) * shape.unit_mm / 2e3
        none = np.array(shape.hull) * shape.unit_mm / 1e3
        far = float(np.linalg.norm(none, axis=1).max())
    else:
        return None
    wall = shape.wall_mm / 1e3 if part.hollow and shape.wall_mm / 1e3 < half.min() else 0.0
    open_ends = isinstance(shape, Cylinder) and shape.open_ends and part.hollow
    at = np.array(part.at_mm) / 1e3
    inner = np.array(shape.inner) * (1, 1, 1, shape.unit_mm / 1e3) if isinstance(shape, Mesh) and shape.inner else None
    return Solid(kind, link, at, turned(part.turned_deg), half, none, wall, open_ends, far, inner)
