"""Volume, area, mass and inertia of parts.

Solids and shells about their own centre of mass: any dynamics text, e.g. Meriam & Kraige, Dynamics, App. B
(from memory). A shell is thin: its mass lies on the shape's own surface, uniform by area.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from karakuri.model.part import Box, Cylinder, Ellipsoid, Material, Part, Point, Shape, Sphere

Array = NDArray[np.float64]
ORIGIN_BOUNDS = {"weighed": 0.01, "data sheet": 0.03, "typical": 0.15, "guess": 0.30}


def volume_m3(shape: Shape) -> float:
    """Material in a shape, m³: a solid's volume, or a shell's area × wall."""
    if isinstance(shape, Point):
        return 0.0
    if shape.wall_mm > 0:
        return area_m2(shape) * shape.wall_mm / 1e3
    if isinstance(shape, Box):
        return math.prod(shape.size_mm) / 1e9
    if isinstance(shape, Sphere):
        return 4 / 3 * math.pi * (shape.radius_mm / 1e3) ** 3
    if isinstance(shape, Ellipsoid):
        return 4 / 3 * math.pi * math.prod(shape.semi_axes_mm) / 1e9
    return math.pi * (shape.radius_mm / 1e3) ** 2 * shape.height_mm / 1e3


def area_m2(shape: Shape) -> float:
    """Surface of a shape, m²."""
    if isinstance(shape, Point):
        return 0.0
    if isinstance(shape, Box):
        a, b, c = (s / 1e3 for s in shape.size_mm)
        return 2 * (a * b + b * c + c * a)
    if isinstance(shape, Sphere):
        return 4 * math.pi * (shape.radius_mm / 1e3) ** 2
    if isinstance(shape, Ellipsoid):
        return _ellipsoid_shell(shape.semi_axes_mm)[0]
    r, h = shape.radius_mm / 1e3, shape.height_mm / 1e3
    return 2 * math.pi * r * h + (0.0 if shape.open_ends else 2 * math.pi * r * r)


def unit_inertia(shape: Shape) -> tuple[float, float, float]:
    """Principal inertia per kilogram, m², about the shape's middle, along its own x, y, z."""
    if isinstance(shape, Point):
        return (0.0, 0.0, 0.0)
    if isinstance(shape, Box):
        return _box(shape)
    if isinstance(shape, Sphere):
        i = (2 / 3 if shape.wall_mm > 0 else 2 / 5) * (shape.radius_mm / 1e3) ** 2
        return (i, i, i)
    if isinstance(shape, Ellipsoid):
        if shape.wall_mm > 0:
            return _ellipsoid_shell(shape.semi_axes_mm)[1]
        a, b, c = (s / 1e3 for s in shape.semi_axes_mm)
        return ((b * b + c * c) / 5, (a * a + c * c) / 5, (a * a + b * b) / 5)
    return _cylinder(shape)


def _box(shape: Box) -> tuple[float, float, float]:
    a, b, c = (s / 1e3 for s in shape.size_mm)
    if shape.wall_mm == 0:
        return ((b * b + c * c) / 12, (a * a + c * c) / 12, (a * a + b * b) / 12)
    area = 2 * (a * b + b * c + c * a)

    def second(u: float, v: float, w: float) -> float:
        """Second moment of area-share along the axis of length u."""
        return (2 * v * w * u * u / 4 + 2 * u * (v + w) * u * u / 12) / area

    x, y, z = second(a, b, c), second(b, c, a), second(c, a, b)
    return (y + z, x + z, x + y)


def _cylinder(shape: Cylinder) -> tuple[float, float, float]:
    r, h = shape.radius_mm / 1e3, shape.height_mm / 1e3
    if shape.wall_mm == 0:
        across = (3 * r * r + h * h) / 12
        return (across, across, r * r / 2)
    wall, discs = 2 * math.pi * r * h, 0.0 if shape.open_ends else 2 * math.pi * r * r
    along = (wall * r * r + discs * r * r / 2) / (wall + discs)
    across = (wall * (r * r / 2 + h * h / 12) + discs * (r * r / 4 + h * h / 4)) / (wall + discs)
    return (across, across, along)


@lru_cache(maxsize=256)
def _ellipsoid_shell(semi_axes_mm: tuple[float, float, float]) -> tuple[float, tuple[float, float, float]]:
    """Area, m², and inertia per kilogram of an ellipsoid's surface, by quadrature (no closed form exists)."""
    a, b, c = (s / 1e3 for s in semi_axes_mm)
    nodes, weights = np.polynomial.legendre.leggauss(64)
    u = nodes[:, None]
    phi = (np.arange(128) + 0.5) * (2 * math.pi / 128)
    s = np.sqrt(1 - u * u)
    x, y, z = a * s * np.cos(phi), b * s * np.sin(phi), c * u + 0 * phi
    stretch = np.sqrt((b * c * s * np.cos(phi)) ** 2 + (a * c * s * np.sin(phi)) ** 2 + (a * b * u) ** 2)
    share = stretch * weights[:, None] * (2 * math.pi / 128)
    area = float(share.sum())
    xx, yy, zz = (float((share * q * q).sum()) / area for q in (x, y, z))
    return area, (yy + zz, xx + zz, xx + yy)


def part_mass_kg(part: Part, materials: dict[str, Material]) -> tuple[float, float, str] | None:
    """Mass, bound and origin of a part in kg, or None where nothing tells it.

    As written, else volume × density. The bound is as written, else by origin: weighed 1 g or 1 %, data sheet 3 %,
    typical of class 15 %, guess 30 % (defaults, common practice).
    """
    if part.mass_g is not None:
        mass, origin = part.mass_g / 1e3, part.mass_origin
    elif part.material in materials and volume_m3(part.shape) > 0:
        mass, origin = volume_m3(part.shape) * materials[part.material].density_kgm3, "typical"
    else:
        return None
    if part.plus_minus_g is not None:
        return mass, part.plus_minus_g / 1e3, origin
    bound = ORIGIN_BOUNDS[origin] * mass
    return mass, max(bound, 0.001) if origin == "weighed" else bound, origin


def turned(turned_deg: tuple[float, float, float]) -> Array:
    """Rotation matrix (3, 3) about fixed x, then y, then z, degrees."""
    x, y, z = (math.radians(t) for t in turned_deg)
    cx, sx, cy, sy, cz, sz = math.cos(x), math.sin(x), math.cos(y), math.sin(y), math.cos(z), math.sin(z)
    return np.array(
        [
            [cz * cy, cz * sy * sx - sz * cx, cz * sy * cx + sz * sx],
            [sz * cy, sz * sy * sx + cz * cx, sz * sy * cx - cz * sx],
            [-sy, cy * sx, cy * cx],
        ]
    )


def part_inertia(part: Part, mass_kg: float) -> Array:
    """Inertia (3, 3), kg·m², about the part's middle, along the figure's axes at rest."""
    own = np.diag(unit_inertia(part.shape)) * mass_kg
    if part.turned_deg == (0.0, 0.0, 0.0):
        return own
    r = turned(part.turned_deg)
    out: Array = r @ own @ r.T
    return out
