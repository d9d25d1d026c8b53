"""What is told of joints that nothing drives, as laws over figures and against closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.checks.contract import HANGS
from karakuri.errors import EditRefused
from karakuri.model.assumptions import Assumptions
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.element import Anchor, Magnets, Torsion
from karakuri.model.figure import BallastSite, Figure
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import make_gimbal
from karakuri.model.stand import Base, Posture
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, part

G = 9.80665


def head(z_mm=20.0, spring=0.0, grams=1400.0, x_mm=0.0, friction=0.0, **more) -> Figure:
    """A head on a free pivot 100 mm up, its mass z above it, with a spring about it, N·m/rad."""
    joint = Joint(
        id="p",
        name="Pivot",
        role="free",
        axis=Y,
        at_mm=(0.0, 0.0, 100.0),
        friction_Nm=friction,
        ends=("nose-up", "nose-down"),
    )
    coil = (
        (Torsion(id="c", name="coil", joint="p", rate_Nm_per_deg=spring / math.degrees(1), origin="weighed"),)
        if spring
        else ()
    )
    mass = part("m", "p", grams, (x_mm, 0.0, 100.0 + z_mm), mass_origin="weighed", plus_minus_g=0.0)
    return Figure(joints=(joint,), parts=(mass,), elements=coil, **more)


@given(z=st.floats(5, 60), k=st.floats(0.01, 1.5), grams=st.floats(100, 3000))
@settings(max_examples=60, deadline=None)
def test_the_reserve_of_a_pivot_is_spring_over_weight_times_height(z, k, grams):
    """U″ = k − m g z: the reserve is k ÷ (m g z), it fails below 1, and then it does leave its range."""
    told = study(head(z, k, grams)).finding("hangs.p")
    ratio = k / (grams / 1e3 * G * z / 1e3)
    if told.reserve is not None:
        assert told.reserve == pytest.approx(ratio, rel=1e-6)
    if min(abs(ratio - 1), abs(ratio - 1.25)) < 1e-3 or abs(abs(ratio - 1) * z - 1) < 1e-3:
        return  # on the edge between two words
    floats = abs(ratio - 1) * z <= 1  # within a millimetre of the pivot
    assert told.verdict == ("tight" if floats else "fails" if ratio < 1 else "tight" if ratio < 1.25 else "holds")


@given(z=st.floats(-60, 60).filter(lambda z: abs(z) > 3), more=st.floats(1, 500))
@settings(max_examples=12, deadline=None)
def test_grams_below_never_make_it_worse_and_grams_above_never_better(z, more):
    def firmness(figure):
        each = study(figure).results[HANGS][0][0]
        return each.back - each.over

    figure = head(z, 0.3)
    below, above = (part("more", "p", more, (0.0, 0.0, 100.0 + s * 40)) for s in (-1, 1))
    assert firmness(Figure(**(dict(figure) | {"parts": (*figure.parts, below)}))) >= firmness(figure)
    assert firmness(Figure(**(dict(figure) | {"parts": (*figure.parts, above)}))) <= firmness(figure)


def test_words_for_tips_hangs_floats_and_stays():
    text = lambda figure: study(figure).finding("hangs.p").sentence.text  # noqa: E731
    assert "tips over on its own" in text(head(20.0))
    assert "hangs" in text(head(-20.0)) and "floats" in text(head(0.5))
    assert "stays where it is put" in text(head(0.5, x_mm=10.0, friction=0.3))
    assert study(head(20.0)).finding("unjudged.p") is None
    assert study(Figure(joints=head().joints)).finding("hangs.p").verdict in ("tight", "holds")


def test_a_swing_is_a_pendulum():
    """A point on a rod swings at √(g ÷ l) ÷ 2π (any text)."""
    each = study(head(-250.0)).results[HANGS][0][0]
    assert each.swings_Hz == pytest.approx(math.sqrt(G / 0.25) / (2 * math.pi), rel=1e-6)


def test_what_swings_with_a_wearers_steps_is_tight():
    """A pendulum of g ÷ (2π × 1.83)² = 74 mm swings 1.83 times a second; on a stand nobody walks."""
    for z_mm, held, verdict in (
        (-74.0, "worn", "tight"),
        (-74.0, "stands", "holds"),
        (-250.0, "worn", "holds"),
        (-25.0, "worn", "holds"),
    ):
        told = study(head(z_mm, base=Base(held=held))).finding("hangs.p")
        assert told.verdict == verdict and ("steps" in told.sentence.text) == (verdict == "tight")


def test_it_flips_at_the_grams_that_are_told():
    figure = head(-20.0, x_mm=0.0)
    high = part("horn", "p", 10.0, (0.0, 0.0, 180.0), mass_origin="weighed", plus_minus_g=0.0)
    figure = Figure(**(dict(figure) | {"parts": (*figure.parts, high)}))
    told = study(figure).finding("hangs.p")
    until = next(d for d in told.derivations if d.title.startswith("Until it flips")).result.value
    for share, verdict in ((0.9, True), (1.1, False)):
        heavier = apply(figure, Edit("x", (Set(("parts", "horn", "mass_g"), 10.0 + until * 1e3 * share),)))
        assert (study(heavier).finding("hangs.p").verdict != "fails") == verdict


def test_every_posture_counts():
    """A head that hangs out of its range only when the wearer bows."""
    figure = head(-20.0, postures=(Posture(id="up", name="upright"), Posture(id="bow", name="bowing", lean_deg=50.0)))
    told = study(figure).finding("hangs.p")
    assert told.verdict == "fails" and "posture bowing" in told.sentence.text
    assert study(Figure(**(dict(figure) | {"postures": figure.postures[:1]}))).finding("hangs.p").verdict == "holds"


def test_a_guess_that_decides_says_so():
    figure = head(20.0, 0.33)
    guessed = apply(figure, Edit("x", (Set(("elements", "c", "origin"), "guess"),)))
    told = study(guessed).finding("hangs.p")
    assert told.reserve_low < 1.0 < told.reserve and told.decides is not None and "coil" in told.decides.text


def test_remedies_keep_it_where_it_is_wanted():
    site = BallastSite(id="chin", name="chin", rides_on="p", at_mm=(0.0, 0.0, 40.0), most_g=2000.0)
    figure = Figure(**(dict(head(20.0)) | {"ballast_sites": (site,)}))
    base = study(figure)
    found = remedies(base, base.finding("hangs.p"), Reuse())
    words = [r.label.text for r in found]
    assert any("Pivot" in w for w in words) and any("Spring" in w for w in words) and any("Ballast" in w for w in words)
    assert words.index(next(w for w in words if "Pivot" in w)) == 0
    for remedy in found:
        after = study(apply(figure, remedy.edit)).finding("hangs.p")
        assert after.verdict in ("holds", "tight") and after.verdict == remedy.verdict


@pytest.mark.parametrize("axis", [(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.3, 1.0, 0.2)])
def test_shares_add_up_to_how_firm_it_is(axis):
    figure = head(25.0, 0.4)
    joint = Joint(**(dict(figure.joints[0]) | {"axis": axis}))
    figure = Figure(
        **(dict(figure) | {"joints": (joint,), "parts": (*figure.parts, part("n", "p", 300.0, (30.0, 20.0, 60.0)))})
    )
    hung = study(figure).results[HANGS][0][0]
    from karakuri.bodies.tree import build_tree
    from karakuri.mechanics.bends import slopes_and_bends

    whole = slopes_and_bends(build_tree(figure), np.zeros((1, 1)), np.array([[0.0], [0.0], [-G]]))[1][0, 0, 0]
    assert hung.back - hung.over == pytest.approx(float(whole), rel=1e-9)


# ---- held shut


def lid(grams=200.0, count=2, bump=1.0, roll_deg=180.0, **more) -> Figure:
    """Horns that slide up off a head, held by magnets; upside down their weight pulls them off."""
    slide = Joint(
        id="horns",
        name="Horns",
        kind="slide",
        role="free",
        axis=(0.0, 0.0, 1.0),
        at_mm=(0.0, 0.0, 200.0),
        range_mm=(0.0, 2.0),
        stops_mm=(0.0, 40.0),
    )
    ends = (Anchor(at_mm=(0.0, 0.0, 200.0)), Anchor(rides_on="horns", at_mm=(0.0, 0.0, 205.0)))
    magnets = Magnets(
        id="m",
        name="magnets",
        ends=ends,
        wide_mm=10.0,
        thick_mm=5.0,
        on="thick steel",
        count=count,
        origin="weighed",
        **({"gap_mm": 1.0} | more),
    )
    mass = part("horn", "horns", grams, (0.0, 0.0, 240.0), mass_origin="weighed", plus_minus_g=0.0)
    postures = (Posture(id="up", name="upright"), Posture(id="down", name="upside down", roll_deg=roll_deg))
    return Figure(
        joints=(slide,), parts=(mass,), elements=(magnets,), postures=postures, assumptions=Assumptions(bump_g=bump)
    )


@pytest.mark.parametrize(
    ("grams", "count", "bump"),
    [(200.0, 1, 1.0), (500.0, 2, 1.0), (900.0, 1, 0.0), (900.0, 2, 2.0), (1200.0, 1, 0.0), (300.0, 1, 4.0)],
)
def test_magnets_hold_or_let_go(grams, count, bump):
    """Two discs of 12.8 N at a millimetre of gap (see test_elements) against weight, hanging head down, and a bump: by hand."""
    told = study(lid(grams, count, bump)).finding("hangs.horns")
    ratio = count * 12.8 / (grams / 1e3 * G * (1 + bump))
    if count * 12.8 > grams / 1e3 * G:
        assert told.reserve == pytest.approx(ratio, rel=1e-2) and "posture upside down" in told.sentence.text
        assert told.verdict == ("fails" if ratio < 1 else "tight" if ratio < 1.25 else "holds")
        assert ("comes off" in told.sentence.text) == (ratio < 1)
    else:
        assert told.verdict == "fails"


def test_a_slide_that_nothing_is_known_to_stop_is_not_called_held():
    figure = lid(200.0, 2)
    open_ended = apply(figure, Edit("x", (Set(("joints", "horns", "stops_mm"), None),)))
    told = study(open_ended).finding("hangs.horns")
    assert told.verdict == "not yet judged" and told.actions[0].field == "stops"


@given(gap=st.floats(0.1, 6.0), more=st.floats(0.05, 3.0), grams=st.floats(20, 900))
@settings(max_examples=12, deadline=None)
def test_a_wider_gap_or_a_heavier_thing_never_holds_better(gap, more, grams):
    rank = {"fails": 0, "tight": 1, "holds": 2}

    def verdict(**fields):
        return rank[study(lid(**fields)).finding("hangs.horns").verdict]

    now = verdict(grams=grams, gap_mm=gap)
    assert verdict(grams=grams, gap_mm=gap + more) <= now and verdict(grams=grams * (1 + more), gap_mm=gap) <= now
    assert verdict(grams=grams, gap_mm=gap, count=3) >= now


@pytest.mark.parametrize(("grams", "count"), [(900.0, 1), (800.0, 1), (1500.0, 1)])
def test_a_narrower_gap_or_more_magnets_keep_it(grams, count):
    figure = lid(grams, count)
    base = study(figure)
    found = remedies(base, base.finding("hangs.horns"), Reuse())
    assert any("Gap" in r.label.text for r in found) or any("of magnets" in r.label.text for r in found)
    for remedy in found:
        after = study(apply(figure, remedy.edit)).finding("hangs.horns")
        assert after.verdict == remedy.verdict and after.verdict != "fails"


# ---- what carries it, and what lies on its stop


def test_magnets_on_a_head_that_bows_are_judged_as_it_bows():
    """Upright nothing pulls at them; turned to 90° the weight pulls along nothing, to 170° nearly all of it: the worst place counts."""
    figure = lid(900.0, 1, bump=0.0, roll_deg=0.0)
    neck = Joint(id="neck", name="Neck", axis=Y, range_deg=(0.0, 170.0))
    horns = Joint(**(dict(figure.joints[0]) | {"rides_on": "neck"}))
    magnets = Magnets(
        **(
            dict(figure.elements[0])
            | {"ends": (Anchor(rides_on="neck", at_mm=(0.0, 0.0, 200.0)), figure.elements[0].ends[1])}
        )
    )
    bows = Figure(**(dict(figure) | {"joints": (neck, horns), "elements": (magnets,)}))
    told = study(bows).finding("hangs.horns")
    assert told.reserve == pytest.approx(12.8 / (0.9 * G * math.cos(math.radians(10))), rel=1e-2)
    assert "what carries it turned" in told.sentence.text
    still = Figure(**(dict(bows) | {"joints": (Joint(**(dict(neck) | {"range_deg": (0.0, 0.0)})), horns)}))
    assert study(still).finding("hangs.horns").verdict == "holds"


def lying(counter_g=0.0) -> Figure:
    """A lid hinged behind, shut on its stop by its weight, a counterweight behind the hinge."""
    hinge = Joint(id="lid", name="Lid", role="free", axis=Y, range_deg=(-60.0, 0.0), stops_deg=(-60.0, 0.0))
    parts = [part("lid", "lid", 100.0, (50.0, 0.0, 3.0), mass_origin="weighed", plus_minus_g=0.0)]
    if counter_g:
        parts.append(part("lead", "lid", counter_g, (-50.0, 0.0, 0.0), mass_origin="weighed", plus_minus_g=0.0))
    return Figure(joints=(hinge,), parts=tuple(parts))


def test_a_lid_that_lies_on_its_stop_holds_until_it_is_overbalanced():
    assert study(lying()).finding("hangs.lid").verdict == "holds"
    half = study(lying(50.0)).finding("hangs.lid")
    assert half.verdict == "holds" and half.reserve == pytest.approx(2.0)
    assert study(lying(90.0)).finding("hangs.lid").verdict == "tight"
    assert study(lying(110.0)).finding("hangs.lid").verdict == "fails"


def test_what_tips_away_inside_its_wanted_range_says_so():
    """A spring a little too soft lets it lean to 25°, inside ±30°: it fails, and the sentence does not call it hanging."""
    told = study(head(60.0, 1.4 * G * 0.060 * math.sin(math.radians(25)) / math.radians(25))).finding("hangs.p")
    assert told.verdict == "fails" and "tips away from where it is drawn" in told.sentence.text


@settings(max_examples=30, deadline=None)
@given(st.floats(-40, 40).filter(lambda z: abs(z) > 2), st.floats(-8, 8), st.floats(0.02, 0.4), st.booleans())
def test_what_stays_by_rubbing_is_never_said_to_fail(z_mm, x_mm, friction, stopped):
    """Whether there are stops beyond or not: it stays put, which is tight where it would tip over without that, and is said so."""
    figure = head(z_mm, x_mm=x_mm, friction=friction)
    if stopped:
        figure = apply(figure, Edit("x", (Set(("joints", "p", "stops_deg"), (-60.0, 70.0)),)))
    told = study(figure).finding("hangs.p")
    worst_pull = 1.4 * G * math.hypot(x_mm, z_mm) / 1e3
    if friction > 1.05 * worst_pull:  # more than its weight can pull with anywhere
        assert told.verdict != "fails" and "stays where it is put" in told.sentence.text
        assert ("Without that it would tip over" in told.sentence.text) == (z_mm > 0)


def test_a_gimbal_is_two_pivots_through_one_point_and_both_are_judged():
    """What the pivot carried hangs from the second; its own spring stays; each is judged as a pivot with that load alone, U″ = k − m g z."""
    one = head(-20.0, spring=0.05)
    edit, ident = make_gimbal(one, "p")
    both = apply(one, edit)
    assert both.joint(ident).at_mm == one.joint("p").at_mm and both.part("m").rides_on == ident
    assert both.elements == one.elements and abs(np.dot(both.joint(ident).axis, one.joint("p").axis)) < 1e-9
    done = study(both)
    firm = {each[0].j: each[0].back - each[0].over for each in done.results[HANGS]}
    weight = 1.4 * 9.80665 * 0.02
    assert firm[0] == pytest.approx(weight + 0.05, rel=1e-6) and firm[1] == pytest.approx(weight, rel=1e-6)
    assert {f.id: f.verdict for f in done.findings if f.rule == "hangs"} == {
        "hangs.p": "holds",
        f"hangs.{ident}": "holds",
    }
    with pytest.raises(EditRefused):
        make_gimbal(apply(one, Edit("x", (Set(("joints", "p", "role"), "driven"),))), "p")


@pytest.mark.parametrize("friction", [0.02, 0.1])
def test_what_a_pivot_rubs_with_may_leave_it_off_by_so_much(friction):
    """Drag ÷ U″: from there on its weight brings it back (equilibrium by hand)."""
    done = study(head(-40.0, friction=friction))
    told = next(d for d in done.finding("hangs.p").derivations if "leave it off" in d.title)
    assert told.result.value == pytest.approx(friction / (1.4 * 9.80665 * 0.04), rel=1e-6)
