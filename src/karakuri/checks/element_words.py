"""How an element's strength comes about, as sums with the values filled in."""

from __future__ import annotations

from karakuri.bodies.elements.coil import SHEAR_PA, YOUNG_PA, rate_N_per_m, rate_Nm_per_rad
from karakuri.bodies.elements.spring import rate_and_preload
from karakuri.model.element import Coil, Element, Spring, Torsion
from karakuri.model.finding import Derivation
from karakuri.units import Quantity


def strength(element: Element) -> Derivation | None:
    """Where the rate of a spring came from; None where it is stated, or where nothing tells it."""
    if isinstance(element, Spring) and element.rate_N_per_mm is None:
        if element.pulls:
            return _from_pulls(element, rate_and_preload(element)[0])
        if element.coil is not None:
            text = "{0} × {1} × {1} × {1} × {1} ÷ (8 × {2} × {2} × {2} × {3})"
            rate = Quantity(rate_N_per_m(element.coil), "rate")
            return _from_wire(element.coil, SHEAR_PA[element.coil.stuff], text, rate)
    if isinstance(element, Torsion) and element.rate_Nm_per_deg is None and element.coil is not None:
        text = "{0} × {1} × {1} × {1} × {1} ÷ (67.86 × {2} × {3})"  # 10.8 a turn, 2π radians a turn
        rate = Quantity(rate_Nm_per_rad(element.coil), "twist")
        return _from_wire(element.coil, YOUNG_PA[element.coil.stuff], text, rate)
    return None


def _from_wire(coil: Coil, modulus: float, text: str, rate: Quantity) -> Derivation:
    parts = (Quantity(modulus, "pressure"), _mm(coil.wire_mm), _mm(coil.outer_mm - coil.wire_mm), Quantity(coil.turns, "ratio"))  # fmt: skip
    return Derivation(f"Rate, from its {coil.stuff}", text, parts, rate)


def _from_pulls(element: Spring, rate: float) -> Derivation | None:
    if rate <= 0:
        return None
    result = Quantity(rate, "rate")
    if len(element.pulls) > 1:
        return Derivation(f"Rate, nearest to {len(element.pulls)} pulls", "{0}", (result,), result)
    pull = element.pulls[0]
    parts = (Quantity(pull.weight_g / 1e3, "mass"), Quantity(9.80665, "gravity"), _mm(pull.length_mm), _mm(element.free_mm))  # fmt: skip
    return Derivation("Rate, from what hung on it", "{0} × {1} ÷ ({2} − {3})", parts, result)


def _mm(value: float) -> Quantity:
    return Quantity(value / 1e3, "length")
