"""Hard use without a window: mutilated files, random edits, figures at their edges. Only the house's own exceptions may come out."""

import json
import math

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from karakuri.catalogue import servo_class, servo_classes
from karakuri.demo import owl_path
from karakuri.errors import EditRefused, FileTrouble
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Remove, Set, apply
from karakuri.model.edits import add_joint, add_part, fit_servo, fresh_part, remove_item
from karakuri.model.figure import Figure, Supply
from karakuri.model.joint import Follow, Joint
from karakuri.model.joint_edits import MOTIONS, fresh_joint, motion_of, set_motion
from karakuri.model.part import Box, Cylinder, Ellipsoid, Sphere
from karakuri.model.sides import twin_part
from karakuri.model.stand import Base, Posture
from karakuri.session.session import Session
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from karakuri.units import ALL_UNITS
from tests.figures import head, part

OWL = owl_path().read_text("utf-8")
JUNK = st.one_of(st.none(), st.booleans(), st.integers(-(10**9), 10**9), st.floats(allow_nan=False), st.text(max_size=8), st.lists(st.integers(), max_size=4),
                 st.dictionaries(st.text(max_size=4), st.integers(), max_size=2))  # fmt: skip


def places(data, here=()):
    """Every path into the JSON."""
    yield here
    if isinstance(data, dict):
        for key, value in data.items():
            yield from places(value, (*here, key))
    elif isinstance(data, list):
        for i, value in enumerate(data):
            yield from places(value, (*here, i))


PLACES = [p for p in places(json.loads(OWL)) if p]


@given(st.lists(st.tuples(st.sampled_from(PLACES), JUNK), min_size=1, max_size=3))
@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_a_mutilated_file_is_read_or_refused_with_paths_and_never_crashes(changes):
    data = json.loads(OWL)
    for path, junk in changes:
        here = data
        try:
            for step in path[:-1]:
                here = here[step]
            here[path[-1]] = junk
        except (KeyError, IndexError, TypeError):
            continue
    try:
        figure = from_text(json.dumps(data))
    except FileTrouble as trouble:
        assert trouble.faults and all(str(fault) for fault in trouble.faults)
        return
    assert from_text(to_text(figure)) == figure


@given(st.text(max_size=60))
@settings(max_examples=60, deadline=None)
def test_any_text_is_a_figure_or_a_sentence(text):
    try:
        from_text(text)
    except FileTrouble as trouble:
        assert str(trouble)


def edits(figure, draw):
    """One edit a builder might make, sensible or not."""
    joints, parts = [j.id for j in figure.joints], [p.id for p in figure.parts]
    joint, any_part = (
        (draw(st.sampled_from(joints)) if joints else "none"),
        (draw(st.sampled_from(parts)) if parts else "none"),
    )
    number = draw(st.floats(-200, 200).map(lambda v: round(v, 2)))
    return draw(st.sampled_from([
        lambda: add_joint(fresh_joint(figure, draw(st.sampled_from([*joints, "base"])))),
        lambda: add_part(fresh_part(figure, draw(st.sampled_from([*joints, "base"])))),
        lambda: Edit("mass", (Set(("parts", any_part, "mass_g"), number),)),
        lambda: Edit("place", (Set(("parts", any_part, "at_mm"), (number, 0.0, 120.0)),)),
        lambda: Edit("range", (Set(("joints", joint, "range_deg"), (number - 20, number)),)),
        lambda: Edit("rides", (Set(("joints", joint, "rides_on"), draw(st.sampled_from([*joints, "base"]))),)),
        lambda: Edit("role", (Set(("joints", joint, "role"), draw(st.sampled_from(["driven", "free", "follows"]))),)),
        lambda: set_motion(figure, joint, draw(st.sampled_from(sorted(MOTIONS)))),
        lambda: fit_servo(figure, joint, draw(st.sampled_from(servo_classes()))),
        lambda: twin_part(figure, any_part),
        lambda: remove_item(figure, "joints", joint),
        lambda: remove_item(figure, "parts", any_part),
        lambda: Edit("gone", (Remove("drives", f"{joint}_servo"),)),
        lambda: Edit("lean", (Set(("postures", "level", "lean_deg"), number),)),
        lambda: Edit("volts", (Set(("supply", "voltage_V"), number),)),
    ]))()  # fmt: skip


