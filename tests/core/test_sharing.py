"""Edits of what two servos share, what becomes of it when something goes, and skin that is pushed."""

import math

import numpy as np
import pytest

from karakuri.bodies.linkages import shares, together
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.demo import owl_path
from karakuri.errors import EditRefused
from karakuri.exchange.outputs import outputs
from karakuri.files.text import from_text, to_text
from karakuri.mechanics.worst import joint_torque_Nm
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Remove, Set, apply
from karakuri.model.element import Anchor, Pull, Skin
from karakuri.model.element_edits import add_element, set_anchor
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import make_gimbal, remove_joint
from karakuri.model.record import Calibration, Entry
from karakuri.model.transmission import Ball, Bevel, Direct
from karakuri.model.transmission_edits import may_share, set_bevel, set_pair, set_transmission
from karakuri.sizing.scaled import scaled
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import head, part
from tests.references.test_shared import EYE, differential, eye, pair, two_axes


def findings(figure: Figure) -> dict:
    return {f.id: f for f in study(figure, Reuse()).findings}


@pytest.mark.parametrize("given", ["tilt", "roll"])
def test_two_rods_and_wheels_are_put_down_from_either_joint(given):
    other = {"tilt": "roll", "roll": "tilt"}[given]
    figure = two_axes()
    assert [joint.id for joint in may_share(figure, given)] == [other]
    for make in (set_pair, set_bevel):
        one, same = apply(figure, make(figure, given, other)), apply(figure, make(figure, other, given))
        assert one == same
        assert set(together(one, given)) == {"tilt", "roll"}
        told = findings(one)
        assert told["linkage.tilt"].verdict == told["linkage.roll"].verdict == "holds"
        assert all(d.rides_on == "base" for d in one.drives)


def test_two_servos_are_asked_for_where_there_is_one():
    figure = two_axes()
    lone = Figure(**(dict(figure) | {"drives": figure.drives[:1]}))
    with pytest.raises(EditRefused, match="roll has no servo yet"):
        set_pair(lone, "tilt", "roll")
    with pytest.raises(EditRefused, match="one has to ride on the other"):
        set_bevel(two_axes(third=True), "pan", "roll")
    assert may_share(lone, "tilt") == []


def test_a_rod_with_ball_ends_begins_square_and_holds():
    figure = head(ranges=(-20.0, 20.0))
    made = apply(figure, set_transmission(figure, figure.drives[0].id, "ball"))
    found = findings(made)["linkage.tilt"]
    assert found.verdict == "holds"
    form = made.drives[0].transmission
    placed = Drive(**(dict(made.drives[0]) | {"at_mm": (0.0, 0.0, 40.0), "transmission": Direct()}))
    lower = Figure(**(dict(figure) | {"drives": (placed,)}))
    again = apply(lower, set_transmission(lower, placed.id, "ball")).drives[0].transmission
    assert (
        again.shaft_mm[2] == pytest.approx(40.0, abs=10.0) and form.shaft_mm[0] < -30.0
    )  # toward where it was placed, else behind


def test_what_goes_leaves_no_servo_hanging():
    figure = differential()
    left = apply(figure, remove_joint(figure, "roll"))
    assert left.drives[0].transmission == Direct() and together(left, "tilt") == ("tilt",)
    left = apply(figure, remove_joint(figure, "tilt"))
    assert left.drives[0].transmission == Direct() and left.drives[0].rides_on == "base"
    gone = apply(figure, Edit("gone", (Remove("drives", "d_roll"),)))
    assert findings(gone)["linkage.tilt"].verdict == "fails"
    figure = eye()
    held = Drive(
        **(dict(figure.drives[1]) | {"transmission": Ball(**(dict(EYE) | {"ball_on": "tilt"})), "rides_on": "pan"})
    )
    figure = Figure(**(dict(figure) | {"drives": (figure.drives[0], held)}))
    left = apply(figure, remove_joint(figure, "pan"))
    assert left.drives[0].rides_on == "base" and left.drives[0].transmission.ball_on == "tilt"
    free = Joint(id="hangs", name="hangs", rides_on="base", role="free", at_mm=(0.0, 0.0, 30.0))
    figure = Figure(
        **(
            dict(figure)
            | {
                "joints": (*figure.joints, free),
                "drives": (figure.drives[0], Drive(**(dict(held) | {"rides_on": "hangs"}))),
            }
        )
    )
    edit, other = make_gimbal(figure, "hangs")
    assert apply(figure, edit).drives[1].rides_on == other


