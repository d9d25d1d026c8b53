"""Volume, area, mass and inertia of parts.

Solids and shells about their own centre of mass: any dynamics text, e.g. Meriam & Kraige, Dynamics, App. B
(from memory). A shell is thin: its mass lies on the shape's own surface, uniform by area.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.shapes import kind_of
from karakuri.bodies.shapes.contract import Array as Array
from karakuri.model.part import Material, Part, Shape

ORIGIN_BOUNDS = {"weighed": 0.01, "data sheet": 0.03, "slicer": 0.05, "typical": 0.15, "guess": 0.30}


def volume_m3(shape: Shape) -> float:
    """Material in a shape, m³: a solid's volume, or a shell's area × wall; of a printed one the walls, and what fills it by its share, never more than
    all of it."""
    known, wall = kind_of(shape), _wall(shape)
    if wall <= 0:
        return known.solid_m3(shape)
    walls, fill = known.area_m2(shape) * wall / 1e3, _fill(shape)
    if fill <= 0:
        return walls
    solid = known.solid_m3(shape)
    return min(walls + fill * max(solid - walls, 0.0), solid)


def area_m2(shape: Shape) -> float:
    """Surface of a shape, m²."""
    return kind_of(shape).area_m2(shape)


def unit_inertia(shape: Shape) -> tuple[float, float, float]:
    """Principal inertia per kilogram, m², about the shape's middle, along its own x, y, z. Of a printed one its walls and its filling by their shares."""
    known = kind_of(shape)
    if _wall(shape) <= 0:
        return known.solid(shape)
    shell = known.shell(shape)
    whole, walls = volume_m3(shape), known.area_m2(shape) * _wall(shape) / 1e3
    inside = 1.0 - min(walls / whole, 1.0) if _fill(shape) > 0 and whole > 0 else 0.0
    x, y, z = ((1 - inside) * s + inside * f for s, f in zip(shell, known.solid(shape), strict=True))
    return (x, y, z)


def _wall(shape: Shape) -> float:
    return float(getattr(shape, "wall_mm", 0.0))


def _fill(shape: Shape) -> float:
    return float(getattr(shape, "infill", 0.0))


def part_mass_kg(part: Part, materials: dict[str, Material]) -> tuple[float, float, str] | None:
    """Mass, bound and origin of a part in kg, or None where nothing tells it.

    As written, else volume × density. The bound is as written, else by origin: weighed 1 g or 1 %, data sheet 3 %, slicer 5 %,
    typical of class 15 %, guess 30 % (defaults, common practice).
    """
    if part.mass_g is not None:
        mass, origin = part.mass_g / 1e3, part.mass_origin
    elif part.material in materials and volume_m3(part.shape) > 0:
        mass = volume_m3(part.shape) * materials[part.material].density_kgm3 + kind_of(part.shape).besides(part.shape)
        origin = "typical"
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
