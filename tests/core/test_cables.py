"""Cables across joints: the way between their ties by brute force, their loop by Euler's elastica, and laws."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import ellipe, ellipk

from karakuri.files.text import from_text, to_text
from karakuri.model.edit import apply
from karakuri.model.element import Anchor, Cable
from karakuri.model.element_edits import add_element
from karakuri.model.figure import Figure
from karakuri.model.finding import finding_id
from karakuri.sizing.cables import SHARPER, loop
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import head


def across(long_mm=None, thick=4.0, ranges=(-30.0, 30.0), foot=(-40.0, 0.0, 60.0), tip=(-40.0, 0.0, 120.0)) -> Figure:
    figure = head(ranges=ranges)
    ends = (Anchor(at_mm=foot), Anchor(rides_on="tilt", at_mm=tip))
    return Figure(**(dict(figure) | {"elements": (Cable(id="c", name="neck cable", ends=ends, long_mm=long_mm, thick_mm=thick),)}))  # fmt: skip


def ways(figure: Figure) -> np.ndarray:
    """The way between both ties, mm, over the range in fine steps."""
    joint, cable = figure.joints[0], figure.elements[0]
    foot, tip = (np.array(end.at_mm) for end in cable.ends)
    pivot = np.array(joint.at_mm)
    angles = np.radians(np.linspace(*joint.range_deg, 20_001))
    off = tip - pivot
    x, z = np.cos(angles) * off[0] + np.sin(angles) * off[2], -np.sin(angles) * off[0] + np.cos(angles) * off[2]
    return np.hypot(np.hypot(pivot[0] + x - foot[0], pivot[1] + off[1] - foot[1]), pivot[2] + z - foot[2])


place = st.tuples(st.floats(-80, 80), st.floats(-30, 30), st.floats(20, 160))


@given(place, place, st.floats(5, 60), st.floats(0.9, 1.5))
def test_a_cable_reaches_exactly_where_brute_force_says_it_does(foot, tip, wide, share):
    figure = across(ranges=(-wide, wide), foot=foot, tip=tip)
    longest = float(ways(figure).max())
    if longest < 5 or math.hypot(tip[0], tip[2] - 100.0) < 1:
        return
    figure = across(round(longest * share, 3), ranges=(-wide, wide), foot=foot, tip=tip)
    finding = study(figure).finding(finding_id("cables", "c"))
    assert finding.reserve == pytest.approx(round(longest * share, 3) / longest, rel=1e-5)
    assert finding.verdict == ("fails" if finding.reserve < 1 else "tight" if finding.reserve < 1.1 else "holds")


def test_what_its_length_should_be_is_told_and_cures_it():
    reuse = Reuse()
    found = study(across(), reuse)
    unsaid = found.finding(finding_id("cables", "c"))
    assert unsaid.verdict == "not yet judged" and unsaid.actions
    short = study(across(60.0), reuse)
    assert short.finding(finding_id("cables", "c")).verdict == "fails"
    for done in (found, short):
        offered = remedies(done, done.finding(finding_id("cables", "c")), reuse)
        assert offered and offered[0].verdict == "holds"
        after = study(apply(done.figure, offered[0].edit), reuse)
        assert after.finding(finding_id("cables", "c")).verdict == "holds"


def test_a_cable_weighs_on_nothing_it_crosses():
    bare, crossed = study(head()), study(across(120.0))
    for one, other in zip(bare.results.joints, crossed.results.joints, strict=True):
        assert other.hold.need == pytest.approx(one.hold.need, rel=1e-9)


@given(st.floats(0.01, 0.9088))
def test_no_springy_loop_bends_sharper_than_is_told(modulus):
    # hinged elastica of modulus k: chord ÷ length = 2 E ÷ K − 1, sharpest bend × length = 4 k K (Love, art. 262, from memory)
    m = modulus**2
    chord, bend = 2 * ellipe(m) / ellipk(m) - 1, 4 * modulus * ellipk(m)
    told = 1 / loop(1.0, chord).radius
    assert told >= bend * 0.999
    assert told <= bend * SHARPER / 1.25


@given(st.floats(0.02, 0.5), st.floats(0.0, 0.999), st.floats(0.0, 0.3))
def test_an_arc_is_as_long_and_as_wide_as_it_was_and_opens_with_its_chord(length, share, more):
    made = loop(length, share * length)
    arc = made.radius * SHARPER
    half = length / (2 * arc)
    assert 2 * arc * math.sin(half) == pytest.approx(share * length, abs=1e-6 * length)
    assert made.off == pytest.approx(arc * (1 - math.cos(half)), rel=1e-9)
    assert loop(length, min(share + more, 1.0) * length).radius >= made.radius * (1 - 1e-9)
    assert loop(2 * length, 2 * share * length).radius == pytest.approx(2 * made.radius, rel=1e-6)


def test_a_thick_cable_in_a_tight_loop_is_told_and_a_longer_one_is_gentler():
    figure = across(85.0, thick=9.0, ranges=(-30.0, 10.0))
    bent = study(figure).finding(finding_id("cables", "c", "bent"))
    assert bent is not None and bent.verdict == "fails"
    thin = study(across(85.0, thick=1.0, ranges=(-30.0, 10.0))).finding(finding_id("cables", "c", "bent"))
    assert thin.verdict == "holds" and thin.reserve == pytest.approx(9 * bent.reserve, rel=1e-9)


def test_it_is_added_across_a_joint_and_kept_in_files():
    figure = head()
    after = apply(figure, add_element(figure, "cable", "tilt"))
    assert after.elements[0].kind == "cable" and from_text(to_text(after)) == after
    one_body = Figure(**(dict(figure) | {"elements": (Cable(id="c", name="c", ends=(Anchor(), Anchor(at_mm=(0.0, 0.0, 30.0)))),)}))  # fmt: skip
    assert study(one_body).finding(finding_id("cables", "c")).verdict == "tight"
