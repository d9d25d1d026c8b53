"""A cord that is pulled: capstan, moving pulleys, travel and force by hand, and as laws."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree
from karakuri.checks.contract import CORDS
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import way_of
from karakuri.model.drag import Pulled
from karakuri.model.edit import apply
from karakuri.model.element import Anchor, Cord, Torsion
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.stand import Base, Posture
from karakuri.model.worn import Worn
from karakuri.sizing.cord import PULLEY_KEEPS, RUBS, nearest
from karakuri.sizing.wearer import neck_of
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, part, random_figure

G = 9.80665
SMOOTH = Pulled(up_g=0.0, down_g=0.0)
LEVEL = (Posture(id="level", name="level"),)


def jaw(grams=60.0, x=40.0, opens=20.0, below=30.0, spring=4.0, drag=SMOOTH, over=(), postures=LEVEL, **cord) -> Figure:
    """A jaw that falls open by 20°; a cord from below pulls it down, a spring, N·mm/°, wound by 30°, shuts it."""
    joint = Joint(
        id="j",
        name="Jaw",
        role="free",
        axis=Y,
        range_deg=(0.0, opens),
        stops_deg=(-1.0, opens + 5.0),
        drag=drag,
        ends=("shut", "open"),
    )
    fields = {"pulled_mm": 20.0, "pulled_N": 10.0} | cord
    line = Cord(
        id="c",
        name="chin cord",
        ends=(Anchor(at_mm=(x, 0.0, -below - 40.0)), Anchor(rides_on="j", at_mm=(x, 0.0, 0.0))),
        over=over,
        **fields,
    )
    coil = Torsion(id="s", name="spring", joint="j", rate_Nm_per_deg=spring / 1e3, free_deg=-30.0, origin="weighed")
    return Figure(
        joints=(joint,), parts=(part("m", "j", grams, (x, 0.0, 0.0)),), elements=(line, coil), postures=postures
    )


def of(figure):
    return study(figure).results[CORDS][0]


@given(grams=st.floats(5, 60), spring=st.floats(2, 10), opens=st.floats(5, 35))
@settings(max_examples=25, deadline=None)
def test_travel_and_force_are_those_of_the_triangle(grams, spring, opens):
    """By hand: the way from (40, −70) to the end at 40 mm turned down by θ; force = (k (θ + 30°) − m g x cos θ) ÷ its arm."""
    found = of(jaw(grams=grams, spring=spring, opens=opens))
    theta = np.radians(np.linspace(0.0, opens, 65))
    end = 0.04 * np.stack([np.cos(theta), -np.sin(theta)])
    way = np.hypot(end[0] - 0.04, end[1] + 0.07)
    assert found.most_travel == pytest.approx(way[0] - way[-1], rel=1e-6)
    torque = spring / 1e3 * (np.degrees(theta) + 30.0) - grams / 1e3 * G * 0.04 * np.cos(theta)
    arm = np.abs(end[0] * (-0.07 - end[1]) - end[1] * (0.04 - end[0])) / way
    assert found.force[1:-1] == pytest.approx(np.maximum(torque / arm, 0.0)[1:-1], rel=2e-3, abs=1e-3)


@pytest.mark.parametrize("guided", sorted(RUBS))
def test_what_it_runs_over_costs_by_the_capstan(guided):
    """T_high = T_low e^(µ θ): Euler–Eytelwein (any text; half a turn at 0.15 costs 1.60, from memory); a right angle here, and a tube's bends."""
    assert math.exp(0.15 * math.pi) == pytest.approx(1.60, abs=0.005)
    straight, bent = of(jaw(guided=guided)), of(jaw(guided=guided, bends_deg=180.0))
    assert bent.most_force == pytest.approx(straight.most_force * math.exp(RUBS[guided] * math.pi), rel=1e-9)
    corner = of(_cornered(guided))
    assert corner.wrap[0] == pytest.approx(math.pi / 2, abs=1e-6)
    assert corner.force[0] == pytest.approx(straight.force[0] * math.exp(RUBS[guided] * math.pi / 2), rel=1e-6)