def test_references_that_lead_nowhere_are_named():
    text = to_text(differential())
    for old, new, words in (
        ('"partner": "roll"', '"partner": "nobody"', "no other joint 'nobody'"),
        ('"rides_on": "base",\n      "at_mm"', '"rides_on": "nowhere",\n      "at_mm"', "nowhere"),
    ):
        broken = text.replace(old, new) if old in text else None
        if broken is None:
            continue
        with pytest.raises(Exception, match=words):
            from_text(broken)
    with pytest.raises(EditRefused, match="no joint 'nobody'"):
        apply(eye(), Edit("x", (Set(("drives", "b", "transmission", "ball_on"), "nobody"),)))
    with pytest.raises(ValueError, match="across its shaft"):
        Ball(shaft_mm=(0.0, 0.0, 0.0), shaft_axis=(0.0, 1.0, 0.0), horn_to=(0.0, 2.0, 0.0), ball_mm=(1.0, 0.0, 0.0))
    with pytest.raises(ValueError, match="not all zeros"):
        Ball(shaft_mm=(0.0, 0.0, 0.0), shaft_axis=(0.0, 0.0, 0.0), ball_mm=(1.0, 0.0, 0.0))


@pytest.mark.parametrize("percent", [80.0, 150.0])
def test_made_larger_a_rod_goes_along(percent):
    """All of it grown by so much, but for the horn: rod and balls with it, so that it stands as it stood."""
    figure = pair()
    grown = apply(figure, scaled(figure, percent))
    for was, now in zip(figure.drives, grown.drives, strict=True):
        assert now.transmission.ball_mm == pytest.approx(
            [percent / 100 * v for v in was.transmission.ball_mm], abs=1e-3
        )
        assert now.transmission.shaft_mm == pytest.approx(
            [percent / 100 * v for v in was.transmission.shaft_mm], abs=1e-3
        )
        assert now.transmission.horn_mm == was.transmission.horn_mm


def test_a_ball_on_the_axis_of_what_turns_beside_it_is_not_moved_by_that():
    figure = eye()
    study_of = study(figure, Reuse())
    finding = study_of.finding("linkage.tilt.crosses")
    assert finding.verdict == "holds" and finding.derivations
    from karakuri.checks.crossing import on_axis

    r = study_of.results.of("tilt")
    proposals = list(on_axis(r, figure.drives[1], figure.drives[1].transmission, study_of.results))
    assert len(proposals) == 1
    cured = apply(figure, proposals[0].edit)
    assert cured.drives[1].transmission.ball_mm == (0.0, 0.0, 10.0)
    assert "linkage.tilt.crosses" not in findings(cured)


def test_a_servo_that_was_measured_is_not_sent_beyond_what_was_measured():
    """Its ends were found with the others at rest: with these elsewhere it would have to go farther, which is told."""
    figure = pair()
    record = Calibration(angles_deg=(-12.0, 0.0, 12.0), pulses_us=(1000.0, 1500.0, 2000.0))
    entry = Entry(date="2026-01-01", kind="calibration", drive="d_tilt", calibration=record)
    measured = Figure(**(dict(figure) | {"record": (entry,)}))
    assert findings(measured)["travel.tilt"].verdict == "fails"
    output = next(o for o in outputs(measured) if o.joint == "tilt")
    at = output.at({"tilt": math.radians(12.0), "roll": 0.0})
    assert output.value(np.array([at]))[0] in (pytest.approx(2000.0, abs=0.5), pytest.approx(1000.0, abs=0.5))
    wide = Calibration(angles_deg=(-30.0, 0.0, 30.0), pulses_us=(700.0, 1500.0, 2300.0))
    entry = Entry(date="2026-01-01", kind="calibration", drive="d_tilt", calibration=wide)
    assert findings(Figure(**(dict(figure) | {"record": (entry,)})))["travel.tilt"].verdict == "holds"


def test_shares_are_the_joints_between_servo_and_ball():
    figure = eye()
    assert shares(figure, figure.drives[0]) == ("pan",) and set(shares(figure, figure.drives[1])) == {"pan", "tilt"}
    turned = Drive(**(dict(figure.drives[1]) | {"rides_on": "pan"}))
    assert shares(Figure(**(dict(figure) | {"drives": (figure.drives[0], turned)})), turned) == ("tilt",)


# ---- skin
def lip(**more) -> Figure:
    """A jaw of no weight whose lip pulls at skin, 40 mm ahead of its pivot."""
    figure = head(mass_g=0.001, at=(40.0, 0.0, 100.0), ranges=(0.0, 20.0))
    at = (40.0, 0.0, 100.0)
    skin = Skin(id="lip", name="lip", ends=(Anchor(at_mm=at), Anchor(rides_on="tilt", at_mm=at)), **more)
    return Figure(**(dict(figure) | {"elements": (skin,)}))


@pytest.mark.parametrize("more", [{"rate_N_per_mm": 0.5}, {"pulls": (Pull(length_mm=10.0, weight_g=5000 / 9.80665),)}])
def test_skin_comes_back_as_hard_as_it_was_pushed_far(more):
    """Either way: a chord of the way it is carried, at half a newton a millimetre (geometry)."""
    tree = build_tree(lip(**more))
    for degrees in (-15.0, 7.0, 15.0):
        a = math.radians(degrees)
        chord = 2 * 0.040 * math.sin(abs(a) / 2)
        wanted = math.copysign(500 * chord * 0.040 * math.cos(a / 2), a)
        assert joint_torque_Nm(tree, 0, np.array([[a]]), np.zeros(3))[0] == pytest.approx(wanted, rel=1e-4)


