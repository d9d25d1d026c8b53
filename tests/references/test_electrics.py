"""Electrics against published tables and worked cases.

Wire: ASTM B258 (diameter, area, mΩ/m, 700 circular mils an ampere). Drop: 6 A over 1.5 m one way. Buck converter 12 → 6 V, 8 A, 90 %. Hold-up 4700 µF, 4 × 2.5 A, 1 V.
Peukert 7 Ah (20 h) at 3 A. Lithium polymer 2200 mAh at 80 %, 1.8 A. Sag 3 cells of 20 mΩ, 10 A. Fuse for 6 A. Preece for 24 AWG. All recomputed from the formulas, sources from memory.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from karakuri.model.power import Cells
from karakuri.power.cells import capacity_Ah, empty_V, full_V, lasts_h, ohms, sag_V, volts
from karakuri.power.parts import fuse_A, heat_W, holds_up_s, input_A
from karakuri.power.wire import carries_A, diameter_m, drop_V, gauge_for, melts_A, ohm_per_m, open_A


@pytest.mark.parametrize(
    ("awg", "mm", "mm2", "mohm", "bundle"),
    [
        (10, 2.588, 5.26, 3.277, 14.8), (12, 2.053, 3.31, 5.211, 9.3), (14, 1.628, 2.08, 8.285, 5.9), (16, 1.291, 1.31, 13.17, 3.7), (18, 1.024, 0.823, 20.95, 2.3),
        (20, 0.812, 0.518, 33.31, 1.5), (22, 0.644, 0.326, 52.96, 0.92), (24, 0.511, 0.205, 84.2, 0.58), (26, 0.405, 0.129, 133.9, 0.36), (28, 0.321, 0.081, 212.9, 0.23),
    ],
)  # fmt: skip
def test_wires_by_the_table(awg, mm, mm2, mohm, bundle):
    assert diameter_m(awg) * 1e3 == pytest.approx(mm, abs=6e-4)
    assert math.pi / 4 * (diameter_m(awg) * 1e3) ** 2 == pytest.approx(mm2, rel=5e-3)
    assert ohm_per_m(awg) * 1e3 == pytest.approx(mohm, rel=2e-3)
    assert carries_A(awg) == pytest.approx(bundle, rel=0.03)


@pytest.mark.parametrize(("awg", "lost"), [(22, 0.953), (18, 0.377), (14, 0.149)])
def test_drop_along_a_wire(awg, lost):
    assert drop_V(6.0, 1.5, awg, 20.0) == pytest.approx(lost, abs=1e-3)


def test_worked_cases_of_parts():
    assert input_A(8.0, 6.0, 12.0, 0.9) == pytest.approx(4.44, abs=0.005)
    assert heat_W(8.0, 6.0, 0.9) == pytest.approx(5.3, abs=0.05)
    assert holds_up_s(4700e-6, 10.0, 1.0) == pytest.approx(0.47e-3)
    assert holds_up_s(0.2, 10.0, 1.0) == pytest.approx(0.020)  # a whole frame would need a fifth of a farad
    assert fuse_A(6.0) == pytest.approx(10.0) and 6.0 / 0.75 == 8.0  # the next usual one above 8 A
    assert fuse_A(3.0) == 4.0 and math.isinf(fuse_A(100.0))
    assert melts_A(24) == pytest.approx(29.0, abs=0.5)


def test_worked_cases_of_cells():
    lead = Cells(chemistry="lead", count=6, capacity_mAh=7000.0)
    assert lasts_h(lead, 3.0) == pytest.approx(1.52, abs=0.01) and lasts_h(lead, 3.0) * 3.0 == pytest.approx(
        4.55, abs=0.02
    )
    polymer = Cells(chemistry="lithium polymer", count=3, capacity_mAh=2200.0, ohm_mohm=20.0)
    assert lasts_h(polymer, 1.8) * 60 == pytest.approx(58.7, abs=0.1)
    assert (
        sag_V(polymer, 10.0) == pytest.approx(0.6)
        and ohms(polymer) == pytest.approx(0.06)
        and volts(polymer) == pytest.approx(11.1)
    )


@given(st.sampled_from(["nickel", "lithium polymer", "lithium ion", "lithium iron", "lead"]), st.integers(1, 20), st.floats(100, 20000), st.floats(0.05, 20.0), st.floats(1.05, 3.0))  # fmt: skip
def test_more_current_more_age_more_cold_never_lasts_longer(chemistry, count, capacity, amps, more):
    cells = Cells(chemistry=chemistry, count=count, capacity_mAh=capacity)
    assert lasts_h(cells, amps * more) < lasts_h(cells, amps)
    assert lasts_h(cells, amps * more) * more <= lasts_h(cells, amps) * 1.0000001  # nor does it give more in all
    for worse in ({"age_years": 3.0}, {"at_C": 0.0}, {"at_C": -15.0}):
        assert capacity_Ah(cells.but(**worse)) < capacity_Ah(cells)
    assert lasts_h(cells.but(capacity_mAh=capacity * 2), amps) > lasts_h(cells, amps)
    assert math.isinf(lasts_h(cells, 0.0))


@given(st.floats(0.05, 12.0), st.floats(0.05, 5.0), st.floats(0.05, 1.0))
def test_the_gauge_that_is_named_is_the_thinnest_that_does(amps, length, most):
    awg = gauge_for(amps, length, most, 50.0)
    if awg:
        assert carries_A(awg) >= amps and drop_V(amps, length, awg, 50.0) <= most
        if awg < 40:
            assert carries_A(awg + 2) < amps or drop_V(amps, length, awg + 2, 50.0) > most


def test_a_warm_wire_resists_more():
    """IEC 60028: +0.393 % a kelvin from 20 °C."""
    assert ohm_per_m(24, 70.0) * 1e3 == pytest.approx(84.2 * 1.1965, rel=2e-3)
    assert ohm_per_m(24, 20.0) == ohm_per_m(24)


@pytest.mark.parametrize(("awg", "low", "high"), [(10, 30, 55), (12, 25, 40), (14, 20, 32), (16, 15, 22), (18, 10, 16), (20, 7, 11), (22, 5, 7), (24, 2, 3.5), (26, 1, 2.2), (28, 0.8, 1.4)])  # fmt: skip
def test_what_a_wire_carries_by_itself(awg, low, high):
    """Guidance for the inside of a case, common practice: never above its low end, and above what it may have in a bundle; it melts far beyond."""
    assert open_A(awg) == pytest.approx(low) and low < high
    assert carries_A(awg) < open_A(awg) < melts_A(awg)


def test_a_thinner_wire_never_carries_more():
    for awg in range(40):
        assert open_A(awg + 1) < open_A(awg) and carries_A(awg + 1) < carries_A(awg)


@pytest.mark.parametrize(
    ("chemistry", "named", "full", "stops"),
    [
        ("nickel", 1.2, (1.35, 1.5), (1.0, 1.0)), ("lithium polymer", 3.7, (4.2, 4.2), (3.3, 3.5)), ("lithium ion", 3.7, (4.2, 4.2), (3.0, 3.5)),
        ("lithium iron", 3.2, (3.65, 3.65), (2.5, 3.0)), ("lead", 2.0, (2.1, 2.4), (1.75, 1.75)),
    ],
)  # fmt: skip
def test_volts_of_a_cell(chemistry, named, full, stops):
    """Linden and Reddy, Handbook of Batteries, from memory: as named, just charged, and where it is stopped under load."""
    cells = Cells(chemistry=chemistry, count=3)
    assert volts(cells) == pytest.approx(3 * named)
    assert 3 * full[0] - 1e-9 <= full_V(cells) <= 3 * full[1] + 1e-9 and 3 * stops[0] - 1e-9 <= empty_V(cells) <= 3 * stops[1] + 1e-9  # fmt: skip
    fresh = Cells(chemistry=chemistry, capacity_mAh=1000.0)
    assert capacity_Ah(fresh) == pytest.approx(1.0)
    assert capacity_Ah(fresh.but(age_years=2.0)) == pytest.approx(0.86)
    assert capacity_Ah(fresh.but(at_C=0.0)) == pytest.approx(0.75)
    assert capacity_Ah(fresh.but(age_years=30.0)) == pytest.approx(0.3)
