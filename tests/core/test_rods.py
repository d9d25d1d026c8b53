"""Rods: handbook values, an independent integration of the bent line, and laws over random ones."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.catalogue import stuff_of
from karakuri.checks.contract import RODS
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import apply
from karakuri.model.edits import remove_item
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import remove_joint
from karakuri.model.rod import STUFFS, Rod
from karakuri.model.rod_edits import add_rod
from karakuri.model.stand import Posture
from karakuri.sizing.rods import beam_of, bent
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, part

G = np.array([0.0, 0.0, -9.80665])
ACROSS, UP = np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])
NONE = np.zeros(3)
LEVEL = (Posture(id="level", name="level"),)


def rod(**more) -> Rod:
    return Rod(
        **({"id": "r", "name": "rod", "at_mm": (0.0, 0.0, 0.0), "tip_mm": (120.0, 0.0, 0.0), "thick_mm": 2.0} | more)
    )


def test_a_steel_rod_of_2_mm_sags_and_is_stressed_as_the_handbook_says():
    """F L³ ÷ 3EI = 7.15 mm, 306 MPa; pinned at both ends π² EI ÷ L² = 110 N, a quarter of it held at its foot only (Roark; Euler; from memory)."""
    beam = beam_of(rod())
    found = bent(beam, rod(), 2.0 / 9.80665, NONE, ACROSS, G, 0.0)
    alone = bent(beam, rod(), 0.0, NONE, ACROSS, G, 0.0)
    assert (found.sag - alone.sag) * 1e3 == pytest.approx(7.15, abs=0.01)
    assert (found.stress - alone.stress) / 1e6 == pytest.approx(305.6, abs=0.5)
    assert beam.euler * 4 == pytest.approx(110.0, abs=0.5)


@given(
    stuff=st.sampled_from(STUFFS), thick=st.floats(2, 20), bore=st.floats(0, 0.9), length=st.floats(50, 800), grams=st.floats(0, 1500), beyond=st.floats(-0.5, 0.5)
)  # fmt: skip
@settings(max_examples=40, deadline=None)
def test_the_bent_line_is_that_of_a_numeric_integration(stuff, thick, bore, length, grams, beyond):
    """y″ = M(x) ÷ EI, integrated twice by the trapezium rule: tip load, what sits beyond or short of the tip, and its own weight."""
    one = rod(stuff=stuff, thick_mm=thick, bore_mm=thick * bore, tip_mm=(length, 0.0, 0.0))
    beam, mass = beam_of(one), grams / 1e3
    off = np.array([abs(beyond) * length / 1e3, 0.0, 0.0])
    found = bent(beam, one, mass, off, ACROSS, G, 0.0)
    x = np.linspace(0.0, beam.length, 4001)
    g, per = 9.80665, beam.mass / beam.length
    moment = mass * g * (beam.length + off[0] - x) + per * g * (beam.length - x) ** 2 / 2
    slope = np.concatenate([[0.0], np.cumsum((moment[1:] + moment[:-1]) / 2 * np.diff(x))]) / (beam.young * beam.second)
    sag = float(np.trapezoid(slope, x))
    assert found.sag == pytest.approx(min(sag, 1e3), rel=1e-5)  # no sag is told beyond a kilometre
    assert found.stress == pytest.approx(moment[0] * beam.radius / beam.second, rel=1e-9)


def carrying(grams=400.0, side=0.0, postures=LEVEL, **more) -> Figure:
    fields = {"tip_mm": (0.0, 0.0, 300.0), "thick_mm": 5.0, "carries": ("m",)} | more
    return Figure(parts=(part("m", "base", grams, (side, 0.0, 340.0)),), rods=(rod(**fields),), postures=postures)


@given(
    grams=st.floats(20, 2000),
    more=st.floats(1.05, 3),
    lean=st.floats(0, 120),
    held=st.sampled_from(["firm", "socket", "two bearings"]),
)
@settings(max_examples=40, deadline=None)
def test_heavier_never_fares_better_thicker_and_stiffer_never_worse(grams, more, lean, held):
    postures = (Posture(id="p", name="p", lean_deg=lean),)

    def reserves(**fields):
        figure = carrying(fields.pop("grams", grams), side=20.0, postures=postures, held=held, **fields)
        found = study(figure).results[RODS][0].reserves(0.02)
        return {name: value for name, value in found.items() if name != "slips"}

    base = reserves()
    for name, value in reserves(grams=grams * more).items():
        assert value <= base[name] * (1 + 1e-9)
    for name, value in reserves(stuff="steel", thick_mm=5.0 * more, load_g=0.0).items():
        if name != "sags" or lean > 1:
            assert value >= base[name] * (1 - 1e-9) or held == "two bearings"


def test_a_pole_that_leans_sags_and_one_that_stands_is_pressed():
    upright, leaning = study(carrying()), study(carrying(postures=(Posture(id="p", name="bowing", lean_deg=90.0),)))
    assert upright.results[RODS][0].sagging.sag < 1e-4 < leaning.results[RODS][0].sagging.sag
    assert upright.results[RODS][0].pressing.pressed == pytest.approx(0.4 * 9.80665, rel=0.05)
    assert (
        "posture" not in leaning.finding("rods.r").sentence.text or "bowing" in leaning.finding("rods.r").sentence.text
    )


def test_it_slips_out_only_where_it_is_drawn_from_a_socket():
    for held, slips in (("socket", True), ("firm", False)):
        figure = carrying(
            2000.0, held=held, depth_mm=15.0, thick_mm=16.0, postures=(Posture(id="p", name="hung", lean_deg=180.0),)
        )
        assert math.isfinite(study(figure).results[RODS][0].reserves(0.02)["slips"]) is slips


@pytest.mark.parametrize(
    "more", [{"held": "socket"}, {"held": "socket", "thick_mm": 12.0, "depth_mm": 10.0, "play_mm": 1.0}]
)
def test_remedies_thicken_stiffen_deepen_and_are_studied_again(more):
    figure = carrying(900.0, side=40.0, postures=(Posture(id="p", name="bowing", lean_deg=60.0),), **more)
    before = study(figure)
    assert before.finding("rods.r").verdict == "fails"
    found = remedies(before, before.finding("rods.r"), Reuse())
    assert found
    for remedy in found:
        assert study(apply(figure, remedy.edit)).finding("rods.r").verdict == remedy.verdict != "fails"


def test_a_rod_weighs_turns_as_a_slender_rod_and_rides_on():
    joint = Joint(id="j", name="J", axis=Y)
    figure = Figure(joints=(joint,), rods=(rod(rides_on="j"),))
    tree = study(figure).results.tree
    mass, length = beam_of(rod()).mass, 0.12
    assert tree.mass.sum() == pytest.approx(mass)
    about_end = tree.inertia[0][1, 1] + tree.mass[0] * float(np.square(tree.com[0]).sum())
    assert about_end == pytest.approx(mass * length**2 / 3, rel=1e-9)


def test_what_it_hangs_on_may_go_and_the_file_keeps_it():
    figure = Figure(
        joints=(Joint(id="a", name="A"), Joint(id="j", name="J", rides_on="a", axis=Y)),
        parts=(part("m", "j", 100.0, (0.0, 0.0, 50.0)),),
    )
    figure = apply(figure, add_rod(figure, "j"))
    assert from_text(to_text(figure)) == figure and figure.rods[0].rides_on == "a" and figure.rods[0].carries == ("j",)
    without_a = apply(figure, remove_joint(figure, "a"))
    assert without_a.rods[0].rides_on == "base"
    assert apply(figure, remove_joint(figure, "j")).rods[0].carries == ()
    with_part = Figure(**(dict(figure) | {"rods": (Rod(**(dict(figure.rods[0]) | {"carries": ("m",)})),)}))
    assert apply(with_part, remove_item(with_part, "parts", "m")).rods[0].carries == ()


@given(stuff=st.sampled_from(STUFFS), thick=st.floats(2, 20), length=st.floats(50, 800), ratio=st.floats(0.0, 20.0))
@settings(max_examples=20, deadline=None)
def test_its_own_weight_makes_it_sway_a_little_slower_than_a_mass_on_a_spring(stuff, thick, length, ratio):
    """A heavy tip: √(3EI ÷ M L³) ÷ 2π; its own weight makes it slower, by a quarter of it at most."""
    one = rod(stuff=stuff, thick_mm=thick, tip_mm=(0.0, 0.0, length), carries=())
    beam = beam_of(one)
    grams = ratio * beam.mass * 1e3
    found = study(Figure(rods=(Rod(**(dict(one) | {"load_g": grams if grams >= 0.001 else 0.0})),))).results[RODS][0]
    k = 3 * beam.young * beam.second / beam.length**3
    if grams >= 0.001:
        heavy = math.sqrt(k / (grams / 1e3)) / (2 * math.pi)
        assert heavy / math.sqrt(1 + 0.25 / ratio) <= found.sways < heavy


def test_a_bare_rod_sways_as_a_bare_cantilever():
    """3.516 ÷ 2π √(EI ÷ m L³) (Roark, from memory); Rayleigh's share lies within 2 %."""
    beam = beam_of(rod())
    k = 3 * beam.young * beam.second / beam.length**3
    found = study(Figure(rods=(rod(),))).results[RODS][0]
    assert found.sways == pytest.approx(3.516 / (2 * math.pi) * math.sqrt(k / 3 / beam.mass), rel=0.02)


