"""What a joint rubs with, as laws: what moves against it, what stays, what its spring brings back."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.catalogue import bearing_share, servo_class
from karakuri.model.drag import BEARINGS, Bearing, Pulled
from karakuri.model.drive import Drive
from karakuri.model.element import Torsion
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint, Move
from karakuri.model.stand import Posture
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, Z, part

G = 9.80665
SHARES = st.sampled_from(BEARINGS)


def turned(drag=None, axis=Z, grams=1000.0, at=(30.0, 0.0, 80.0), **more) -> Figure:
    """A mass on a driven joint that rubs."""
    joint = Joint(id="p", name="Pan", axis=axis, move=Move(by=40.0, time_s=1.0), drag=drag, **more)
    drive = Drive(id="d", joint="p", actuator=servo_class("class_20"))
    return Figure(joints=(joint,), parts=(part("m", "p", grams, at),), drives=(drive,))


@given(kind=SHARES, radius=st.floats(1, 100), grams=st.floats(50, 3000), lever=st.floats(0, 80))
@settings(max_examples=25, deadline=None)
def test_a_pan_rubs_with_its_share_of_weight_at_its_radius_and_of_what_tilts_it(kind, radius, grams, lever):
    """Coulomb: share × normal force × radius (any text); a moment M over a bearing as long as wide presses with M ÷ (2 r) at both ends."""
    figure = turned(Bearing(bearing=kind, radius_mm=radius), grams=grams, at=(lever, 0.0, 80.0))
    found = study(figure).results.of("p").drag
    weight = grams / 1e3 * G
    assert found.value == pytest.approx(bearing_share(kind) * weight * (radius + lever) / 1e3, rel=1e-9)
    assert found.low < found.value < found.high


@given(lean=st.floats(-90, 90), other=st.floats(-90, 90), radius=st.floats(1, 60), lever=st.floats(0, 60))
@settings(max_examples=15, deadline=None)
def test_more_postures_never_rub_less(lean, other, radius, lever):
    def rubs(*leans):
        figure = turned(Bearing(bearing="bush", radius_mm=radius), at=(lever, 0.0, 80.0))
        postures = tuple(Posture(id=f"p{i}", name=f"p{i}", lean_deg=each) for i, each in enumerate(leans))
        return study(Figure(**(dict(figure) | {"postures": postures}))).results.of("p").drag.value

    assert rubs(lean, other) == pytest.approx(max(rubs(lean), rubs(other)), rel=1e-9)


@given(up=st.floats(1, 2000), down=st.floats(-2000, 2000), lever=st.floats(5, 400))
@settings(max_examples=25, deadline=None)
def test_two_pulls_tell_weight_and_what_rubs_apart(up, down, lever):
    """(up − down) ÷ 2 × lever rubs, whatever weight lies between the two: any text on weighing against friction."""
    found = study(turned(Pulled(lever_mm=lever, up_g=up, down_g=down))).results.of("p").drag
    assert found.value == pytest.approx(max(up - down, 0.0) / 2e3 * G * lever / 1e3, abs=1e-12)


@given(first=SHARES, second=SHARES, radius=st.floats(2, 40), grams=st.floats(100, 3000))
@settings(max_examples=25, deadline=None)
def test_what_rubs_more_never_moves_sooner(first, second, radius, grams):
    one, other = (
        study(turned(Bearing(bearing=kind, radius_mm=radius), grams=grams))
        for kind in sorted((first, second), key=bearing_share)
    )
    for rule in ("move.p", "drag.p"):
        assert other.finding(rule).reserve <= one.finding(rule).reserve * (1 + 1e-9)
    assert (
        other.finding("hold.p").reserve == one.finding("hold.p").reserve
    )  # never credited, decisions and handbooks agree


def test_what_follows_rubs_against_its_leader_by_its_ratio():
    figure = turned(grams=300.0)
    for ratio in (2.0, -3.0):
        follower = Joint(id="f", name="F", role="follows", follows=Follow(joint="p", ratio=ratio), friction_Nm=0.1)
        both = Figure(**(dict(figure) | {"joints": (*figure.joints, follower)}))
        assert study(both).results.of("p").drag.value == pytest.approx(abs(ratio) * 0.1)
        assert study(both).finding("move.p").reserve < study(figure).finding("move.p").reserve


def lid(k_Nm_per_deg: float, drag, grams=50.0, x=30.0) -> Figure:
    """A jaw that opens from where it is drawn to 30° down, by hand; a spring shuts it."""
    joint = Joint(
        id="p",
        name="Jaw",
        role="free",
        axis=Y,
        range_deg=(0.0, 30.0),
        stops_deg=(-1.0, 32.0),
        drag=drag,
        ends=("shut", "open"),
    )
    spring = Torsion(id="s", name="spring", joint="p", rate_Nm_per_deg=k_Nm_per_deg, free_deg=-10.0, origin="weighed")
    return Figure(joints=(joint,), parts=(part("m", "p", grams, (x, 0.0, 0.0)),), elements=(spring,))


@given(k=st.floats(1e-4, 1e-2), rubs=st.floats(10, 2000), grams=st.floats(1, 150))
@settings(max_examples=40, deadline=None)
def test_a_spring_brings_back_what_rubs_less_than_it_is_over_weight(k, rubs, grams):
    """By hand: k (θ + 10°) − m g x cos θ at its least from a tenth of the way on, against what rubs."""
    figure = lid(k, Pulled(lever_mm=100.0, up_g=rubs, down_g=-rubs), grams)
    told = study(figure).finding("drag.p")
    drag = rubs / 1e3 * G * 0.1
    places = [3.0 + 27.0 * i / 2000 for i in range(2001)]
    least = min(k * (t + 10.0) - grams / 1e3 * G * 0.03 * math.cos(math.radians(t)) for t in places)
    assert told.reserve == pytest.approx(max(least, 0.0) / drag, rel=2e-3, abs=1e-4)
    assert told.verdict == "fails" or least > drag


def test_better_bearings_are_offered_where_it_rubs_too_hard():
    figure = turned(Bearing(bearing="foam", radius_mm=90.0), grams=2500.0)
    found = study(figure)
    assert found.finding("drag.p").verdict == "fails"
    offered = remedies(found, found.finding("drag.p"), Reuse())
    assert {r.edit.steps[0].value for r in offered} == {"greased print", "bush", "ball bearing"}
    assert "stays where it is left" in found.finding("drag.p").sentence.text
