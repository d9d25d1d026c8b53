"""What takes room besides parts: servos' cases as their lie was said, and the wearer's head."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from karakuri.bodies.blocks import WEARER, block_name, blocks
from karakuri.bodies.inertia import turned, turned_degrees
from karakuri.catalogue import servo_class
from karakuri.checks.contract import ROOM
from karakuri.errors import EditRefused
from karakuri.files.text import from_text, to_text
from karakuri.model.drive import Case, Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import remove_item, set_case
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import remove_joint
from karakuri.model.part import Box, Part
from karakuri.model.room import Room
from karakuri.model.room_edits import belong
from karakuri.model.sides import twin_joint
from karakuri.model.stand import Base
from karakuri.model.transmission import Ball
from karakuri.model.worn import Wearer, Worn
from karakuri.study.study import study
from karakuri.units import METRIC
from tests.figures import X, Y, Z

way = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.2)


def turning(axis=Y, case=None, **more) -> Figure:
    joint = Joint(id="jaw", name="Jaw", at_mm=(10.0, 20.0, 30.0), axis=axis, range_deg=(0.0, 30.0))
    return Figure(joints=(joint,), drives=(Drive(id="servo", joint="jaw", actuator=servo_class("class_1_6"), case=case, **more),))  # fmt: skip


def placed(figure: Figure, ident="servo") -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Middle (3,), axes (3, 3) and half sizes (3,) of a block, mm."""
    block = next(each for each in blocks(figure) if each.id == ident)
    assert isinstance(block.shape, Box)
    return np.array(block.at_mm), turned(block.turned_deg), np.array(block.shape.size_mm) / 2


@given(way, way, st.sampled_from(["plus", "minus"]), st.tuples(*[st.floats(5, 80)] * 3))
def test_the_shaft_comes_out_of_its_case_near_one_end(axis, to, shaft, size):
    assume(np.linalg.norm(np.cross(axis, to)) > 0.05 * math.hypot(*axis) * math.hypot(*to))
    sizes = (max(size[:2]), min(size[:2]), size[2])
    figure = turning(axis, Case(to=to, shaft=shaft, size_mm=sizes))
    at, turn, half = placed(figure)
    assert np.allclose(turn @ turn.T, np.eye(3), atol=1e-5) and np.linalg.det(turn) == pytest.approx(1.0, abs=1e-5)
    local = turn.T @ (
        np.array(figure.joints[0].at_mm) - at
    )  # the pivot as the case has it: on top, half its width from an end
    assert local == pytest.approx([-(sizes[0] - sizes[1]) / 2, 0.0, half[2]], abs=2e-2)
    out = np.array(axis) / np.linalg.norm(axis) * (1 if shaft == "plus" else -1)
    assert turn[:, 2] == pytest.approx(out, abs=1e-5)


@given(way, way, st.sampled_from(["plus", "minus"]), st.booleans())
def test_a_twin_has_its_case_in_the_mirror(axis, to, shaft, ball):
    form = Ball(shaft_mm=(0.0, 15.0, 5.0), shaft_axis=axis, horn_to=tuple(np.cross(axis, (0.3, -0.5, 0.81))), ball_mm=(60.0, 12.0, 8.0)) if ball else None  # fmt: skip
    assume(np.linalg.norm(np.cross(axis, to)) > 0.05 * math.hypot(*to))
    figure = turning(axis, Case(to=to, shaft=shaft), **({"transmission": form} if form is not None else {}))
    twin, _ = twin_joint(figure, "jaw")
    after = apply(figure, twin)
    ours, theirs = placed(figure), placed(after, after.drives[-1].id)
    mirror = np.diag([1.0, -1.0, 1.0])
    corners = np.array([(x, y, z) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])

    def cloud(at, turn, half):
        return sorted(map(tuple, np.round(at + (corners * half) @ turn.T, 1)))

    mirrored = sorted(map(tuple, np.round((ours[0] + (corners * ours[2]) @ ours[1].T) @ mirror, 1)))
    assert np.allclose(cloud(*theirs), mirrored, atol=0.21)


@given(st.floats(-180, 180), st.floats(-89, 89), st.floats(-180, 180))
def test_degrees_of_a_turn_are_those_about_fixed_axes(x, y, z):
    ours = turned(turned_degrees(Rotation.from_euler("xyz", (x, y, z), degrees=True).as_matrix()))
    assert np.allclose(ours, Rotation.from_euler("xyz", (x, y, z), degrees=True).as_matrix(), atol=1e-6)


def boxed(size_mm, gap=2.0) -> Figure:
    """A servo in a box, its jaw outside."""
    figure = turning(Y, Case(to=(-1.0, 0.0, 0.0), size_mm=size_mm))
    box = Part(id="box", name="box", shape=Box(size_mm=(120.0, 100.0, 110.0), wall_mm=3.0), at_mm=(0.0, 0.0, 30.0), mass_g=80.0)  # fmt: skip
    return Figure(**(dict(figure) | {"parts": (box,), "room": Room(gap_mm=gap)}))


