"""Linear actuators: a lever by hand, power in and out, brute force over poses, and as laws."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import helpers
from karakuri.checks.actuators import _beside
from karakuri.checks.contract import PACES, STROKES
from karakuri.files.text import from_text, to_text
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of
from karakuri.mechanics.statics import holding_torque_Nm
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Add, Edit, apply
from karakuri.model.element import Anchor, Linear, Strut
from karakuri.model.element_edits import add_element, set_anchor, set_element
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint, Move
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.model.stand import Posture
from karakuri.sizing.stroke import DEAD_M, stroke_found
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, Z, part

G = 9.80665
LEVEL = np.array([[0.0, 0.0, -G]])


def neck(
    grams=3000.0, out=150.0, foot=(-60.0, -180.0), end=(-60.0, 0.0), wide=(-10.0, 25.0), more=(), **fields
) -> Figure:
    """A head nods on its pivot; an actuator stands behind it."""
    joint = Joint(
        id="j", name="Neck", axis=Y, range_deg=wide, ends=("nose-up", "nose-down"), move=more[0] if more else None
    )
    it = Linear(
        id="a", name="actuator", ends=(Anchor(at_mm=(foot[0], 0.0, foot[1])), Anchor(rides_on="j", at_mm=(end[0], 0.0, end[1]))),
        **({"short_mm": 150.0, "stroke_mm": 100.0, "force_N": 250.0} | fields),
    )  # fmt: skip
    return Figure(
        joints=(joint,), parts=(part("m", "j", grams, (out, 0.0, 40.0), mass_origin="weighed"),), elements=(it,)
    )


def of(figure, rubs=0.0):
    joint = figure.joints[0]
    wanted = (joint.range[0] * joint.measure.si, joint.range[1] * joint.measure.si)
    return stroke_found(build_tree(figure), 0, figure.elements[0], wanted, rubs, LEVEL)


def test_a_lever_by_hand():
    """Arm of a strut from (x, z) to its foot: |p × (f − p)| ÷ length; force = m g x(θ) ÷ arm."""
    found = of(neck())
    for k in range(0, 65, 8):
        angle = float(found.places[k])
        c, s = math.cos(angle), math.sin(angle)
        end = (c * -60.0, -s * -60.0)
        way = (-60.0 - end[0], -180.0 - end[1])
        length = math.hypot(*way)
        arm = abs(end[0] * way[1] - end[1] * way[0]) / length / 1e3
        torque = 3.0 * G * (150.0 * c + 40.0 * s) / 1e3
        assert found.length[k] == pytest.approx(length / 1e3, rel=1e-9)
        assert abs(found.arm[k]) == pytest.approx(arm, rel=2e-3)
        assert max(found.pushes[k], found.pulls[k]) == pytest.approx(torque / arm, rel=3e-3)
    assert found.pulls.max() > 0 > found.pushes.max()  # behind the pivot it holds the head back


@given(
    grams=st.floats(200, 6000), out=st.floats(-200, 200), end=st.floats(-120, -30), up=st.floats(-20, 60), force=st.floats(10, 600)
)  # fmt: skip
@settings(max_examples=50, deadline=None)
def test_laws_of_an_actuator(grams, out, end, up, force):
    figure = neck(grams, out, end=(end, up), force_N=force)
    found = of(figure)
    if found.dead_at is not None:
        return
    twice = of(neck(2 * grams, out, end=(end, up), force_N=force))
    assert twice.asked == pytest.approx(2 * found.asked, rel=1e-6, abs=1e-9)
    assert of(figure, rubs=0.3).asked >= found.asked
    # what it does over the range is what the weight gains in height: ∫ F dL = m g Δz
    gives = np.where(found.pushes >= found.pulls, found.pushes, -found.pulls)
    work = float(np.sum(0.5 * (gives[1:] + gives[:-1]) * np.diff(found.length)))
    height = lambda a: out / 1e3 * -math.sin(a) + 0.040 * math.cos(a)  # noqa: E731
    gained = grams / 1e3 * G * (height(float(found.places[-1])) - height(float(found.places[0])))
    assert work == pytest.approx(gained, rel=2e-2, abs=2e-3 * grams / 1e3 * G * abs(out) / 1e3 + 1e-4)
    assert found.whole_s == pytest.approx(found.takes_s(float(found.places[-1] - found.places[0])), rel=1e-6)
    by = (0.1, 0.2, 0.4)
    assert all(found.takes_s(a) <= found.takes_s(b) + 1e-9 for a, b in itertools.pairwise(by))
    mirrored = neck(grams, -out, foot=(60.0, -180.0), end=(-end, up), wide=(-25.0, 10.0), force_N=force)
    assert of(mirrored).asked == pytest.approx(found.asked, rel=1e-6, abs=1e-9)


@pytest.mark.parametrize("seed", range(5))
def test_no_pose_asks_more_of_it(seed):
    """A jaw and a hat on the head that the actuator moves: thousands of their places."""
    rng = np.random.default_rng(seed)
    figure = neck()
    jaw = Joint(id="jaw", name="Jaw", rides_on="j", axis=Y, at_mm=(60.0, 0.0, 0.0), range_deg=(0.0, 40.0))
    hat = Joint(id="hat", name="Hat", rides_on="j", axis=Z, at_mm=(0.0, 0.0, 90.0), range_deg=(-90.0, 90.0))
    more = (part("bone", "jaw", 600.0, (140.0, 0.0, -20.0)), part("brim", "hat", 400.0, (70.0, 30.0, 100.0)))
    figure = Figure(joints=(*figure.joints, jaw, hat), parts=(*figure.parts, *more), elements=figure.elements,
                    postures=(Posture(id="level", name="level"), Posture(id="lean", name="lean", lean_deg=20.0, roll_deg=10.0)))  # fmt: skip
    tree = build_tree(figure)
    lean = study(figure).results.gravities
    found = stroke_found(tree, 0, figure.elements[0], (math.radians(-10), math.radians(25)), 0.0, lean)
    q = tree.low[:, None] + rng.random((3, 3000)) * (tree.high - tree.low)[:, None]
    step = 1e-5
    ends = [q.copy() for _ in range(2)]
    ends[0][0] -= step
    ends[1][0] += step
    a, b = (length_of(tree, place(tree, each), each, tree.loads[0]) for each in ends)
    arm = (b - a) / (2 * step)
    for gravity in lean:
        asked = np.abs(holding_torque_Nm(tree, q, gravity)[0] / arm)
        assert found.asked >= asked.max() * (1 - 2e-3)


def test_where_it_goes_dead_or_does_not_reach():
    straight = neck(wide=(-85.0, 20.0))  # foot, end and pivot in one line at −71.6°
    dead = of(straight).dead_at
    assert dead is not None and abs(np.interp(dead, of(straight).places, of(straight).arm)) <= 20 * DEAD_M
    assert study(straight).finding("actuators.a").verdict == "fails"
    short = neck(stroke_mm=12.0, short_mm=175.0)
    done = study(short)
    assert 0 < of(short).covered < 1 and done.finding("actuators.a").verdict == "fails"
    assert done.finding("hold.j") is None  # no servo is asked for


def test_every_cure_was_studied_and_one_holds():
    weak, reuse = neck(force_N=20.0), Reuse()
    done = study(weak, reuse)
    finding = done.finding("actuators.a")
    offered = remedies(done, finding, reuse)
    assert finding.verdict == "fails" and any(r.verdict == "holds" for r in offered)
    for remedy in offered:
        after = study(apply(weak, remedy.edit)).finding("actuators.a")
        assert after.verdict == remedy.verdict and after.reserve > finding.reserve
    slow = neck(more=(Move(by=30.0, time_s=0.5),), speed_mmps=8.0, stroke_mm=20.0, short_mm=170.0)
    done = study(slow, reuse)
    assert any(r.verdict == "holds" for r in remedies(done, done.finding("actuators.a"), reuse))


def test_a_slide_is_judged_where_an_actuator_pushes_it():
    slide = Joint(id="j", name="Lift", kind="slide", axis=Z, range_mm=(0.0, 80.0), move=Move(by=50.0, time_s=5.0))
    it = Linear(id="a", name="lift", ends=(Anchor(at_mm=(0.0, 0.0, -150.0)), Anchor(rides_on="j", at_mm=(0.0, 0.0, 0.0))),
                short_mm=150.0, stroke_mm=100.0, force_N=64.0, speed_mmps=20.0)  # fmt: skip
    figure = Figure(
        joints=(slide,), parts=(part("m", "j", 4000.0, (0.0, 0.0, 30.0), mass_origin="weighed"),), elements=(it,)
    )
    done = study(figure)
    finding = done.finding("actuators.a")
    assert finding.reserve == pytest.approx(min(64.0 / (4.0 * G), 5.0 / (50.0 / 20.0)), rel=1e-3)
    assert done.finding("slides.j") is None
    assert study(Figure(**(dict(figure) | {"elements": ()}))).finding("slides.j") is not None


def test_edits_and_the_file():
    figure = Figure(joints=(Joint(id="j", name="Neck", axis=Y),), parts=(part("m", "j", 500.0, (50.0, 0.0, 0.0)),))
    figure = apply(figure, add_element(figure, "actuator", "j"))
    it = figure.elements[0]
    assert from_text(to_text(figure), "x") == figure and study(figure).finding(f"actuators.{it.id}") is not None
    figure = apply(figure, set_element(it, "stroke", stroke_mm=80.0))
    on_one = apply(figure, set_anchor(figure.elements[0], 1, rides_on="base"))
    assert study(on_one).finding(f"actuators.{it.id}").verdict == "not yet judged"


def test_a_score_that_asks_too_much_speed_is_told():
    """0.5 s for 30°: the length changes by so much in a frame; by hand from the places of the actuator itself."""
    figure = neck(wide=(-10.0, 25.0), speed_mmps=30.0)
    channel = JointChannel(id="n", name="Nod", joints=("j",), moves=moves_of([Row(1.0, 0.5, 20.0), Row(3.0, 4.0, 0.0)]))
    figure = Figure(**(dict(figure) | {"scores": (Score(length_s=8.0, channels=(channel,)),)}))
    done, found = study(figure), of(figure)
    finding = done.finding("actuators.a.score")
    t = np.arange(0.0, 0.5, 0.001)
    s = t / 0.5
    at = math.radians(20.0) * (10 * s**3 - 15 * s**4 + 6 * s**5)
    by_hand = np.abs(np.diff(np.interp(at, found.places, found.length))).max() / 0.001
    assert finding.demand.value == pytest.approx(by_hand, rel=0.02)
    assert finding.verdict == "fails" and 1.0 <= finding.at_s <= 1.5
    offered = remedies(done, finding, Reuse())
    assert any(r.verdict == "holds" for r in offered)
    assert study(neck()).finding("actuators.a.score") is None
    assert not done.results.broken and done.finding("park.score") is not None


@pytest.mark.parametrize("takes", [0.25, 0.5, 1.5, 4.0])
def test_what_speeds_up_asks_for_force_and_a_slower_move_for_less(takes):
    """A lift of 4 kg: m (g + a), a = 5.7735 × way ÷ time² at its largest (minimum jerk, Flash and Hogan 1985); standing it asks m g."""
    slide = Joint(id="j", name="Lift", kind="slide", axis=Z, range_mm=(0.0, 80.0))
    it = Linear(id="a", name="lift", ends=(Anchor(at_mm=(0.0, 0.0, -150.0)), Anchor(rides_on="j", at_mm=(0.0, 0.0, 0.0))),
                short_mm=150.0, stroke_mm=100.0, force_N=64.0, speed_mmps=2000.0)  # fmt: skip
    channel = JointChannel(id="n", name="Lift", joints=("j",), moves=moves_of([Row(1.0, takes, 70.0)]))
    figure = Figure(
        joints=(slide,), parts=(part("m", "j", 4000.0, (0.0, 0.0, 30.0), mass_origin="weighed"),), elements=(it,), scores=(Score(length_s=8.0, channels=(channel,)),)
    )  # fmt: skip
    done = study(figure)
    asked = 4.0 * (G + 5.7735 * 0.07 / takes**2)
    assert done.results[PACES][0].force == pytest.approx(asked, rel=0.01)
    told = done.finding("actuators.a.force")
    if asked > 1.03 * 4.0 * G:
        assert told.reserve == pytest.approx(64.0 / asked, rel=0.01) and 1.0 <= told.at_s <= 1.0 + takes
        if told.verdict != "holds":
            assert any(r.verdict == "holds" for r in remedies(done, told, Reuse()))
    else:
        assert told is None


def test_the_force_over_a_score_is_over_the_arm_it_has_then():
    """A lever that hangs still at an angle: what holds it there ÷ its arm there, and nothing more."""
    figure = neck(wide=(-10.0, 25.0), speed_mmps=300.0)
    channel = JointChannel(id="n", name="Nod", joints=("j",), moves=moves_of([Row(1.0, 6.0, 25.0)]))
    figure = Figure(**(dict(figure) | {"scores": (Score(length_s=8.0, channels=(channel,)),)}))
    done, found = study(figure), of(figure)
    assert done.results[PACES][0].force == pytest.approx(found.asked, rel=0.05)


def test_what_hangs_on_a_lever_hangs_anew_wherever_it_is_pushed():
    """A bell that hangs from the lever pulls straight down at its own pivot, whichever way the lever stands: m g × how far out that is."""
    lever = neck(wide=(-50.0, 60.0))
    bell = Joint(id="b", name="Bell", rides_on="j", role="free", axis=Y, at_mm=(150.0, 0.0, 40.0))
    figure = Figure(
        **(
            dict(lever)
            | {
                "joints": (*lever.joints, bell),
                "parts": (part("m", "b", 3000.0, (150.0, 0.0, -60.0), mass_origin="weighed"),),
            }
        )
    )
    found = study(figure, None).results[STROKES][0]
    out = 0.15 * np.cos(found.places) + 0.04 * np.sin(found.places)  # about +y what is ahead goes down
    assert np.abs(found.highest) == pytest.approx(3.0 * G * out, rel=2e-3, abs=0.01)
    assert np.abs(found.lowest) == pytest.approx(3.0 * G * out, rel=2e-3, abs=0.01)


def test_an_actuator_on_a_follower_works_over_what_its_leader_takes_it():
    """Half of ±40°, the other way: as an actuator on a joint that is wanted ±20°."""
    lever = neck(wide=(-20.0, 20.0))
    leader = Joint(id="n", name="Lead", axis=Y, range_deg=(-40.0, 40.0), at_mm=(0.0, 200.0, 0.0))
    follows = Joint(
        **(
            dict(lever.joints[0])
            | {"role": "follows", "follows": Follow(joint="n", ratio=-0.5), "range_deg": (-5.0, 80.0)}
        )
    )
    figure = Figure(**(dict(lever) | {"joints": (leader, follows)}))
    ours, theirs = (study(f).results[STROKES][0] for f in (figure, lever))
    assert ours.places == pytest.approx(theirs.places, abs=1e-9) and ours.length == pytest.approx(theirs.length)
    assert ours.asked == pytest.approx(theirs.asked, rel=1e-3)


@settings(max_examples=25, deadline=None)
@given(st.floats(500.0, 4000.0), st.floats(-200.0, 200.0), st.floats(-240.0, -110.0), st.floats(-110.0, -40.0))
def test_what_is_set_beside_it_is_neither_too_long_nor_too_short_anywhere(grams, out, foot, end):
    """A gas strut stays between all in and all out, a spring between slack and its longest, over the whole range."""
    figure = neck(grams, out, (-60.0, foot), (end, 0.0), force_N=150.0)
    results = study(figure, Reuse()).results
    found = results[STROKES]
    if not found or found[0].dead_at is not None:
        return
    long, short = float(found[0].length.max()) * 1e3, float(found[0].length.min()) * 1e3
    for proposal in _beside(results, figure.elements[0], found[0]):
        made = proposal.edit.steps[0].item
        if made.kind == "strut":
            assert made.long_mm - made.stroke_mm <= short and long <= made.long_mm
        else:
            assert made.free_mm <= short and long <= made.longest_mm


def test_a_head_that_weighs_on_its_actuator_is_offered_the_strut_that_leaves_it_least():
    figure = neck(3000.0, -100.0, (-60.0, -200.0), (-50.0, 0.0), force_N=150.0)
    results = study(figure, Reuse()).results
    found = results[STROKES][0]
    made = next(p.edit.steps[0].item for p in _beside(results, figure.elements[0], found))
    assert made.kind == "strut"
    low, high, asks = float(found.length.min()) * 1e3, float(found.length.max()) * 1e3, {}
    for row in helpers()["struts"]:
        if row["long_mm"] - row["stroke_mm"] <= low and high <= row["long_mm"]:
            beside = apply(figure, add_strut(row))
            asks[row["force_N"]] = study(beside, Reuse()).results[STROKES][0].asked
    assert asks and made.force_N == min(asks, key=asks.get)


def add_strut(row):
    ends = (Anchor(at_mm=(-60.0, 0.0, -200.0)), Anchor(rides_on="j", at_mm=(-50.0, 0.0, 0.0)))
    return Edit("strut", (Add("elements", Strut(id="s", name="s", ends=ends, **row)),))
