"""What still goes into a hollow: closed forms of empty ones, the whole study's own room, random spots by brute force, and laws."""

import fcl
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.solids import solid_of
from karakuri.course import Course, GivenUp
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.part import Box, Cylinder, Ellipsoid, Mesh, Part, Sphere
from karakuri.model.room import Room, Together
from karakuri.study.seek import room_left
from karakuri.study.study import study
from tests.figures import Y

GAP = 2.0


def shell(shape, *inside: Part, joints=(), gap=GAP, **more) -> Figure:
    part = Part(id="shell", name="shell", shape=shape, mass_g=100.0, **more)
    return Figure(parts=(part, *inside), joints=joints, room=Room(gap_mm=gap))


def left(figure: Figure):
    return room_left(study(figure).results, "shell")


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (30.0, -20.0, 150.0)])
def test_into_an_empty_one_goes_what_a_ruler_says(at):
    egg = left(shell(Sphere(radius_mm=60.0, wall_mm=3.0), at_mm=at))
    middle = min(egg, key=lambda each: abs(each.at[2] * 1e3 - at[2]))
    assert 2e3 * middle.radius == pytest.approx(2 * (60 - 3 - GAP), rel=0.006) and middle.radius * 1e3 <= 60 - 3 - GAP
    box = left(shell(Box(size_mm=(100.0, 60.0, 200.0), wall_mm=4.0), at_mm=at))
    assert max(each.radius for each in box) * 1e3 == pytest.approx(30 - 4 - GAP, rel=1e-6)
    tube = left(shell(Cylinder(radius_mm=40.0, height_mm=300.0, wall_mm=2.0), at_mm=at))
    assert max(each.radius for each in tube) * 1e3 == pytest.approx(40 - 2 - GAP, rel=2e-3)
    low = min(tube, key=lambda each: each.at[2])
    assert low.radius * 1e3 == pytest.approx(min(40 - 2, low.at[2] * 1e3 - at[2] + 150 - 2) - GAP, rel=0.02)


@settings(max_examples=8)
@given(st.integers(0, 10_000))
def test_the_ball_that_is_told_goes_in_by_the_studys_own_room_and_nothing_larger_was_thrown_in(seed):
    rng = np.random.default_rng(seed)
    swings = Joint(id="arm", name="arm", at_mm=(0.0, 0.0, -20.0), axis=Y, range_deg=(-20.0, 25.0))
    inside = [
        Part(id=f"p{k}", name=f"p{k}", rides_on=str(rng.choice(["base", "arm"])), mass_g=10.0, at_mm=tuple(rng.uniform(-35, 35, 3)), turned_deg=tuple(rng.uniform(-90, 90, 3)),
             shape=[Box(size_mm=tuple(rng.uniform(8, 30, 3))), Ellipsoid(semi_axes_mm=tuple(rng.uniform(5, 18, 3))), Cylinder(radius_mm=rng.uniform(5, 15), height_mm=rng.uniform(8, 30))][k % 3])
        for k in range(4)
    ]  # fmt: skip
    figure = shell(Ellipsoid(semi_axes_mm=(90.0, 80.0, 100.0), wall_mm=4.0), *inside, joints=(swings,))
    found = left(figure)
    assert found
    best = max(found, key=lambda each: each.radius)
    if best.radius > 3e-3:
        spot = tuple(float(v) for v in np.round(best.at * 1e3, 3))
        ball = Part(id="ball", name="ball", shape=Sphere(radius_mm=best.radius * 1e3 - 0.02), at_mm=spot, mass_g=1.0)
        room = Room(
            gap_mm=GAP,
            together=tuple(Together(one=a.id, other=b.id) for a in figure.parts for b in figure.parts if a.id < b.id),
        )
        told = study(Figure(**(dict(figure) | {"parts": (*figure.parts, ball), "room": room}))).findings
        assert not [f.sentence for f in told if f.rule == "room" and f.verdict == "fails"]
    levels = sorted(each.at[2] for each in found)
    assert all(each.radius > 0 for each in found) and levels == [each.at[2] for each in found]