def test_what_carries_an_unknown_mass_is_not_judged():
    """A part without a mass would count as nothing: neither a rod under it, alone or on a joint, nor its figure holds."""
    joint = Joint(id="j", name="J", axis=Y)
    heavy = part("m", "j", None, (0.0, 0.0, 150.0))
    for carries in (("j",), ("m",)):
        figure = Figure(joints=(joint,), parts=(heavy,), rods=(rod(tip_mm=(0.0, 0.0, 100.0), carries=carries),))
        told = study(figure).finding("rods.r")
        assert told.verdict == "not yet judged" and told.actions and "mass of m" in told.sentence.text


def test_a_load_at_its_highest_decides_by_any_of_the_ways_it_may_fail():
    found = study(carrying(grams=400.0)).results[RODS][0]
    assert found.more > 1 and math.isfinite(found.more)


@given(
    stuff=st.sampled_from(STUFFS),
    other=st.sampled_from(STUFFS),
    thick=st.floats(2, 20),
    bore=st.floats(0, 0.9),
    wall=st.floats(0.3, 5),
)
@settings(max_examples=60, deadline=None)
def test_a_sleeve_bends_with_what_it_is_glued_to(stuff, other, thick, bore, wall):
    """Against a sum over thin rings, strain the same at the same distance from the middle; of its own stuff it is a thicker rod."""
    one = rod(stuff=stuff, thick_mm=thick, bore_mm=thick * bore, sleeve_mm=thick + 2 * wall, sleeve_stuff=other)
    beam = beam_of(one)
    edges = [np.linspace(a / 2e3, b / 2e3, 4001) for a, b in ((thick * bore, thick), (thick, thick + 2 * wall))]
    stiff, mass, most = 0.0, 0.0, []
    for radii, kind in zip(edges, (stuff, other), strict=True):
        known, middle, wide = stuff_of(kind), (radii[1:] + radii[:-1]) / 2, np.diff(radii)
        stiff += known["young_GPa"] * 1e9 * float((np.pi * middle**3 * wide).sum())
        mass += known["density_kgm3"] * float((2 * np.pi * middle * wide).sum()) * one.length_mm / 1e3
        most.append((known["bears_MPa"] * 1e6, known["young_GPa"] * 1e9 * float(radii[-1])))
    assert beam.young * beam.second == pytest.approx(stiff, rel=1e-4) and beam.mass == pytest.approx(mass, rel=1e-4)
    moment = min(bears * stiff / far for bears, far in most)  # at which the first of them is at what it bears
    assert moment * beam.radius / beam.second == pytest.approx(beam.bears, rel=1e-4)
    if stuff == other:
        whole = beam_of(rod(stuff=stuff, thick_mm=thick + 2 * wall, bore_mm=thick * bore))
        for name in ("area", "second", "radius", "mass", "bears", "euler"):
            assert getattr(beam, name) == pytest.approx(getattr(whole, name), rel=1e-9), name


