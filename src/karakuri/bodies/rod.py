"""A rod as a body: what it weighs, and which link holds it."""

from __future__ import annotations

import math

from karakuri.catalogue import stuff_of
from karakuri.model.rod import Rod


def area_of(rod: Rod) -> float:
    """Of its section, m²."""
    return math.pi * ((rod.thick_mm / 1e3) ** 2 - (rod.bore_mm / 1e3) ** 2) / 4


def sleeve_area_of(rod: Rod) -> float:
    """Of its sleeve's section, m²; 0 without one."""
    return math.pi * ((rod.outside_mm / 1e3) ** 2 - (rod.thick_mm / 1e3) ** 2) / 4


def rod_mass_kg(rod: Rod) -> float:
    """What all of it weighs, kg, typical of its stuff and its sleeve's."""
    own, around = (float(stuff_of(stuff)["density_kgm3"]) for stuff in (rod.stuff, rod.sleeve_stuff))
    return (area_of(rod) * own + sleeve_area_of(rod) * around) * rod.length_mm / 1e3
