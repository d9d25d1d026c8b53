"""One table for each kind: every member is known wherever the table is used."""

from __future__ import annotations

import math
from typing import get_args

import pytest

from karakuri.catalogue import permitted_moment_Nm, support_name
from karakuri.model.channel import JointChannel, LightChannel
from karakuri.model.figure import Figure
from karakuri.model.joint import REGIONS, SUPPORT_KINDS, Follow, Joint, Move
from karakuri.model.measures import MEASURES, SLIDE, TURN
from karakuri.model.moves import Row, moves_of
from karakuri.model.profiles import DESCRIBED, ProfileKind
from karakuri.model.score import Score
from karakuri.model.timings import TIMINGS, TimingKind, timing_of
from karakuri.motion.profiles import BY_CODE, CODES, PROFILES


def test_profiles_are_described_and_worked_out_in_the_same_order():
    assert tuple(DESCRIBED) == get_args(ProfileKind) == tuple(PROFILES) == tuple(CODES)
    assert [profile.name for profile in BY_CODE] == list(DESCRIBED)


@pytest.mark.parametrize("kind", [kind for kind, d in DESCRIBED.items() if d.shape is not None])
def test_a_profiles_own_number_is_kept_within_its_bounds(kind):
    own = DESCRIBED[kind].shape
    assert own.least <= own.usual <= own.most and own.within(0.0) == own.least and own.within(math.inf) == own.most
    for value in (own.least, own.usual, own.most):
        assert moves_of([Row(0.0, 1.0, 5.0, kind, value)]).shape == (value,)
    for value in (own.least * 0.99, own.most * 1.01):
        with pytest.raises(ValueError, match=f"{own.least:g}|less than"):
            moves_of([Row(0.0, 1.0, 5.0, kind, value)])


@pytest.mark.parametrize("kind", list(DESCRIBED))
def test_a_wanted_move_arrives(kind):
    if DESCRIBED[kind].wanted:
        assert Move(by=5.0, time_s=1.0, profile=kind).profile == kind and PROFILES[kind].arrives
    else:
        with pytest.raises(ValueError, match="arrives in its time"):
            Move(by=5.0, time_s=1.0, profile=kind)


def test_supports_carry_more_and_more_and_each_has_a_name():
    carried = [permitted_moment_Nm(kind) or 0.0 for kind in SUPPORT_KINDS]
    assert carried == sorted(carried) and len({support_name(kind) for kind in SUPPORT_KINDS}) == len(SUPPORT_KINDS)


def test_measures_write_what_they_read():
    turns, slides = Joint(id="a", name="A"), Joint(id="b", name="B", kind="slide", range_mm=(-4.0, 6.0))
    assert (turns.measure, slides.measure) == (TURN, SLIDE) and slides.range == (-4.0, 6.0)
    assert slides.named("stops") == "stops_mm" and turns.named("stops") == "stops_deg"
    for measure in MEASURES.values():
        assert measure.written(measure.quantity(7.25).value) == pytest.approx(7.25)
    follower = Joint(
        id="c", name="C", kind="slide", role="follows", follows=Follow(joint="a", offset_mm=3.0, offset_deg=9.0)
    )
    assert follower.offset == 3.0 and turns.offset == 0.0
    light = LightChannel(id="l", name="L")
    ribbon = JointChannel(id="r", name="R", joints=("b",))
    figure = Figure(joints=(turns, slides), scores=(Score(channels=(light, ribbon)),))
    assert figure.measure(light).unit == "%" and figure.measure(ribbon).unit == "mm"


@pytest.mark.parametrize(
    ("name", "wanted"),
    [("Eye pan, left", "eye"), ("upper eyelid", "lid"), ("eye lid, right", "lid"), ("Ear_left", "ear"), ("Beak", "jaw"),
     ("Neck tilt", "head"), ("left wing", "body"), ("beard", "head"), ("J1", "head")],
)  # fmt: skip
def test_a_name_tells_the_timing(name, wanted):
    assert timing_of(name) == wanted and Joint(id="j", name=name).timed is TIMINGS[wanted]
    assert Joint(id="j", name=name, timing="body").timed is TIMINGS["body"]
    assert set(TIMINGS) == set(get_args(TimingKind))


def test_a_region_is_a_colour_and_nothing_else():
    """Whatever the region, the joint is timed alike; 'beak', as files before wrote it, is read as jaw."""
    assert {Joint(id="j", name="J", region=region).timed.order for region in REGIONS} == {TIMINGS["head"].order}
    assert Joint.from_fields({"id": "j", "name": "J", "region": "beak"}).region == "jaw"
