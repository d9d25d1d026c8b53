"""Shapes: what is printed, what is spread, and what all kinds have in common; worked numbers of the handbook, integrals of their own, files."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.inertia import area_m2, part_mass_kg, unit_inertia, volume_m3
from karakuri.bodies.outline import outline
from karakuri.bodies.shapes import SHAPES, described, kind_of, reshaped
from karakuri.files.text import from_text, to_text
from karakuri.model.figure import Figure
from karakuri.model.part import Box, Cylinder, Ellipsoid, Material, Part, Point, Sheet, Sphere
from karakuri.units import METRIC, read_quantity

PLA = Material(id="pla", name="PLA", density_kgm3=1240.0)
EVA = Material(id="eva", name="EVA", density_kgm3=100.0)


def weighs(shape, material) -> float:
    return part_mass_kg(Part(id="p", name="p", shape=shape, material=material.id), {material.id: material})[0]


def test_a_printed_box_and_a_foam_sheet_weigh_as_the_handbook_says():
    """ρ [A t + φ (V − A t)]: 100 × 80 × 60 mm of PLA, walls of 1.2 mm, 15 % inside: 0.1368 kg; 0.42 m² of EVA, 100 kg/m³ and 6 mm, with 80 g/m²
    of dried cement: 0.286 kg (worked numbers, from memory of the formulas)."""
    assert weighs(Box(size_mm=(100.0, 80.0, 60.0), wall_mm=1.2, infill=0.15), PLA) == pytest.approx(0.1368, abs=5e-5)
    sheet = Sheet(over_mm=(200.0, 160.0, 220.0), thick_mm=6.0, area_cm2=4200.0, glue_gpm2=80.0)
    assert weighs(sheet, EVA) == pytest.approx(0.286, abs=5e-4)
    bare = Sheet(over_mm=(180.0, 120.0, 80.0), thick_mm=2.0)
    assert area_m2(bare) == pytest.approx(area_m2(Ellipsoid(semi_axes_mm=(90.0, 60.0, 40.0), wall_mm=1.0)))
    assert unit_inertia(bare) == pytest.approx(unit_inertia(Ellipsoid(semi_axes_mm=(90.0, 60.0, 40.0), wall_mm=2.0)))


def any_shape():
    size = st.floats(5.0, 200.0)
    three, wall, fill = st.tuples(size, size, size), st.floats(0.2, 2.0), st.floats(0.05, 1.0)
    return st.one_of(
        st.builds(Box, size_mm=three, wall_mm=wall, infill=fill),
        st.builds(Sphere, radius_mm=size, wall_mm=wall, infill=fill),
        st.builds(Ellipsoid, semi_axes_mm=three, wall_mm=wall, infill=fill),
        st.builds(Cylinder, radius_mm=size, height_mm=size, wall_mm=wall, infill=fill, open_ends=st.booleans()),
    )


@settings(max_examples=60, deadline=None)
@given(any_shape())
def test_what_is_printed_lies_between_its_walls_and_a_solid(shape):
    """More inside never weighs less; filled whole it is the solid; it turns as lightly as neither shell nor solid alone."""
    hollow, solid = shape.but(infill=0.0), shape.but(wall_mm=0.0, infill=0.0)
    full = shape.but(infill=1.0)
    assert min(volume_m3(hollow), volume_m3(solid)) <= volume_m3(shape) * (1 + 1e-9) and volume_m3(shape) <= volume_m3(
        solid
    ) * (1 + 1e-9)
    assert volume_m3(full) == pytest.approx(volume_m3(solid))
    for i, of_shell, of_solid in zip(unit_inertia(shape), unit_inertia(hollow), unit_inertia(solid), strict=True):
        assert min(of_shell, of_solid) * (1 - 1e-9) <= i <= max(of_shell, of_solid) * (1 + 1e-9)


@settings(max_examples=40, deadline=None)
@given(any_shape(), st.tuples(*[st.floats(-180.0, 180.0)] * 3))
def test_no_corner_lies_farther_than_it_reaches(shape, turned):
    part = Part(id="p", name="p", shape=shape, turned_deg=turned)
    seen = np.array(outline(part, np.eye(3), np.eye(3)[[0, 2]]))
    far = float(np.linalg.norm(seen, axis=1).max())
    assert far <= kind_of(shape).far(shape) + 2e-9  # corners are told to a billionth


@pytest.mark.parametrize("kind", [kind for kind in SHAPES if kind != "mesh"])
def test_every_kind_takes_the_size_of_every_other_and_reads_back(kind):
    for other in (
        Box(size_mm=(40.0, 30.0, 20.0), wall_mm=2.0),
        Sphere(radius_mm=20.0),
        Point(),
        Sheet(over_mm=(50.0, 40.0, 30.0)),
    ):
        part = Part.from_fields({"id": "p", "name": "p", "shape": reshaped(Part(id="p", name="p", shape=other), kind)})
        assert part.shape.kind == kind and described(part.shape)
        figure = Figure(parts=(part,))
        assert from_text(to_text(figure)) == figure
        if kind not in ("point", "sheet") and other.kind == "box":
            assert part.shape.wall_mm == 2.0


def test_glue_is_read_in_the_units_it_is_sold_in():
    assert read_quantity("80", "areal", METRIC) == pytest.approx(0.08)
    assert read_quantity("0.05 kg/m²", "areal", METRIC) == pytest.approx(0.05)
    assert math.isclose(read_quantity("100 g/m²", "areal", METRIC), 0.1)


def test_volumes_and_surfaces_of_the_textbook():
    """Any text on solid geometry."""
    drum, ball = Cylinder(radius_mm=30.0, height_mm=80.0), Sphere(radius_mm=25.0)
    assert volume_m3(drum) == pytest.approx(math.pi * 0.03**2 * 0.08) and area_m2(drum) == pytest.approx(
        2 * math.pi * 0.03 * (0.08 + 0.03)
    )
    assert area_m2(Cylinder(radius_mm=30.0, height_mm=80.0, open_ends=True)) == pytest.approx(2 * math.pi * 0.03 * 0.08)
    assert volume_m3(ball) == pytest.approx(4 / 3 * math.pi * 0.025**3) and area_m2(ball) == pytest.approx(
        4 * math.pi * 0.025**2
    )
    egg = Ellipsoid(semi_axes_mm=(30.0, 20.0, 10.0))
    assert volume_m3(egg) == pytest.approx(4 / 3 * math.pi * 6e-6) and kind_of(egg).size(egg) == (60.0, 40.0, 20.0)
    assert volume_m3(Box(size_mm=(30.0, 20.0, 10.0), wall_mm=1.0)) == pytest.approx(2 * (600 + 300 + 200) * 1e-9)
