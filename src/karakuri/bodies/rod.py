"""A rod as a body: what it weighs, and which link holds it."""

from __future__ import annotations

import math

from karakuri.catalogue import stuff_of
from karakuri.model.rod import Rod


def area_of(rod: Rod) -> float:
    """Of its section, m²."""
    return math.pi * ((rod.thick_mm / 1e3) ** 2 - (rod.bore_mm / 1e3) ** 2) / 4


def rod_mass_kg(rod: Rod) -> float:
    """What all of it weighs, kg, typical of its stuff."""
    return area_of(rod) * rod.length_mm / 1e3 * float(stuff_of(rod.stuff)["density_kgm3"])
