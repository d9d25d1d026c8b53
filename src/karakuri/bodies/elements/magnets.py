"""Disc magnets that hold two bodies together: force against the gap between them."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from karakuri.bodies.elements.contract import Law
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model import element as model

BR_TESLA = {"N35": 1.19, "N38": 1.24, "N42": 1.30, "N45": 1.34, "N48": 1.39, "N52": 1.45}
"""Remanence typical of the grade, T, from memory of makers' tables: check the current data sheet."""
THIN_SHARE = 0.5
"""What a screw head or a thin sheet, which saturates, leaves of the pull on thick steel: common practice, no source."""
POINTS, FAR = 240, 6.0
_MU0 = 4e-7 * math.pi


class Attraction(Frozen, eq=False):
    """Pulls with `pulls` (k,) N at distances `away` (k,) m from where the two sit, straight between; `seat` m is the length of its way there.
    Nearer than that it pulls no harder, beyond the last not at all."""

    seat: float
    away: Array
    pulls: Array
    stored: Array

    def _cell(self, s: Array) -> tuple[Array, Array]:
        off = np.clip(s - self.seat, 0.0, self.away[-1])
        k = np.minimum(np.searchsorted(self.away, off, side="right") - 1, len(self.away) - 2)
        return k, off - self.away[k]

    def _slopes(self, k: Array) -> Array:
        return np.asarray((self.pulls[k + 1] - self.pulls[k]) / (self.away[k + 1] - self.away[k]))

    def force(self, s: Array) -> Array:
        """N."""
        k, by = self._cell(s)
        return np.asarray(self.pulls[k] + self._slopes(k) * by)

    def energy(self, s: Array) -> Array:
        """J, from where they sit."""
        k, by = self._cell(s)
        nearer = np.minimum(s - self.seat, 0.0) * self.pulls[0]
        return np.asarray(self.stored[k] + (self.pulls[k] + 0.5 * self._slopes(k) * by) * by + nearer)

    def slope(self, s: Array) -> Array:
        """N/m, below 0: it weakens as they part."""
        k, _ = self._cell(s)
        inside = (s > self.seat) & (s < self.seat + self.away[-1])
        return np.where(inside, self._slopes(k), 0.0)

    @property
    def ends(self) -> tuple[float, float]:
        return 0.0, math.inf


@lru_cache(maxsize=8)
def _spectrum(thick: float) -> tuple[Array, Array]:
    """q (k,) and what stands before e^(−q gap ÷ R) (k,), of discs so many radii thick."""
    from scipy.special import j1  # costs a third of a second: only where there are magnets

    q = np.arange(1e-6, 4000.0, 0.05)
    return q, j1(q) ** 2 / q * np.expm1(-q * thick) ** 2


def pull_of_pair(diameter: float, thick: float, br: float, gaps: Array) -> Array:
    """What two equal discs, magnetised along their axes and facing each other, pull with at gaps (k,) m: N. Diameter and thickness m,
    remanence T. π µ0 M² R² ∫ J1²(q) ÷ q (1 − e^(−q t ÷ R))² e^(−q gap ÷ R) dq (Vokoun et al., J. Magn. Magn. Mater. 321, 2009, from memory)."""
    r = diameter / 2
    q, weight = _spectrum(thick / r)

    def whole(gap: float) -> float:
        n = int(np.searchsorted(q, 40.0 * r / max(gap, 1e-9))) + 2  # beyond that nothing is left
        return float(np.trapezoid(weight[:n] * np.exp(-q[:n] * gap / r), q[:n]))

    return br**2 / _MU0 * math.pi * r * r * np.array([whole(gap) for gap in gaps.tolist()])


@lru_cache(maxsize=64)
def _table(diameter: float, thick: float, br: float, steel: bool, gap: float) -> tuple[Array, Array, Array]:
    """Distances from the seat (k,) m, pull (k,) N, and energy (k,) J of a pair, or of a disc on thick steel, which is a pair at twice the gap."""
    away = (np.linspace(0.0, 1.0, POINTS) ** 2) * FAR * diameter
    pulls = pull_of_pair(diameter, thick, br, (gap + away) * (2.0 if steel else 1.0))
    pulls[-1] = 0.0
    stored = np.concatenate([[0.0], np.cumsum(0.5 * (pulls[1:] + pulls[:-1]) * np.diff(away))])
    return away, pulls, stored


@lru_cache(maxsize=256)
def pull_when_shut(diameter: float, thick: float, br: float, steel: bool, gap: float) -> float:
    """What one pair, or one disc on thick `steel`, holds with where it sits, N; sizes and gap m, remanence T."""
    return float(pull_of_pair(diameter, thick, br, np.array([max(gap, 2e-5) * (2.0 if steel else 1.0)]))[0])


def law_of(element: model.Magnets) -> Law:
    """So many pairs, or discs on steel, that sit together where the figure is drawn."""
    seat = math.dist(element.ends[0].at_mm, element.ends[1].at_mm) / 1e3
    away, pulls, stored = _table(element.wide_mm / 1e3, element.thick_mm / 1e3, BR_TESLA[element.grade], element.on != "magnet", max(element.gap_mm, 0.02) / 1e3)  # fmt: skip
    many = element.count * (THIN_SHARE if element.on == "thin steel" else 1.0)
    return Attraction(seat, away, many * pulls, many * stored)