def _cornered(guided) -> Figure:
    figure = jaw(guided=guided)
    line = figure.elements[0]
    turned = Cord(
        **(
            dict(line)
            | {"ends": (Anchor(at_mm=(-60.0, 0.0, -70.0)), line.ends[1]), "over": (Anchor(at_mm=(40.0, 0.0, -70.0)),)}
        )
    )
    return Figure(**(dict(figure) | {"elements": (turned, figure.elements[1])}))


def test_a_moving_pulley_halves_or_doubles_both():
    """On the load it halves force and movement there; on the puller's side it doubles both (any text; what it keeps: common practice)."""
    plain, on_jaw, on_hand = (of(jaw(moving=where)) for where in ("none", "jaw", "hand"))
    assert on_jaw.most_travel == pytest.approx(2 * plain.most_travel) and on_hand.most_travel == pytest.approx(
        plain.most_travel / 2
    )
    assert on_jaw.most_force == pytest.approx(plain.most_force / 2 / PULLEY_KEEPS)
    assert on_hand.most_force == pytest.approx(plain.most_force * 2 / PULLEY_KEEPS)


@given(mm=st.floats(1, 30), newton=st.floats(0.5, 20), more=st.floats(1.05, 3), grams=st.floats(5, 100))
@settings(max_examples=25, deadline=None)
def test_more_pull_never_opens_less_and_more_spring_never_asks_less(mm, newton, more, grams):
    base = of(jaw(grams=grams))
    assert base.opens(mm * more / 1e3, newton) >= base.opens(mm / 1e3, newton)
    assert base.opens(mm / 1e3, newton * more) >= base.opens(mm / 1e3, newton)
    assert of(jaw(grams=grams, spring=4.0 * more)).most_force >= base.most_force - 1e-12
    assert (
        of(jaw(grams=grams, drag=Pulled(up_g=100.0 * more, down_g=0.0))).most_force
        >= of(jaw(grams=grams, drag=Pulled(up_g=100.0, down_g=0.0))).most_force
    )
    both = (*LEVEL, Posture(id="bow", name="bowing", lean_deg=40.0))
    assert of(jaw(grams=grams, postures=both)).most_force >= base.most_force - 1e-12


def test_verdicts_too_little_too_hard_dead_unknown_breaks_and_does_not_shut():
    def told(**more):
        return study(jaw(**more)).finding("cords.c")

    assert told().verdict == "holds" and "shuts again" in told().sentence.text
    assert told(pulled_mm=5.0).verdict == "fails" and "too little" in told(pulled_mm=5.0).sentence.text
    assert told(pulled_N=1.0).verdict == "fails" and "too softly" in told(pulled_N=1.0).sentence.text
    assert told(pulled_N=None).verdict == "not yet judged" and told(pulled_N=None).actions
    assert told(bears_N=1.0).verdict == "fails" and "breaks first" in told(bears_N=1.0).sentence.text
    assert told(spring=0.1).verdict == "fails" and "does not shut" in told(spring=0.1).sentence.text
    assert told(opens=85.0, below=-35.0).verdict == "fails" and "dead" in told(opens=85.0, below=-35.0).sentence.text


def test_what_it_rubs_with_is_pulled_against_over_the_arm():
    """Half the difference of two pulls on a lever is what it rubs with; of the force it is that ÷ arm, at its nominal value."""
    smooth, rough = of(jaw()), of(jaw(drag=Pulled(up_g=400.0, down_g=200.0, lever_mm=50.0)))
    more = (400.0 - 200.0) / 2e3 * G * 0.05 / smooth.arm
    moving = smooth.force > 1e-9
    assert (rough.force - smooth.force)[moving] == pytest.approx(more[moving], rel=1e-3)


def test_where_nobody_said_what_it_rubs_in_a_plain_print_is_assumed():
    told = study(jaw(drag=None)).finding("cords.c")
    assert "plain print" in told.decides.text and of(jaw(drag=None)).most_force > of(jaw()).most_force
    assert of(jaw(drag=None, spring=0.75)).shuts < of(jaw(spring=0.75)).shuts