def test_skin_that_nobody_measured_is_never_said_to_be_moved():
    told = findings(lip())
    assert told["hold.tilt"].verdict == told["elements.lip"].verdict == "not yet judged"
    assert "how hard lip is to push" in told["hold.tilt"].sentence.text
    assert told["hold.tilt"].actions[0].subject.kind == "element"
    soft, hard = (findings(lip(rate_N_per_mm=rate))["hold.tilt"] for rate in (0.05, 5.0))
    assert soft.reserve == pytest.approx(100 * hard.reserve, rel=2e-2)


def test_skin_lies_in_one_place():
    figure = head()
    figure = apply(figure, add_element(figure, "skin", "tilt"))
    skin = figure.elements[0]
    assert skin.ends[0].at_mm == skin.ends[1].at_mm
    moved = apply(figure, set_anchor(skin, 1, at_mm=(50.0, 3.0, 90.0))).elements[0]
    assert moved.ends[0].at_mm == moved.ends[1].at_mm == (50.0, 3.0, 90.0)
    assert from_text(to_text(figure)) == figure


def test_bevel_wheels_with_one_servo_of_another_class_are_judged_each_by_its_own():
    figure = two_axes(grams=2500.0, at=(45.0, 0.0, 60.0))
    figure = apply(figure, set_bevel(figure, "tilt", "roll"))
    weak = Drive(**(dict(figure.drives[1]) | {"actuator": servo_class("class_4")}))
    told = findings(Figure(**(dict(figure) | {"drives": (figure.drives[0], weak)})))
    assert told["hold.tilt"].reserve > 2 * told["hold.roll"].reserve
    assert isinstance(weak.transmission, Bevel) and part("x", "tilt", 1.0, (0.0, 0.0, 0.0)).mass_g == 1.0


@pytest.mark.parametrize("made", [eye, pair, differential])
def test_what_is_kept_knows_all_that_shares_a_servo(made):
    """After every edit the study with what was kept before tells what a fresh one tells: moves, numbers, servos and places of the other joint among them."""
    figure, kept = made(), Reuse()
    first = figure.joints[-2].id
    drive = figure.drive_of(first)
    other = figure.drives[-1]
    edits = [
        Set(("joints", first, "move", "time_s"), 0.1),
        Set(("joints", first, "range_deg"), (-5.0, 6.0)),
        Set(("drives", drive.id, "actuator"), servo_class("class_4")),
        Set(("drives", other.id, "actuator"), servo_class("class_35")),
        Set(("joints", first, "friction_Nm"), 0.02),
    ]
    if isinstance(other.transmission, Ball):
        edits += [
            Set(("drives", other.id, "transmission", "horn_mm"), 12.0),
            Set(("drives", other.id, "transmission", "rod_mm"), None),
        ]
    else:
        edits += [Set(("drives", d.id, "transmission", "between"), 30) for d in figure.drives]
    study(figure, kept)
    for step in edits:
        figure = apply(figure, Edit("x", (step,)))
        fresh, again = findings(figure), {f.id: f for f in study(figure, kept).findings}
        assert fresh.keys() == again.keys()
        for ident, one in fresh.items():
            assert again[ident].verdict == one.verdict, ident
            if one.reserve is not None:
                assert again[ident].reserve == pytest.approx(one.reserve, rel=1e-6), ident


def test_a_class_that_fails_says_why_and_not_that_it_is_oversized():
    from karakuri.model.assumptions import Assumptions
    from karakuri.sizing.candidates import candidates

    figure = head(mass_g=100.0)
    joint = Joint(**(dict(figure.joints[0]) | {"move": {"by": 40.0, "time_s": 0.02}}))
    r = study(Figure(**(dict(figure) | {"joints": (joint,)})), Reuse()).results.joints[0]
    rows = candidates(
        (servo_class("class_60"), servo_class("class_10")), 0.0, r.hold, r.placed, 6.0, Assumptions(), None, ()
    )
    assert all(row.verdict == "fails" and row.reason.startswith("too") for row in rows)


def test_a_move_farther_than_the_range_is_made_over_the_range_where_rods_need_not_reach_beyond_it():
    """30° asked of 28°: the rods are near their dead point beyond, where no drive is quick enough."""
    owl = from_text(owl_path().read_text())
    both = apply(owl, set_pair(owl, "neck_tilt", "neck_roll"))
    narrow = apply(both, Edit("range", (Set(("joints", "neck_tilt", "range_deg"), (-18.0, 10.0)),)))
    move = study(narrow, Reuse()).results.of("neck_tilt").move
    assert math.degrees(move.by) == pytest.approx(28.0) and move.least < 5.0
