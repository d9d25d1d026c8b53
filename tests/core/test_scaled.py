"""Larger and smaller: similarity as textbooks have it, there and back, regions by themselves; how large it may get; what it costs."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.course import Course, GivenUp
from karakuri.demo import owl_path, walrus_path
from karakuri.errors import EditRefused
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.mechanics.statics import inertia_about_axis
from karakuri.mechanics.worst import worst_pose
from karakuri.model.drive import Drive
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.part import Box, Part, Point, Sheet
from karakuri.sizing.prices import costs
from karakuri.sizing.scaled import keeps, region, scaled
from karakuri.study.seek import BORNE, largest
from karakuri.study.study import study
from tests.figures import head, part, random_figure

DOWN = np.array([[0.0, 0.0, -9.80665]])


def one(shape, at=(40.0, 0.0, 160.0)) -> Figure:
    figure = head(servo=None)
    skull = Part(**(dict(figure.parts[0]) | {"shape": shape, "at_mm": at}))
    return Figure(**(dict(figure) | {"parts": (skull, *figure.parts[1:])}))


@pytest.mark.parametrize(
    ("shape", "want"),
    [
        (Box(size_mm=(120.0, 100.0, 140.0), wall_mm=2.0), (1.563, 1.953, 2.441)),
        (Sheet(over_mm=(120.0, 100.0, 140.0), thick_mm=6.0, area_cm2=900.0), (1.563, 1.953, 2.441)),
        (Box(size_mm=(120.0, 100.0, 140.0)), (1.953, 2.441, 3.052)),
    ],
)
def test_mass_torque_and_inertia_grow_as_similarity_has_it(shape, want):
    """s = 1.25: shell of the same wall s², s³, s⁴; solid s³, s⁴, s⁵ (any text on similarity)."""
    small = one(shape)
    large = apply(small, scaled(small, 125.0))
    trees = [build_tree(figure) for figure in (small, large)]
    masses = [figure.parts[0].mass_g for figure in (small, large)]
    holds = [abs(worst_pose(tree, 0, DOWN).hold) for tree in trees]
    turns = [float(inertia_about_axis(tree, tree.rest[:, None], 0)[0]) for tree in trees]
    ratios = [after / before for before, after in (masses, holds, turns)]
    assert ratios == pytest.approx(want, rel=2e-3)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 300), st.integers(1, 5), st.floats(40.0, 250.0))
def test_there_and_back_is_where_it_began(seed, joints, percent):
    figure = random_figure(seed, joints, slides=True)
    there = apply(figure, scaled(figure, percent))
    back = apply(there, scaled(there, 1e4 / percent))
    off = 0.01 * 1e4 / percent / 10 + 0.02
    for before, after in zip((*figure.parts, *figure.joints), (*back.parts, *back.joints), strict=True):
        assert after.at_mm == pytest.approx(before.at_mm, abs=off)
    for before, after in zip(figure.parts, back.parts, strict=True):
        assert after.mass_g == pytest.approx(before.mass_g, rel=5e-3, abs=0.01)
    assert from_text(to_text(there)) == there


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 300), st.integers(2, 5), st.floats(40.0, 250.0))
def test_a_region_grows_about_its_pivot_and_nothing_else_moves(seed, joints, percent):
    figure = random_figure(seed, joints)
    root = figure.joints[seed % joints].id
    after, some = apply(figure, scaled(figure, percent, root)), region(figure, root)
    pivot = np.array(figure.joint(root).at_mm)
    assert after.joint(root).at_mm == figure.joint(root).at_mm
    for old, new in zip(figure.parts, after.parts, strict=True):
        if old.rides_on in some:
            assert np.array(new.at_mm) - pivot == pytest.approx(percent / 100 * (np.array(old.at_mm) - pivot), abs=2e-3)
            assert keeps(old) == (new.shape == old.shape)
        else:
            assert new == old
    assert after.drives == figure.drives and after.base == figure.base


def test_what_is_bought_stays_and_what_was_weighed_becomes_an_estimate():
    parts = (
        part("battery", "tilt", 300.0, (0.0, 0.0, 120.0), Box(size_mm=(60.0, 30.0, 20.0)), mass_origin="weighed"),
        part("screw", "tilt", 12.0, (10.0, 0.0, 120.0), Point()),
        part("face", "tilt", 200.0, (50.0, 0.0, 150.0), Box(size_mm=(20.0, 80.0, 90.0), wall_mm=1.5), mass_origin="weighed", plus_minus_g=2.0),
    )  # fmt: skip
    figure = Figure(**(dict(head()) | {"parts": parts}))
    after = apply(figure, scaled(figure, 200.0))
    battery, screw, face = after.parts
    assert (battery.mass_g, battery.shape, screw.mass_g) == (300.0, parts[0].shape, 12.0)
    assert battery.at_mm == (0.0, 0.0, 240.0)
    assert (face.mass_g, face.mass_origin, face.plus_minus_g) == (800.0, "typical", 8.0)
    assert after.drives[0].actuator == figure.drives[0].actuator
    for percent in (0.0, 9.0, 2000.0, math.nan):
        with pytest.raises(EditRefused, match="per cent"):
            scaled(figure, percent)


@pytest.mark.parametrize("path", [owl_path(), walrus_path()])
def test_the_demos_grow_and_shrink_whole_and_in_part(path):
    figure = load(path)
    for percent in (50.0, 130.0):
        for root in ("", figure.joints[0].id):
            after = apply(figure, scaled(figure, percent, root))
            assert from_text(to_text(after)) == after
            assert not [f for f in study(after).findings if f.rule == "unjudged"]


def test_the_largest_size_is_the_last_that_bears_itself():
    figure = Figure(
        **(
            dict(one(Box(size_mm=(120.0, 100.0, 140.0), wall_mm=2.0)))
            | {"drives": (Drive(id="s", joint="tilt", actuator=servo_class("class_20")),)}
        )
    )
    found = largest(figure, "")

    def fails(percent):
        return [
            f
            for f in study(apply(figure, scaled(figure, percent))).findings
            if f.rule in BORNE and f.verdict == "fails"
        ]

    assert (
        found is not None and found.decides is not None and found.decides.id in {f.id for f in fails(found.percent + 1)}
    )
    assert not fails(found.percent) and not fails(found.percent / 2)
    with pytest.raises(GivenUp):
        largest(figure, "", Course(lambda: True))
    heavy = Figure(
        **(dict(figure) | {"parts": (Part(**(dict(figure.parts[0]) | {"mass_g": 90_000.0})), *figure.parts[1:])})
    )
    assert largest(heavy, "") is None or largest(heavy, "").percent < found.percent


def test_what_it_costs_is_the_sum_of_all_that_has_a_price():
    figure = load(owl_path())
    found = costs(figure)
    prices = [*(p.price for p in figure.parts), *(d.actuator.price for d in figure.drives)]
    assert math.fsum(c.whole for c in found) == pytest.approx(math.fsum(p for p in prices if p is not None))
    assert sum(c.unknown for c in found) == sum(p is None for p in prices)
    bare = Figure(parts=(part("a", "base", 10.0, (0.0, 0.0, 0.0)),))
    assert [(c.joint, c.whole, c.unknown) for c in costs(bare)] == [("base", 0.0, 1)]


def test_nothing_is_said_to_bear_itself_while_a_mass_is_unknown():
    figure = one(Box(size_mm=(120.0, 100.0, 140.0), wall_mm=2.0))
    unknown = Part(**(dict(figure.parts[0]) | {"id": "horns", "mass_g": None}))
    driven = {
        "parts": (*figure.parts, unknown),
        "drives": (Drive(id="s", joint="tilt", actuator=servo_class("class_20")),),
    }
    assert largest(Figure(**(dict(figure) | driven)), "") is None
