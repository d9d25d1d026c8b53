"""Two servos of the same on one joint: they are one of nearly twice the strength and twice the rest, in every verdict."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.blocks import blocks
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class, servo_classes, steppers
from karakuri.errors import EditRefused
from karakuri.files.text import from_text, to_text
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Case, Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import set_servos
from karakuri.model.figure import Figure
from karakuri.model.finding import finding_id
from karakuri.model.joint import Joint, Move
from karakuri.model.sides import twin_joint
from karakuri.model.transmission import Belt, Gear, Lever
from karakuri.power.supply import stall_sum
from karakuri.sizing.prices import costs
from karakuri.sizing.scaled import scaled
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from karakuri.units import METRIC
from tests.figures import Y, Z, head, part
from tests.references.mujoco_twin import Twin


def doubled(figure: Figure, share=0.9, **more) -> Figure:
    drive = Drive(**(dict(figure.drives[0]) | {"servos": 2} | more))
    return Figure(**(dict(figure) | {"drives": (drive, *figure.drives[1:]), "assumptions": Assumptions(together_share=share)}))  # fmt: skip


def as_one(figure: Figure) -> Figure:
    """The same with one servo of both."""
    drive = figure.drives[0]
    one = Drive(**(dict(drive) | {"servos": 1, "actuator": drive.acting(figure.assumptions.together_share)}))
    return Figure(**(dict(figure) | {"drives": (one, *figure.drives[1:])}))


@settings(max_examples=15)
@given(st.sampled_from(servo_classes()[2:]), st.floats(100, 1500), st.floats(0.2, 2.0))
def test_two_are_one_of_both_in_every_verdict(servo, grams, seconds):
    figure = head(mass_g=grams, move=Move(by=30.0, time_s=seconds))
    figure = apply(figure, Edit("x", (Set(("drives", "servo", "actuator"), servo),)))
    two = doubled(figure, share=1.0)
    ours, theirs = ({f.id: f for f in study(each).findings} for each in (two, as_one(two)))
    assert ours.keys() == theirs.keys() and len(ours) > 5
    for ident, finding in ours.items():
        other = theirs[ident]
        assert finding.verdict == other.verdict, ident
        assert finding.reserve == other.reserve or finding.reserve == pytest.approx(other.reserve, rel=1e-9), ident


@given(st.floats(0.5, 1.0), st.floats(100, 2000))
def test_what_two_hold_is_twice_by_the_share_that_counts(share, grams):
    one = study(head(mass_g=grams)).finding(finding_id("hold", "tilt"))
    two = study(doubled(head(mass_g=grams), share)).finding(finding_id("hold", "tilt"))
    assert two.reserve == pytest.approx(2 * share * one.reserve, rel=1e-9)


@given(st.floats(0.5, 1.0), st.floats(100, 2000))
def test_what_the_shafts_of_two_carry_is_shared_as_unevenly(share, grams):
    (one,) = (r.shaft for r in study(head(mass_g=grams)).results.joints if r.shaft)
    (two,) = (r.shaft for r in study(doubled(head(mass_g=grams), share)).results.joints if r.shaft)
    assert two.moment_reserve == pytest.approx(2 * share * one.moment_reserve, rel=1e-9)
    assert two.side_reserve == pytest.approx(2 * share * one.side_reserve, rel=1e-9)


@settings(max_examples=10)
@given(st.floats(0.5, 1.0), st.floats(100, 2000), st.sampled_from([Gear(), Belt(), Lever()]))
def test_what_gears_belt_or_rod_pull_at_the_shafts_of_two_is_shared_as_unevenly(share, grams, form):
    through = apply(head(mass_g=grams, move=None), Edit("x", (Set(("drives", "servo", "transmission"), form),)))
    one, two = (study(f).finding(finding_id("linkage", "tilt", "shaft")) for f in (through, doubled(through, share)))
    assert two.reserve == pytest.approx(2 * share * one.reserve, rel=1e-9)


def test_a_second_one_is_offered_where_one_cannot_hold_and_does_what_was_promised():
    figure, reuse = head(mass_g=900.0), Reuse()
    found = study(figure, reuse)
    finding = found.finding(finding_id("hold", "tilt"))
    assert finding.verdict == "fails"
    offered = {each.label.show(METRIC): each for each in remedies(found, finding, reuse)}
    remedy = offered["A second servo beside it"]
    after = study(apply(figure, remedy.edit), reuse)
    assert after.figure.drives[0].servos == 2
    assert after.finding(finding.id).reserve == pytest.approx(remedy.reserve, rel=1e-6)
    words = after.finding(finding.id).derivations
    assert any("2 ×" in d.show(METRIC) for d in words)


def test_both_weigh_cost_and_draw():
    figure = head()
    two = doubled(figure)
    servo = figure.drives[0].actuator
    assert sum(b.mass for b in build_tree(two).bodies if b.kind == "servo") == pytest.approx(2 * servo.mass_g / 1e3)
    assert stall_sum(two).total == pytest.approx(2 * stall_sum(figure).total)
    assert sum(cost.servo for cost in costs(two)) == pytest.approx(2 * servo.price)


def test_the_second_sits_on_the_other_side_and_goes_where_its_figure_goes():
    figure = apply(head(), Edit("x", (Set(("drives", "servo", "at_mm"), (-30.0, 25.0, 90.0)),)))
    two = apply(figure, set_servos(figure, "servo", 2))
    assert two.drives[0].other_at_mm == (-30.0, -25.0, 90.0)
    at = [b.at for b in build_tree(two).bodies if b.kind == "servo"]
    assert at == [(-30.0, 25.0, 90.0), (-30.0, -25.0, 90.0)]
    large = apply(two, scaled(two, 200.0))
    assert large.drives[0].other_at_mm == (-60.0, -50.0, 180.0)
    aside = apply(two, Edit("x", (Set(("joints", "tilt", "at_mm"), (0.0, 40.0, 100.0)), Set(("joints", "tilt", "name"), "Jaw left"))))  # fmt: skip
    twin = apply(aside, twin_joint(aside, "tilt")[0])
    assert twin.drives[1].other_at_mm == (-30.0, 25.0, 90.0) and twin.drives[1].servos == 2
    assert from_text(to_text(two)) == two
    one = apply(two, set_servos(two, "servo", 1))
    assert one.drives[0].servos == 1


def test_a_joint_below_feels_both_as_mujoco_does():
    turn = Joint(id="lean", name="lean", at_mm=(0.0, 0.0, 40.0), axis=Z)
    nod = Joint(id="nod", name="nod", rides_on="lean", at_mm=(0.0, 0.0, 60.0), axis=Y)
    top = Joint(id="top", name="top", rides_on="nod", at_mm=(30.0, 0.0, 110.0), axis=Y)
    drive = Drive(id="d", joint="top", actuator=servo_class("class_20"), at_mm=(25.0, 20.0, 100.0), other_at_mm=(25.0, -24.0, 101.0), servos=2)  # fmt: skip
    figure = Figure(joints=(turn, nod, top), parts=(part("p", "top", 200.0, (60.0, 5.0, 140.0)),), drives=(drive,))
    r = study(figure).results.of("nod")
    pose = dict(zip(study(figure).results.tree.ids, map(float, r.hold.worst.pose), strict=True))
    assert abs(Twin(figure).inverse(pose)["nod"]) == pytest.approx(r.hold.need, rel=1e-6)


def test_both_take_room_face_to_face():
    drive = Drive(id="d", joint="tilt", actuator=servo_class("class_10"), servos=2, case=Case(to=(-1.0, 0.0, 0.0)))
    figure = Figure(**(dict(head()) | {"drives": (drive,)}))
    first, second = (each for each in blocks(figure) if "servo" in each.name)
    assert first.at_mm[1] == -second.at_mm[1] and first.at_mm[0] == second.at_mm[0]


def test_two_steppers_are_refused():
    figure = apply(head(), Edit("x", (Set(("drives", "servo", "actuator"), steppers()[0]),)))
    with pytest.raises(EditRefused, match="alone"):
        apply(figure, set_servos(figure, "servo", 2))
