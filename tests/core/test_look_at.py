"""Looking at a point: laws over random points, and what is told where it cannot be looked at."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.coordinates import complete
from karakuri.bodies.tree import build_tree
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.starts import rest_pose
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.sides import mirrored
from karakuri.study.look_at import look_at

Z, Y = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0)


def gazer(eye=25.0, head=50.0):
    joints = [
        Joint(id="pan", name="Neck pan", axis=Z, timing="head", range_deg=(-head, head), at_mm=(0.0, 0.0, 0.0)),
        Joint(id="tilt", name="Neck tilt", axis=Y, timing="head", range_deg=(-30.0, 30.0), rides_on="pan", at_mm=(0.0, 0.0, 40.0)),
    ]  # fmt: skip
    for side, y in (("left", 32.0), ("right", -32.0)):
        joints += [
            Joint(id=f"p_{side}", name=f"Eye pan, {side}", axis=Z, timing="eye", range_deg=(-eye, eye), rides_on="tilt", at_mm=(60.0, y, 110.0)),
            Joint(id=f"t_{side}", name=f"Eye tilt, {side}", axis=Y, timing="eye", range_deg=(-20.0, 20.0), rides_on=f"p_{side}", at_mm=(60.0, y, 110.0)),
        ]  # fmt: skip
    return Figure(joints=tuple(joints))


def passes(figure, looked, point):
    """By another way: how far from the point each eye's straight line passes, mm."""
    tree = build_tree(figure)
    q = rest_pose(tree)
    for ident, value in looked.pose.items():
        q[tree.index(ident)] = value
    placed = place(tree, complete(tree.coupling, q[:, None]))
    out = []
    for j, ident in enumerate(tree.ids):
        if ident.startswith("t_"):
            at, way = placed.pivot[j, :, 0], placed.rotation[j, :, :, 0] @ np.array([1.0, 0.0, 0.0])
            to = np.array(point) / 1e3 - at
            out.append(np.linalg.norm(np.cross(way, to)) * 1e3 if way @ to > 0 else math.inf)
    return out


points = st.tuples(st.floats(700.0, 3000.0), st.floats(-900.0, 900.0), st.floats(-150.0, 500.0))


@settings(max_examples=40, deadline=None)
@given(points)
def test_both_eyes_look_at_the_point(point):
    figure = gazer()
    looked = look_at(figure, point)
    assert looked.off < 1e-5 and max(passes(figure, looked, point)) < 0.01
    for ident, value in looked.pose.items():
        low, high = figure.joint(ident).range_deg
        assert math.radians(low) - 1e-9 <= value <= math.radians(high) + 1e-9


@settings(max_examples=20, deadline=None)
@given(points)
def test_a_point_in_the_mirror_is_looked_at_in_the_mirror(point):
    figure = gazer()
    one, other = look_at(figure, point).pose, look_at(figure, (point[0], -point[1], point[2])).pose
    seen = mirrored(figure, one)
    assert {k: pytest.approx(v, abs=2e-3) for k, v in seen.items()} == other


def test_eyes_do_what_is_near_and_the_head_joins_where_it_is_far():
    figure = gazer()
    near, far = (look_at(figure, (1500.0, 1500.0 * math.tan(math.radians(a)), 100.0)).pose for a in (8.0, 40.0))
    assert abs(near["pan"]) < math.radians(3.0) and near["p_left"] > math.radians(4.0)
    assert far["pan"] > math.radians(15.0) and abs(far["p_left"]) < math.radians(22.0)


def test_what_cannot_be_looked_at_is_told_by_how_much():
    behind = look_at(gazer(head=20.0), (-1000.0, 50.0, 100.0))
    assert behind.looks and behind.off > math.radians(60.0)
    assert look_at(Figure(), (1000.0, 0.0, 0.0)).looks is False
    headed = Figure(joints=gazer().joints[:2])
    assert look_at(headed, (1000.0, 200.0, 100.0)).off < 1e-5  # where there are no eyes the head looks


def test_the_owl_looks_at_a_reader_with_eyes_that_are_tied():
    owl = load(owl_path())
    looked = look_at(owl, (700.0, 180.0, 250.0))
    assert looked.looks and looked.off < math.radians(5.0)  # two eyes that turn as one squint past what is near
    assert looked.pose["eye_left_pan"] == looked.pose["eye_right_pan"]
