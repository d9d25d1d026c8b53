"""The contract of a shape: how much of it there is, how it turns, how it looks and how large it is.

To add a kind: a class in model/part.py, a file here with a ShapeKind, a line in the table of __init__.py, a twin in tests/references. Sizes are
mm in the model and SI here; a shape lies about its middle, along its own x, y, z.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from karakuri.frozen import Frozen

Array = NDArray[np.float64]
Three = tuple[float, float, float]
RING = np.linspace(0, 2 * math.pi, 36, endpoint=False)


class Number(Frozen):
    """A size a person writes: its words, the field, and which of several it is."""

    words: str
    field: str
    which: int | None = None


def in_the_middle(shape: Any) -> Three:
    """Its centre of mass is its middle, m."""
    return (0.0, 0.0, 0.0)


def nothing(shape: Any) -> float:
    """Nothing besides, kg."""
    return 0.0


class ShapeKind(Frozen):
    """One kind. `solid_m3` and `area_m2`; `solid` and `shell`: principal inertia for each kilogram, m², of all of it and of its surface alone;
    `seen`: corners or rim (n, 2) m, for a look (2, 3) that picks two axes; `far` m, from its middle to its farthest point; `size` mm along x, y, z;
    `of_size`: the fields of one of that size, mm; `numbers` a person writes; `besides` kg that it weighs beyond its stuff. Where they are not as usual: `larger` the fields of one so many times as large;
    `…_off` m, from its middle to its centre of mass; `…_askew` products of inertia for each kilogram, m²: −∫xy, −∫xz, −∫yz."""

    kind: str
    words: str
    solid_m3: Callable[[Any], float]
    area_m2: Callable[[Any], float]
    solid: Callable[[Any], Three]
    shell: Callable[[Any], Three]
    seen: Callable[[Any, Array], Array]
    far: Callable[[Any], float]
    size: Callable[[Any], Three]
    of_size: Callable[[Three], dict[str, Any]]
    numbers: tuple[Number, ...]
    besides: Callable[[Any], float] = nothing
    larger: Callable[[Any, float], dict[str, Any]] | None = None
    solid_off: Callable[[Any], Three] = in_the_middle
    shell_off: Callable[[Any], Three] = in_the_middle
    solid_askew: Callable[[Any], Three] = in_the_middle
    shell_askew: Callable[[Any], Three] = in_the_middle

    def grown(self, shape: Any, by: float) -> dict[str, Any]:
        """The fields of one so many times as large, mm."""
        if self.larger is not None:
            return self.larger(shape, by)
        x, y, z = (round(by * side, 3) for side in self.size(shape))
        return self.of_size((x, y, z))


def ellipse(semi_axes_m: Three, look: Array) -> Array:
    """The rim (n, 2) m of an ellipsoid seen along a look (2, 3)."""
    flat = look * np.array(semi_axes_m)
    values, vectors = np.linalg.eigh(flat @ flat.T)
    half = vectors * np.sqrt(np.maximum(values, 0.0))
    return np.asarray((half @ np.stack([np.cos(RING), np.sin(RING)])).T)
