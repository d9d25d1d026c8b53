"""An egg with three axes, solid or hollow; its surface by quadrature, since it has no closed form."""

from __future__ import annotations

import math
from functools import cache, lru_cache
from typing import Any

import numpy as np

from karakuri.bodies.shapes.contract import Array, Number, ShapeKind, Three, ellipse
from karakuri.model.part import Ellipsoid


def _axes(shape: Ellipsoid) -> Three:
    a, b, c = (s / 1e3 for s in shape.semi_axes_mm)
    return a, b, c


def _solid(shape: Ellipsoid) -> Three:
    a, b, c = _axes(shape)
    return ((b * b + c * c) / 5, (a * a + c * c) / 5, (a * a + b * b) / 5)


@cache
def _rule() -> tuple[Array, Array]:
    nodes, weights = np.polynomial.legendre.leggauss(64)
    return nodes, weights


@lru_cache(maxsize=256)
def surface(semi_axes_m: Three) -> tuple[float, Three]:
    """Area, m², and inertia for each kilogram of an ellipsoid's surface, m², of so many m half along each axis."""
    a, b, c = semi_axes_m
    nodes, weights = _rule()
    u = nodes[:, None]
    phi = (np.arange(128) + 0.5) * (2 * math.pi / 128)
    s = np.sqrt(1 - u * u)
    x, y, z = a * s * np.cos(phi), b * s * np.sin(phi), c * u + 0 * phi
    stretch = np.sqrt((b * c * s * np.cos(phi)) ** 2 + (a * c * s * np.sin(phi)) ** 2 + (a * b * u) ** 2)
    share = stretch * weights[:, None] * (2 * math.pi / 128)
    area = float(share.sum())
    xx, yy, zz = (float((share * q * q).sum()) / area for q in (x, y, z))
    return area, (yy + zz, xx + zz, xx + yy)


def _seen(shape: Ellipsoid, look: Array) -> Array:
    return ellipse(_axes(shape), look)


def _of_size(size_mm: Three) -> dict[str, Any]:
    return {"semi_axes_mm": tuple(s / 2 for s in size_mm)}


KIND = ShapeKind(
    "ellipsoid", "ellipsoid", lambda shape: 4 / 3 * math.pi * math.prod(_axes(shape)), lambda shape: surface(_axes(shape))[0],
    _solid, lambda shape: surface(_axes(shape))[1], _seen, lambda shape: max(_axes(shape)),
    lambda shape: tuple(2 * s for s in shape.semi_axes_mm), _of_size,
    tuple(Number(f"Half {words}", "semi_axes_mm", i) for i, words in enumerate(("length", "width", "height"))),
)  # fmt: skip