@given(st.data())
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_any_sequence_of_edits_leaves_a_figure_that_can_be_judged_said_and_undone(data):
    session, reuse = Session(head()), Reuse()
    for _ in range(8):
        try:
            session.edit(edits(session.figure, data.draw))
        except (EditRefused, KeyError, StopIteration):
            continue
        done = study(session.figure, reuse)
        for finding in done.findings:
            for units in ALL_UNITS:
                assert finding.sentence.show(units)
                assert all(d.show(units) for d in finding.derivations)
            assert (finding.reserve is not None) or finding.measure is not None
    assert from_text(to_text(session.figure)) == session.figure
    while session.undo():
        pass
    assert session.figure == head()


@pytest.mark.parametrize("figure", [
    Figure(),
    Figure(joints=(Joint(id="j", name="j"),)),
    Figure(joints=(Joint(id="j", name="j", range_deg=(0.0, 0.0)),), parts=(part("a", "j", 0.0, (0.0, 0.0, 0.0)),)),
    Figure(parts=(part("a", "base", 100.0, (0.0, 0.0, -50.0)),)),
    Figure(joints=(Joint(id="j", name="j", range_deg=(-700.0, 700.0)),), parts=(part("a", "j", 100.0, (30.0, 0.0, 0.0)),),
           drives=(Drive(id="d", joint="j", actuator=servo_class("class_1_6")),)),
    Figure(postures=(Posture(id="flat", name="on its back", lean_deg=-90.0),), parts=(part("a", "base", 100.0, (0.0, 0.0, 50.0)),)),
    Figure(joints=(Joint(id="a", name="a"), Joint(id="b", name="b", role="follows", follows=Follow(joint="a"), rides_on="a")), supply=Supply(current_A=0.1)),
    Figure(base=Base(outline_mm=((0.0, 0.0), (100.0, 0.0), (0.0, 100.0))), parts=(part("a", "base", 1.0, (10.0, 10.0, 1.0)),)),
], ids=["empty", "bare joint", "no range, no mass", "below the floor", "many turns", "lying", "follows", "triangle"])  # fmt: skip
def test_figures_at_their_edges_are_judged(figure):
    reuse = Reuse()
    done = study(figure, reuse)
    for finding in done.findings:
        assert finding.verdict in ("holds", "tight", "fails", "not yet judged")
        assert finding.reserve is None or not math.isnan(finding.reserve)
        for remedy in remedies(done, finding, reuse):
            assert remedy.verdict in ("holds", "tight")


@pytest.mark.parametrize(
    "shape",
    [
        Box(size_mm=(10.0, 20.0, 30.0)),
        Sphere(radius_mm=12.0),
        Ellipsoid(semi_axes_mm=(10.0, 20.0, 30.0)),
        Cylinder(radius_mm=10.0, height_mm=40.0),
    ],
)
def test_a_mass_can_come_from_a_material(shape):
    owl = load(owl_path())
    made = apply(
        owl,
        Edit(
            "m",
            (
                Set(("parts", "yoke", "shape"), shape),
                Set(("parts", "yoke", "mass_g"), None),
                Set(("parts", "yoke", "material"), "birch_ply"),
            ),
        ),
    )
    body = next(b for b in study(made).results.tree.bodies if b.id == "yoke")
    volume = {
        "box": 6e-6,
        "sphere": 4 / 3 * math.pi * 0.012**3,
        "ellipsoid": 4 / 3 * math.pi * 6e-6,
        "cylinder": math.pi * 1e-4 * 0.04,
    }[shape.kind]
    assert body.mass == pytest.approx(680 * volume, rel=1e-9) and body.origin == "typical"
    assert body.bound == pytest.approx(0.15 * body.mass)


def test_turning_like_something_names_axis_and_ends():
    figure = apply(Figure(), add_joint(fresh_joint(Figure(), "base")))
    for word, motion in MOTIONS.items():
        joint = apply(figure, set_motion(figure, "joint_1", word)).joint("joint_1")
        assert (joint.axis, joint.ends, joint.kind) == (motion.axis, motion.ends, motion.kind)
        assert motion_of(joint) == word
    assert apply(figure, set_motion(figure, "joint_1", "opens")).joint("joint_1").range_deg == (0.0, 25.0)