def told(figure: Figure):
    return {f.id: f for f in study(figure).findings if f.rule == "room"}


def test_a_case_that_is_too_long_for_its_box_is_told_and_a_shorter_one_goes_in():
    long = told(boxed((76.0, 20.0, 38.0)))
    finding = next(f for f in long.values() if f.verdict == "fails")
    assert "servo of Jaw" in finding.sentence.show(METRIC) and "guessed" not in finding.sentence.show(METRIC)
    assert {f.verdict for f in told(boxed((40.0, 20.0, 38.0))).values()} == {"holds"}


@given(st.floats(30, 60), st.floats(1, 15))
def test_a_longer_case_never_leaves_more_room(long, more):
    def least(length: float) -> float:
        found = study(boxed((length, 20.0, 38.0), gap=200.0)).results[ROOM]
        assert found is not None
        return min(each.most for each in found.near)

    assert least(long + more) <= least(long) + 1e-9


def test_what_was_not_said_is_said_to_be_not_looked_at():
    figure = turning()
    box = Part(id="box", name="box", shape=Box(size_mm=(10.0, 10.0, 10.0)), mass_g=8.0)
    other = Part(id="far", name="far", rides_on="jaw", shape=Box(size_mm=(9.0, 9.0, 9.0)), at_mm=(200.0, 0.0, 0.0), mass_g=8.0)  # fmt: skip
    figure = Figure(**(dict(figure) | {"parts": (box, other), "room": Room()}))
    words = told(figure)["room"].sentence.show(METRIC)
    assert "Nor is the case of 1 servo" in words
    said = apply(figure, set_case(figure, "servo", "to", (-1.0, 0.0, 0.0), "how the case lies"))
    assert "Nor is" not in told(said)["room"].sentence.show(METRIC)
    assert "guessed" in block_name(said, "servo")
    again = apply(said, set_case(said, "servo", "to", None, "how the case lies"))
    assert again.drives[0].case is None
    with pytest.raises(EditRefused):
        apply(figure, Edit("x", (Set(("drives", "servo", "case"), {"to": (0.0, 0.0, 0.0)}),)))


def test_a_servo_that_belongs_with_its_box_is_not_compared_and_goes_with_its_joint():
    figure = boxed((110.0, 20.0, 38.0))
    figure = apply(figure, belong(figure, [("box", "servo")]))
    assert not [f for f in told(figure).values() if f.verdict == "fails"]
    assert from_text(to_text(figure)) == figure
    for gone in (remove_item(figure, "drives", "servo"), remove_joint(figure, "jaw")):
        after = apply(figure, gone)
        assert after.room is not None and not after.room.together


def worn(padding=0.0, by="head", **measured) -> Figure:
    base = Base(held="worn", worn=Worn(by=by, ears_mm=(0.0, 0.0, 0.0), wearer=Wearer(padding_mm=padding, **measured)))
    shell = Part(id="shell", name="shell", shape={"kind": "ellipsoid", "semi_axes_mm": (140.0, 120.0, 190.0), "wall_mm": 10.0}, mass_g=500.0)  # fmt: skip
    return Figure(base=base, parts=(shell,), room=Room(gap_mm=5.0))


def test_the_wearers_head_is_inside_the_shell_and_padding_fills_it():
    assert {f.verdict for f in told(worn()).values()} == {"holds"}
    tight = told(worn(padding=32.0))
    assert any(f.verdict == "fails" and "wearer’s head, guessed" in f.sentence.show(METRIC) for f in tight.values())
    measured = told(worn(padding=28.0, head_long_mm=200.0, head_wide_mm=155.0))
    assert not any("guessed" in f.sentence.show(METRIC) for f in measured.values())


def test_a_tape_round_the_head_tells_its_length_and_breadth():
    block = next(each for each in blocks(worn(head_around_mm=580.0)) if each.id == WEARER)
    a, b, _ = block.shape.semi_axes_mm
    angles = np.linspace(0, 2 * math.pi, 200_001)
    around = np.hypot(np.diff(a * np.cos(angles)), np.diff(b * np.sin(angles))).sum()
    assert around == pytest.approx(580.0, rel=1e-4) and "guessed" not in block.name
    assert a > b
    turning_inside = next(each for each in blocks(worn(by="shoulders", head_around_mm=580.0)) if each.id == WEARER)
    assert turning_inside.shape.semi_axes_mm[0] == turning_inside.shape.semi_axes_mm[1]


def test_axes_are_those_of_the_figure():
    at, turn, half = placed(turning(Z, Case(to=(-1.0, 0.0, 0.0), size_mm=(40.0, 20.0, 36.0))))
    assert at == pytest.approx((0.0, 20.0, 12.0)) and half == pytest.approx((20.0, 10.0, 18.0))
    assert turn == pytest.approx(np.array([[-1.0, 0, 0], [0, -1.0, 0], [0, 0, 1.0]]), abs=1e-9)
    assert placed(turning(X, Case(to=Z)))[0][2] > 30.0