def test_a_weak_spring_is_cured_by_the_weakest_that_shuts_it_and_a_short_pull_by_a_pulley():
    before = study(jaw(spring=0.1))
    found = remedies(before, before.finding("cords.c"), Reuse())
    springs = [r for r in found if "return spring" in r.edit.name]
    assert springs and study(apply(before.figure, springs[0].edit)).finding("cords.c").verdict != "fails"
    short = study(jaw(pulled_mm=9.0, pulled_N=30.0))
    assert any("puller" in r.label.text for r in remedies(short, short.finding("cords.c"), Reuse()))


def test_an_unknown_mass_on_what_it_opens_is_not_judged():
    figure = jaw()
    unknown = Figure(**(dict(figure) | {"parts": (*figure.parts, part("teeth", "j", None, (30.0, 0.0, 5.0)))}))
    assert study(unknown).finding("cords.c").verdict == "not yet judged"


@pytest.mark.parametrize("seed", range(6))
def test_no_pose_brings_a_cord_much_nearer_to_a_neck(seed):
    """Against two thousand poses: within a centimetre, of the eleven at which it is told."""
    figure, rng = random_figure(seed, 3), np.random.default_rng(seed)
    somewhere = [
        Anchor(rides_on=i, at_mm=tuple(float(v) for v in rng.uniform(-150, 150, 3))) for i in ("base", "j1", "j2")
    ]
    line = Cord(id="c", name="c", ends=(somewhere[0], somewhere[2]), over=(somewhere[1],))
    tree = build_tree(Figure(**(dict(figure) | {"elements": (line,)})))
    foot, top = rng.uniform(-0.2, 0.0, 3), rng.uniform(0.0, 0.2, 3)
    q = tree.low[:, None] + rng.random((3, 2000)) * (tree.high - tree.low)[:, None]
    points = way_of(tree, place(tree, q), tree.loads[0])
    shares = np.linspace(0, 1, 60)
    along = np.concatenate([a + shares[:, None, None] * (b - a) for a, b in itertools.pairwise(points)])
    neck = foot + shares[:, None] * (top - foot)
    least = min(float(np.linalg.norm(along - one[None, :, None], axis=1).min()) for one in neck)
    assert nearest(tree, 0, foot, top) <= least + 0.01


def test_a_cord_past_a_neck_is_told():
    worn = Base(held="worn", worn=Worn(ears_mm=(0.0, 0.0, 0.0)))
    figure = Figure(**(dict(jaw(opens=30.0)) | {"base": worn}))
    foot, top = neck_of(figure, build_tree(figure))
    side = {"ends": (Anchor(at_mm=(220.0, 0.0, -80.0)), Anchor(rides_on="j", at_mm=(180.0, 0.0, 0.0)))}
    away = Figure(**(dict(figure) | {"elements": (Cord(**(dict(figure.elements[0]) | side)), figure.elements[1])}))
    assert "neck" not in study(away).finding("cords.c").sentence.text
    middle = tuple(1e3 * (foot + top) / 2)
    beside = {"ends": (Anchor(at_mm=(middle[0] + 20.0, 0.0, middle[2])), Anchor(rides_on="j", at_mm=(180.0, 0.0, 0.0)))}
    near = Figure(**(dict(figure) | {"elements": (Cord(**(dict(figure.elements[0]) | beside)), figure.elements[1])}))
    assert "break-away" in study(near).finding("cords.c").sentence.text


def test_what_hangs_on_a_jaw_hangs_anew_as_it_opens():
    """A tongue that hangs from a jaw pulls straight down at its own pivot: force × arm is as of its weight at that pivot."""
    figure = jaw(grams=1.0)
    tongue = Joint(id="t", name="Tongue", rides_on="j", role="free", axis=Y, at_mm=(40.0, 0.0, 0.0))
    hung = Figure(
        **(
            dict(figure)
            | {"joints": (*figure.joints, tongue), "parts": (*figure.parts, part("w", "t", 60.0, (40.0, 0.0, -30.0)))}
        )
    )
    fixed = Figure(**(dict(figure) | {"parts": (*figure.parts, part("w", "j", 60.0, (40.0, 0.0, 0.0)))}))
    ours, theirs = of(hung), of(fixed)
    assert ours.force == pytest.approx(theirs.force, rel=1e-3, abs=1e-3) and ours.back.torque == pytest.approx(
        theirs.back.torque, abs=1e-6
    )
