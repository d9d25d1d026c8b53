"""Volume, area, mass and inertia of parts.

Solids and shells about their own centre of mass: any dynamics text, e.g. Meriam & Kraige, Dynamics, App. B
(from memory). A shell is thin: its mass lies on the shape's own surface, uniform by area.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from karakuri.bodies.shapes import kind_of
from karakuri.bodies.shapes.contract import Array as Array
from karakuri.bodies.shapes.contract import Three
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


def unit_inertia(shape: Shape) -> Three:
    """Inertia per kilogram, m², about the shape's centre of mass, along its own x, y, z. Of a printed one its walls and its filling by their shares, each
    about the centre of both (parallel axes)."""
    known, (x, y, z) = kind_of(shape), _apart(shape)
    a, b, c = _mixed(shape, known.shell, known.solid)
    return a + y * y + z * z, b + x * x + z * z, c + x * x + y * y


def products(shape: Shape) -> Three:
    """The same of the products of inertia per kilogram, m²: xy, xz, yz; nothing for all that is alike on both sides."""
    known, (x, y, z) = kind_of(shape), _apart(shape)
    a, b, c = _mixed(shape, known.shell_askew, known.solid_askew)
    return a - x * y, b - x * z, c - y * z


def _apart(shape: Shape) -> Three:
    """How far the centres of walls and filling lie apart, m, × √(share × share of the other): what parallel axes add for each kilogram."""
    inside, known = _inside(shape), kind_of(shape)
    if not 0 < inside < 1:
        return 0.0, 0.0, 0.0
    by = math.sqrt(inside * (1 - inside))
    x, y, z = (by * (s - f) for s, f in zip(known.shell_off(shape), known.solid_off(shape), strict=True))
    return x, y, z


def _inside(shape: Shape) -> float:
    """What share of its mass fills it: 1 of a solid, 0 of a thin shell."""
    if _wall(shape) <= 0:
        return 1.0
    whole, walls = volume_m3(shape), kind_of(shape).area_m2(shape) * _wall(shape) / 1e3
    return 1.0 - min(walls / whole, 1.0) if _fill(shape) > 0 and whole > 0 else 0.0


def off_middle(shape: Shape) -> tuple[float, float, float]:
    """From a shape's middle to its centre of mass, m, along its own x, y, z."""
    known = kind_of(shape)
    return _mixed(shape, known.shell_off, known.solid_off)


def _mixed(shape: Shape, shell: Callable[[Any], Three], solid: Callable[[Any], Three]) -> Three:
    """What a shape's walls have and what fills it, by their shares of its mass."""
    inside = _inside(shape)
    if inside == 1.0:
        return solid(shape)
    if inside == 0.0:
        return shell(shape)
    x, y, z = ((1 - inside) * s + inside * f for s, f in zip(shell(shape), solid(shape), strict=True))
    return x, y, z


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


def turned_degrees(turn: Array) -> tuple[float, float, float]:
    """Degrees about fixed x, then y, then z, of a rotation (3, 3): the other way round."""
    y = math.asin(min(1.0, max(-1.0, -float(turn[2, 0]))))
    if abs(math.cos(y)) > 1e-9:
        x, z = math.atan2(turn[2, 1], turn[2, 2]), math.atan2(turn[1, 0], turn[0, 0])
    else:
        x, z = math.atan2(-turn[1, 2], turn[1, 1]), 0.0
    a, b, c = (round(math.degrees(each), 6) + 0.0 for each in (x, y, z))
    return a, b, c


def part_inertia(part: Part, mass_kg: float) -> Array:
    """Inertia (3, 3), kg·m², about the part's centre of mass, along the figure's axes at rest."""
    xy, xz, yz = products(part.shape)
    own = np.diag(unit_inertia(part.shape)) * mass_kg
    if xy or xz or yz:
        own += mass_kg * np.array([[0.0, xy, xz], [xy, 0.0, yz], [xz, yz, 0.0]])
    if part.turned_deg == (0.0, 0.0, 0.0):
        return own
    r = turned(part.turned_deg)
    out: Array = r @ own @ r.T
    return out


def centre_mm(part: Part) -> tuple[float, float, float]:
    """Where a part's centre of mass is, mm from the datum, figure at rest."""
    off = off_middle(part.shape)
    if off == (0.0, 0.0, 0.0):
        return part.at_mm
    x, y, z = (float(a + 1e3 * b) for a, b in zip(part.at_mm, turned(part.turned_deg) @ np.array(off), strict=True))
    return x, y, z