@settings(max_examples=10)
@given(st.floats(30, 120), st.floats(1, 3), st.floats(1.0, 1.5))
def test_a_larger_one_holds_more_and_a_thicker_one_less(radius, wall, by):
    def most(r: float, w: float) -> float:
        return max((each.radius for each in left(shell(Sphere(radius_mm=r, wall_mm=w)))), default=0.0)

    assert most(radius * by, wall) >= most(radius, wall) - 1e-9
    assert most(radius, wall * by) <= most(radius, wall) + 1e-9


@settings(max_examples=10)
@given(st.tuples(*[st.floats(-30, 30)] * 3), st.floats(4, 25))
def test_one_thing_more_in_it_never_leaves_more(at, size):
    empty = left(shell(Sphere(radius_mm=70.0, wall_mm=2.0)))
    full = left(shell(Sphere(radius_mm=70.0, wall_mm=2.0), Part(id="x", name="x", shape=Box(size_mm=(size,) * 3), at_mm=at, mass_g=5.0)))  # fmt: skip
    assert max(each.radius for each in full) <= max(each.radius for each in empty) + 1e-9
    for each in full:  # and none of it is in the box
        off = np.maximum(np.abs(each.at * 1e3 - np.array(at)) - size / 2, 0)
        assert np.linalg.norm(off) >= each.radius * 1e3 + GAP - 1e-6


BODIES = (
    (Box(size_mm=(40.0, 24.0, 60.0)), lambda: fcl.Box(0.040, 0.024, 0.060), 1e-5),
    (Cylinder(radius_mm=15.0, height_mm=50.0), lambda: fcl.Cylinder(0.015, 0.050), 1e-5),
    (Ellipsoid(semi_axes_mm=(30.0, 12.0, 20.0)), lambda: fcl.Ellipsoid(0.030, 0.012, 0.020), 1.0),
)


@pytest.mark.parametrize(("shape", "made", "off"), BODIES, ids=["box", "tube", "egg"])
def test_how_far_a_point_is_from_a_body_is_never_told_too_large(shape, made, off):
    """Against python-fcl; of an egg it is only a bound."""
    body, theirs = solid_of(Part(id="b", name="b", shape=shape, mass_g=1.0), -1), fcl.CollisionObject(made())
    points = np.random.default_rng(5).uniform(-0.05, 0.05, (300, 3))
    apart = np.array([fcl.distance(theirs, fcl.CollisionObject(fcl.Sphere(1e-7), fcl.Transform(at)), fcl.DistanceRequest(), fcl.DistanceResult()) for at in points])  # fmt: skip
    ours, outside = body.away(points), apart > 1e-5
    assert 20 < outside.sum() < 295 and (ours[~outside] <= 2e-5).all()
    assert (ours[outside] <= apart[outside] + 1e-5).all() and (ours[outside] >= apart[outside] - off).all()


def test_what_has_no_inside_is_said_to_have_none_and_it_can_be_given_up():
    solid = shell(Box(size_mm=(50.0, 50.0, 50.0)))
    assert left(solid) is None
    mesh = Mesh(size=(50.0, 50.0, 50.0), volume=1e5, area=1e4, solid_turns=(1.0,) * 3 + (0.0,) * 3, shell_turns=(1.0,) * 3 + (0.0,) * 3, wall_mm=2.0,
                hull=((25.0, 25.0, 25.0), (-25.0, -25.0, 25.0), (25.0, -25.0, -25.0), (-25.0, 25.0, -25.0)))  # fmt: skip
    assert left(shell(mesh)) is None
    with pytest.raises(GivenUp):
        room_left(study(shell(Sphere(radius_mm=60.0, wall_mm=3.0))).results, "shell", Course(lambda: True, lambda what, share: None))  # fmt: skip