def test_a_sleeve_of_another_stuff_is_offered_and_a_thinner_one_refused():
    figure = Figure(
        rods=(rod(stuff="glass fibre", thick_mm=4.0, tip_mm=(0.0, 300.0, 0.0), load_g=160.0),), postures=LEVEL
    )
    done, offered = study(figure), []
    told = done.finding("rods.r")
    assert told.verdict == "fails"
    offered = remedies(done, told, Reuse())
    sleeved = next(r for r in offered if "sleeve" in r.label.text)
    after = apply(figure, sleeved.edit)
    assert after.rods[0].sleeve_mm > 4.0 and study(after).finding("rods.r").verdict != "fails"
    assert from_text(to_text(after), "x") == after
    with pytest.raises(ValueError, match="thicker outside"):
        rod(thick_mm=4.0, sleeve_mm=3.0)


@settings(max_examples=25, deadline=None)
@given(st.floats(40.0, 600.0), st.floats(10.0, 300.0), st.floats(10.0, 900.0), st.floats(3.0, 12.0))
def test_a_rod_in_two_bearings_sags_as_an_overhanging_beam(length, apart, grams, thick):
    """F L² (L + d) ÷ 3EI at the end of an overhang L beyond two supports d apart (Shigley, table A-9, overhanging load; from memory)."""
    one = rod(held="two bearings", depth_mm=apart, tip_mm=(length, 0.0, 0.0), thick_mm=thick, play_mm=0.0)
    beam, force = beam_of(one), grams / 1e3 * 9.80665
    sag = bent(beam, one, grams / 1e3, NONE, ACROSS, G, 0.0).sag - bent(beam, one, 0.0, NONE, ACROSS, G, 0.0).sag
    free, d = length / 1e3, apart / 1e3
    assert sag == pytest.approx(min(force * free**2 * (free + d) / (3 * beam.young * beam.second), 1e3), rel=1e-6)
