"""Converter, fuse, capacitor: a formula each.

Buck converter: Iin = Vout Iout ÷ (η Vin). Fuse: rated for the current that goes on ÷ 0.75 (UL 248-14 practice; IEC 60127 fuses run at 100 %). Capacitor: C = I dt ÷ dV. From memory.
"""

from __future__ import annotations

FUSE_SHARE = 0.75
FUSES_A = (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0)


def input_A(amps: float, out_V: float, in_V: float, efficiency: float) -> float:
    """What a converter draws from its source, A."""
    return out_V * amps / (efficiency * in_V)


def heat_W(amps: float, out_V: float, efficiency: float) -> float:
    """What a converter gets hot by, W, that gives so many A at so many V."""
    return out_V * amps * (1.0 / efficiency - 1.0)


def fuse_A(amps: float) -> float:
    """The smallest usual fuse for a current that goes on, A; infinite beyond them."""
    return next((fuse for fuse in FUSES_A if fuse >= amps / FUSE_SHARE - 1e-9), float("inf"))


def holds_up_s(farads: float, amps: float, sag_V: float) -> float:
    """How long a capacitor feeds a current before it has given way by so much, s."""
    return farads * sag_V / amps if amps > 0 else float("inf")
