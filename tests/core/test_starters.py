"""Starters: what they set down is whole, grows as it should, is the same on both sides, and its servos are the smallest that hold."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.solids import solid_of
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_classes
from karakuri.course import Course, GivenUp
from karakuri.model.edit import Add, Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.transmission_edits import apart_mm
from karakuri.session.session import Session
from karakuri.starters import KINDS, STARTERS, kind, starter
from karakuri.starters.composed import Asked, brought, set_down, sums, with_servos
from karakuri.study.set_down import fitted
from karakuri.study.study import study

PAIRED = ("lids", "eyes_four", "brows", "ears")
some = st.lists(st.sampled_from(STARTERS), unique=True, max_size=6).map(
    lambda chosen: tuple(
        each for each in STARTERS if each in chosen and not any(each.id in other.shuts for other in chosen)
    )
)


def made(asked: Asked, figure: Figure | None = None) -> Figure:
    figure = figure or Figure()
    return apply(figure, set_down(figure, asked).edit)


def bust(*ids: str, tall=200.0, eye=None) -> Asked:
    return Asked(tall, eye, tuple(each for each in STARTERS if each.id in ids), kind("bust"))


@pytest.mark.parametrize("one", STARTERS, ids=lambda one: one.id)
def test_a_starter_on_a_bust_fails_nowhere(one):
    down, found = fitted(Figure(), bust(one.id))
    assert found.count("fails") == 0, [f.sentence for f in found.findings if f.verdict == "fails"]
    assert {f.rule for f in found.findings if f.verdict == "not yet judged"} <= {"stops", "cords"}
    assert found.figure == apply(Figure(), down.edit)


@pytest.mark.parametrize("shape", KINDS, ids=lambda shape: shape.id)
def test_every_kind_carries_a_head_of_two_axes_with_jaw_and_eyes(shape):
    ids = ("neck_turns", "neck_nods", "jaw_whole", "eyes_two")
    asked = Asked(shape.tall_mm, None, tuple(each for each in STARTERS if each.id in ids), shape, feeds=True)
    _, found = fitted(Figure(), asked)
    assert not [f for f in found.findings if f.verdict == "fails" and f.rule != "worn"]
    assert all(f.verdict == "holds" for f in found.findings if f.rule == "supply")
    assert sum(joint.role == "driven" for joint in found.figure.joints) == 5


def test_what_cannot_be_together_says_so_both_ways():
    for one in STARTERS:
        for other in one.shuts:
            assert one.id in starter(other).shuts
    for one, other in itertools.combinations(STARTERS, 2):
        if one.feature == other.feature and one.feature in ("jaw", "eyes"):
            assert other.id in one.shuts


@settings(max_examples=40)
@given(some, st.sampled_from(KINDS), st.floats(60, 900), st.floats(8, 80))
def test_any_choice_in_any_size_is_a_figure_and_its_sums_add_up(chosen, shape, tall, eye):
    asked = Asked(tall, eye, chosen, shape)
    figure = made(asked)
    whole = brought(asked)
    each = [brought(Asked(tall, eye, (one,), None)) for one in chosen]
    assert whole.axes == sum(one.axes for one in each) and whole.servos == sum(one.servos for one in each)
    assert whole.price == pytest.approx(sum(one.price for one in each)) and whole.wires == 3 * whole.servos
    alone = brought(Asked(tall, eye, (), shape)).grams
    assert whole.grams == pytest.approx(alone + sum(one.grams for one in each), rel=1e-9, abs=1e-6)
    assert len(figure.drives) == whole.servos
    assert all(figure.joint(joint.id).region for joint in figure.joints)


@settings(max_examples=25)
@given(some, st.floats(80, 500))
def test_hung_twice_on_one_figure_it_is_there_twice(chosen, tall):
    figure = made(Asked(tall, None, chosen, kind("bust")))
    again = made(Asked(tall, None, chosen, None, "base", (0.0, 400.0, 200.0)), figure)
    assert len(again.joints) == 2 * len(figure.joints) and len(again.drives) == 2 * len(figure.drives)
    assert again.joints[: len(figure.joints)] == figure.joints


@pytest.mark.parametrize("ident", PAIRED)
def test_a_pair_is_the_same_on_both_sides(ident):
    tree = build_tree(made(Asked(200.0, None, (starter(ident),))))
    across = float((tree.body_mass * tree.body_at[:, 1]).sum())
    assert abs(across) < 1e-9 and abs(tree.body_at[:, 1]).max() > 0.01
    figure = made(Asked(200.0, None, (starter(ident),)))
    for left in (joint for joint in figure.joints if "left" in joint.name):
        right = next(joint for joint in figure.joints if joint.name == left.name.replace("left", "right"))
        assert right.range_deg in (left.range_deg, (-left.range_deg[1], -left.range_deg[0]))
        assert right.at_mm == pytest.approx((left.at_mm[0], -left.at_mm[1], left.at_mm[2]))


@given(st.sampled_from(KINDS[1:]), st.floats(60, 800), st.floats(1.1, 3.0))
def test_a_shell_weighs_as_the_square_of_its_size(shape, tall, by):
    def shell(height: float) -> float:
        tree = build_tree(made(Asked(height, None, (), shape)))
        return sum(body.mass for body in tree.bodies if body.name == "Head shell")

    # of one wall: area grows as the square; its middle surface is a wall's half smaller, and sizes are written to a tenth of a millimetre
    assert shell(tall * by) / shell(tall) == pytest.approx(by**2, rel=0.25 * 20.0 / tall + 0.02)


def test_an_eyeball_is_as_large_as_it_was_measured_wherever_it_is():
    for ident in ("eyes_horn", "eyes_two", "eyes_four"):
        figure = made(Asked(200.0, 26.0, (starter(ident),)))
        balls = [part.shape for part in figure.parts if "ball" in part.name.lower()]
        assert len(balls) == 2 and all(ball.radius_mm == 13.0 for ball in balls)


@pytest.mark.parametrize("ident", ["neck_nods", "neck_turns", "jaw_whole", "ears"])
def test_the_next_smaller_class_does_not_do(ident):
    down, found = fitted(Figure(), bust(ident, "eyes_four"))
    adds = [
        step.item
        for step in set_down(Figure(), bust(ident)).edit.steps
        if isinstance(step, Add) and step.collection == "drives"
    ]
    least = {item["id"]: item["actuator"] for item in adds}
    for drive_id, first in least.items():
        fitted_now = next(drive for drive in found.figure.drives if drive.id == drive_id)
        if fitted_now.actuator == first:
            continue
        smaller = [c for c in servo_classes() if first.torque_Nm <= c.torque_Nm < fitted_now.actuator.torque_Nm]
        worse = study(apply(Figure(), with_servos(down, [(drive_id, smaller[-1])]).edit))
        bad = [f for f in worse.findings if f.subject.id == fitted_now.joint and f.verdict in ("fails", "tight")]
        assert bad


def test_it_is_one_step_to_undo_and_comes_back_the_same():
    session = Session(Figure())
    before = session.figure
    session.edit(set_down(before, bust("neck_nods", "jaw_split", "brows")).edit)
    after = session.figure
    assert session.undo() and session.figure == before and not session.undo()
    assert session.redo() and session.figure == after


def test_a_worn_or_tipped_figure_keeps_the_posture_it_was_given_besides_its_own():
    figure = apply(Figure(), Edit("lean", (Set(("postures",), ({"id": "level", "name": "level"}, {"id": "leaning", "name": "leaning", "lean_deg": 12.0})),)))  # fmt: skip
    for shape in KINDS:
        names = [posture.id for posture in made(Asked(200.0, None, (), shape), figure).postures]
        assert "leaning" in names and len(names) == len(set(names))
    worn = made(Asked(420.0, None, (), kind("worn")))
    assert worn.base.held == "worn" and len(worn.stances) == 2


def test_nothing_is_counted_that_follows_and_a_hand_is_an_axis():
    assert brought(Asked(200.0, None, (starter("finger"),))).axes == 1
    cord = brought(Asked(200.0, None, (starter("jaw_cord"),)))
    assert (cord.axes, cord.servos, cord.price) == (1, 0, 0)
    everything = brought(Asked(200.0, None, tuple(starter(i) for i in ("neck_turns", "neck_nods", "eyes_four"))))
    assert everything.people == 2  # six axes: two sticks of two axes each a person


def test_what_is_asked_can_be_given_up():
    with pytest.raises(GivenUp):
        fitted(Figure(), bust("neck_rods"), Course(lambda: True, lambda what, share: None))


def test_sums_of_a_figure_that_is_there_count_what_is_new_only():
    figure = made(bust("neck_nods"))
    edit = set_down(figure, Asked(200.0, None, (starter("ears"),), None, "neck_nod", (12.0, 0.0, 164.0))).edit
    found = sums(figure, edit)
    assert (found.axes, found.servos) == (2, 2) and 0 < found.grams < 100
    assert np.isclose(found.grams, brought(Asked(200.0, None, (starter("ears"),))).grams)


def test_what_follows_goes_as_far_as_what_leads_takes_it_and_left_is_on_the_left():
    for one in STARTERS:
        figure = made(Asked(200.0, None, (one,)))
        for joint in figure.joints:
            if joint.role == "follows":
                ends = sorted(joint.follows.ratio * end for end in figure.joint(joint.follows.joint).range_deg)
                assert list(joint.range_deg) == pytest.approx(ends)
        for item in (*figure.joints, *figure.parts):
            if "left" in item.name:
                other = next(
                    each for each in (*figure.joints, *figure.parts) if each.name == item.name.replace("left", "right")
                )
                assert item.at_mm[1] > other.at_mm[1]


@given(st.sampled_from(STARTERS), st.floats(80, 500))
def test_no_part_lies_far_from_what_it_rides_on_and_all_grows_with_the_head(one, tall):
    figure, twice = made(Asked(tall, tall / 6, (one,))), made(Asked(2 * tall, tall / 3, (one,)))
    for part in figure.parts:
        at = figure.joint(part.rides_on).at_mm if part.rides_on != "base" else (0.0, 0.0, 0.0)
        assert np.linalg.norm(np.subtract(part.at_mm, at)) < 0.75 * tall
    for small, large in zip(figure.parts, twice.parts, strict=True):
        assert np.allclose(np.multiply(small.at_mm, 2), large.at_mm, atol=1.0 + 0.01 * tall)


def reach_mm(part, way) -> float:
    """How far a part reaches along a way (3,), from the datum, mm."""
    solid = solid_of(part, -1)
    ways = np.array([way], dtype=float)
    far = float(solid.reach(ways @ solid.turned)[0]) * 1e3 if solid is not None else 0.0
    return float(np.dot(part.at_mm, way)) + far


@pytest.mark.parametrize("one", STARTERS, ids=lambda one: one.id)
@pytest.mark.parametrize("tall", [120.0, 400.0])
def test_a_servo_stands_where_its_mechanism_says_and_what_it_turns_reaches_its_pivot(one, tall):
    figure = made(Asked(tall, None, (one,), kind("bust")))
    for drive in figure.drives:
        form = drive.transmission
        if form.kind in ("lever", "belt"):
            assert apart_mm(figure, drive) == pytest.approx(form.axes_mm, abs=0.3)
        elif form.kind == "ball":
            assert drive.at_mm == form.shaft_mm
    for joint in figure.joints:
        parts = [part for part in figure.parts if part.rides_on == joint.id]
        solids = [(part, solid_of(part, -1)) for part in parts]
        near = [
            float(solid.away(((np.array(joint.at_mm) / 1e3 - solid.at) @ solid.turned)[None])[0]) * 1e3
            for _, solid in solids
            if solid is not None
        ]
        near += [float(np.linalg.norm(np.subtract(part.at_mm, joint.at_mm))) for part, solid in solids if solid is None]
        assert not near or min(near) <= 0.13 * tall, joint.name


@pytest.mark.parametrize("shape", KINDS[1:], ids=lambda shape: shape.id)
@pytest.mark.parametrize("tall", [150.0, 500.0])
def test_a_head_stands_on_what_carries_it_and_its_feet_are_under_it(shape, tall):
    figure = made(Asked(tall, None, (starter("neck_turns"), starter("neck_nods")), shape))
    head = next(part for part in figure.parts if part.name == "Head shell")
    bottom = -reach_mm(head, (0.0, 0.0, -1.0))
    below = [part for part in figure.parts if part.rides_on == "base" and part.name in ("Plinth", "Body", "Drum")]
    for part in below:
        assert 0 <= bottom - reach_mm(part, (0.0, 0.0, 1.0)) <= 0.3 * tall
    corners = np.array(figure.base.outline_mm)
    for axis in range(2):
        way = np.eye(3)[axis]
        assert corners[:, axis].max() == pytest.approx(-corners[:, axis].min())
        for part in below:
            assert reach_mm(part, way) <= corners[:, axis].max() + 0.11 * tall  # a drum stands a little over its wheels
            assert reach_mm(part, way) >= 0.7 * corners[:, axis].max()
    turn, nod = (next(j for j in figure.joints if j.name == name) for name in ("Neck turn", "Neck nod"))
    assert turn.at_mm[2] < bottom + 0.2 * tall and bottom < nod.at_mm[2] < head.at_mm[2]
    assert abs(turn.at_mm[0]) < 0.01 * tall and turn.at_mm[1] == 0  # over the middle of what it stands on
