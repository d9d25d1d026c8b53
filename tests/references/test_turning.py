"""Motors that turn on, crank and rocker: handbook values, textbook four-bars, closed forms, MuJoCo, and laws over random ones.

n = 120 f ÷ p (any text on synchronous motors); Grashof's rule and the crank's dead angles (Norton, Design of Machinery, ch. 2 and 4, from memory);
holding power of set screws (Shigley, from memory).
"""

import math

import mujoco
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from karakuri.bodies.linkages.crank import swung
from karakuri.bodies.linkages.lever import linkage_of
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import motors, screw_holds_N, servo_class
from karakuri.checks.contract import TURNING
from karakuri.checks.turning import propose
from karakuri.files.text import from_text, to_text
from karakuri.model.assumptions import Assumptions
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.element import Anchor, Motor, Spring
from karakuri.model.element_edits import add_element
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.moves import Row, moves_of
from karakuri.model.part import Part
from karakuri.model.score import Score
from karakuri.model.sides import twin_joint
from karakuri.model.stand import Posture
from karakuri.model.transmission import Gear, Lever
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.sizing.turning import reserve, turns_of
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import X, Y, Z, part
from tests.references.mujoco_twin import Twin

G = 9.80665


def arm(grams=400.0, at=(80.0, 0.0, 0.0), axis=Y, ranges=(-180.0, 180.0), more=(), **fields) -> Figure:
    """An arm that a motor turns about a level axis, a weight 80 mm out."""
    joint = Joint(id="arm", name="arm", axis=axis, range_deg=ranges)
    fields = {
        "sort": "mains",
        "torque_Nm": 1.2,
        "turns_per_min": 5.0,
        "way": "plus",
        "shaft_mm": 7.0,
        "fixed": "flat",
    } | fields
    motor = Motor(id="m", name="motor", joint="arm", **fields)
    return Figure(
        joints=(joint,), parts=(part("lamp", "arm", grams, at, mass_origin="weighed"),), elements=(motor, *more)
    )


def found_of(figure: Figure):
    return study(figure, Reuse()).results[TURNING][0]


def told(figure: Figure) -> dict:
    return {f.id: f for f in study(figure, Reuse()).findings if f.rule == "turning"}


@pytest.mark.parametrize(("poles", "hertz", "turns"), [(24, 60, 300.0), (24, 50, 250.0)])
def test_turns_go_with_the_mains(poles, hertz, turns):
    """120 f ÷ p: 24 poles, 300 turns a minute at 60 Hz, 250 at 50 Hz."""
    assert 120 * hertz / poles == turns
    label = Motor(id="m", name="m", joint="j", sort="mains", turns_per_min=300.0, label_Hz=60, mains_Hz=hertz)
    assert turns_of(label, Assumptions()).free == pytest.approx(turns * 2 * math.pi / 60)


def test_an_arm_asks_its_weight_times_its_length_all_the_way_round():
    """m g r cos θ, at its most m g r, over a turn m g r ÷ √2 going both up and down; only half of the turn asks anything of a motor that goes one way."""
    found = found_of(arm())
    most = 0.4 * G * 0.08
    assert found.forth.max() == pytest.approx(most, rel=1e-5) and found.back.max() == pytest.approx(most, rel=1e-5)
    assert found.forth == pytest.approx(np.maximum(-most * np.cos(found.places), 0.0), abs=most * 1e-4)
    assert found.lasting(found.forth) == pytest.approx(most / 2, rel=5e-3)
    assert found.reach == pytest.approx(0.08) and np.linalg.norm(found.off) == pytest.approx(0.4 * 0.08)
    usable = 1.2 * Assumptions().stall_share
    assert told(arm())["turning.m"].reserve == pytest.approx(usable / most, rel=1e-4)
    assert told(arm(axis=Z))["turning.m"].verdict == "holds"  # about an upright axis nothing is lifted


def test_a_turn_takes_what_the_straight_line_makes_of_it():
    """Mains: 60 ÷ turns a minute. Direct current: the sum of way ÷ free speed ÷ (1 − torque ÷ stall), by quadrature."""
    even = arm()
    has = turns_of(even.elements[0], Assumptions())
    assert found_of(even).takes_s(found_of(even).forth, has) == pytest.approx(12.0, rel=1e-6)
    dc = arm(sort="geared", torque_Nm=2.0, turns_per_min=10.0, gears="metal")
    has = turns_of(dc.elements[0], Assumptions())
    most = 0.4 * G * 0.08
    exact, _ = quad(
        lambda t: 1 / (has.free * (1 - max(most * math.cos(t), 0.0) / has.usable)), -math.pi, math.pi, limit=200
    )
    assert found_of(dc).takes_s(found_of(dc).forth, has) == pytest.approx(exact, rel=2e-3)
    low = arm(sort="geared", torque_Nm=2.0, turns_per_min=10.0, gets_V=9.0)
    assert turns_of(low.elements[0], Assumptions()).usable == pytest.approx(2.0 * 0.75 * Assumptions().stall_share)
    stalls = told(arm(torque_Nm=0.2, sort="geared"))
    assert "turning.m.time" not in stalls and "stalls" in stalls["turning.m"].sentence.text


def test_what_falls_out_of_step_is_told_where_and_balanced_by_a_counterweight():
    weak = arm(torque_Nm=0.3)
    finding = told(weak)["turning.m"]
    assert finding.verdict == "fails" and "falls out of step" in finding.sentence.text
    whole = study(weak, Reuse())
    proposals = list(propose(finding, whole.results))
    assert proposals
    for proposal in proposals:
        balanced = apply(weak, proposal.edit)
        weight = balanced.parts[-1]
        assert (
            weight.mass_g / 1e3 * abs(weight.at_mm[0]) / 1e3 == pytest.approx(0.4 * 0.08, rel=0.05)
            and weight.at_mm[0] < 0
        )
        assert told(balanced)["turning.m"].verdict == "holds"


def test_set_screws_by_the_table():
    """Shigley's holding power of socket set screws: #5, 0.125 in, 200 lbf; #10, 0.190 in, 540 lbf; on a 6 mm shaft the first holds 2.67 N·m standing."""
    assert screw_holds_N(3.18)[0] == pytest.approx(890.0) == pytest.approx(200 * 4.448, rel=2e-3)
    assert screw_holds_N(4.83)[0] == pytest.approx(540 * 4.448, rel=2e-3)
    holds, factor = screw_holds_N(3.0)
    assert 712 < holds < 890 and factor == 4.0
    slipping = told(arm(fixed="set screw", screw_mm=1.52, shaft_mm=3.0))["turning.m.screw"]
    assert slipping.verdict == "fails" and slipping.reserve == pytest.approx(
        222 * 0.0015 / 4 / (0.4 * G * 0.08), rel=1e-3
    )
    assert told(arm(fixed="set screw", screw_mm=6.35, shaft_mm=10.0))["turning.m.screw"].verdict == "holds"


NORTON = Lever(horn_mm=40.0, rod_mm=120.0, lever_mm=80.0, axes_mm=100.0, lever_deg=57.325)


def test_nortons_crank_goes_all_the_way_and_rocks_between_its_dead_places():
    """Crank 40, coupler 120, rocker 80, ground 100: Grashof 40 + 120 ≤ 100 + 80, so it turns; the rocker turns back where crank and coupler lie in one line:
    far sides 160 and 80 from the shaft, by the law of cosines."""
    bar = linkage_of(NORTON)
    there = swung(bar, np.linspace(0, 2 * math.pi, 20001))
    assert there.closes.all()
    ends = [math.acos((80**2 + 100**2 - far**2) / (2 * 80 * 100)) for far in (160, 80)]
    assert np.ptp(there.joint) == pytest.approx(abs(ends[0] - ends[1]), rel=1e-5)
    locks = linkage_of(Lever(**(dict(NORTON) | {"horn_mm": 70.0, "rod_mm": 125.0})))
    assert not swung(locks, np.linspace(0, 2 * math.pi, 721)).closes.all()


@settings(max_examples=80)
@given(
    st.floats(5.0, 60.0),
    st.floats(30.0, 150.0),
    st.floats(20.0, 100.0),
    st.floats(40.0, 140.0),
    st.sampled_from([80.0, -80.0, 100.0]),
)
def test_it_turns_right_round_where_grashof_says_so(crank, rod, lever, apart, stands):
    """Shortest + longest ≤ the other two, the crank the shortest; its ratio by steps of its own place; back again it is the four-bar seen from its lever."""
    assume(abs(crank + max(rod, lever, apart) - (rod + lever + apart - max(rod, lever, apart))) > 0.5)
    bar = linkage_of(Lever(horn_mm=crank, rod_mm=rod, lever_mm=lever, axes_mm=apart, lever_deg=stands))
    assume(bar.inverse(np.zeros(1)).closes[0] and bar.inverse(np.zeros(1)).angle[0] > 0.05)
    u = np.linspace(0, 2 * math.pi, 1441)
    there = swung(bar, u)
    assert there.joint[0] == pytest.approx(0.0, abs=1e-6)
    sides = sorted([crank, rod, lever, apart])
    grashof = sides[0] + sides[3] <= sides[1] + sides[2] and crank == sides[0]
    if grashof:
        assert there.closes.all()
    elif there.closes.all():  # drag links turn too: the ground the shortest
        assert sides[0] + sides[3] <= sides[1] + sides[2] and apart == sides[0]
    few = u[there.closes & (there.angle > 0.15)][::40]
    assume(len(few))
    h = 1e-6
    ahead, behind = swung(bar, few + h), swung(bar, few - h)
    assert swung(bar, few).ratio == pytest.approx((ahead.joint - behind.joint) / (2 * h), rel=1e-4, abs=1e-5)
    q = swung(bar, few).joint
    back = bar.inverse(q)
    near = np.abs(np.angle(np.exp(1j * (back.drive - few)))) < 1e-6  # the horn on the same side of its line as at rest
    assert near.any() or len(few) < 3


def test_a_crank_rocks_a_head_and_what_it_asks_is_what_mujoco_says():
    """The static torque at the crank, all round, against MuJoCo: horn as a body, rod as a constraint, held still by our torque."""
    lever = Lever(**(dict(NORTON) | {"horn_mm": 25.0, "efficiency": 1.0}))
    bar = linkage_of(lever)
    ends = np.degrees(
        [
            swung(bar, np.linspace(0, 2 * math.pi, 721)).joint.min(),
            swung(bar, np.linspace(0, 2 * math.pi, 721)).joint.max(),
        ]
    )
    figure = arm(
        300.0, (50.0, 0.0, 70.0), ranges=(float(ends[0]) - 0.2, float(ends[1]) + 0.2), through=lever, torque_Nm=3.0
    )
    found = found_of(figure)
    for k in (0, 60, 130, 200, 275, 330):
        q, need = float(found.places[k]), float(found.ratio[k]) * float(found.highest[k])
        u = bar.begins + float(found.turned[k])
        hole = (bar.horn * math.cos(u), bar.horn * math.sin(u))
        stands = bar.stands + q
        end = (bar.apart + bar.lever * math.cos(stands), bar.lever * math.sin(stands))
        model = mujoco.MjModel.from_xml_string(f"""<mujoco><option gravity="0 0 -{G}"/><default><geom contype="0" conaffinity="0"/></default><worldbody>
          <body pos="0 0 {-bar.apart}"><joint name="u" axis="0 1 0" armature="1e-7"/><geom size=".01" mass="1e-7"/><site name="hole" pos="{hole[1]} 0 {hole[0]}"/></body>
          <body><joint name="q" axis="0 1 0"/><geom size=".002" mass="0.3" pos="{0.05 * math.cos(q) + 0.07 * math.sin(q)} 0 {0.07 * math.cos(q) - 0.05 * math.sin(q)}"/>
            <site name="end" pos="{end[1]} 0 {end[0] - bar.apart}"/></body></worldbody>
          <tendon><spatial name="rod"><site site="hole"/><site site="end"/></spatial></tendon>
          <equality><tendon tendon1="rod" polycoef="0 0 0 0 0" solimp="0.9999 0.99999 0.00001"/></equality></mujoco>""")
        data = mujoco.MjData(model)
        mujoco.mj_forward(model, data)
        assert data.ten_length[0] == pytest.approx(bar.rod, rel=1e-6)
        falls = abs(float(data.joint("q").qacc[0]))
        data.qfrc_applied[0] = need
        mujoco.mj_forward(model, data)
        assert abs(float(data.joint("q").qacc[0])) < 5e-3 * falls + 1e-6, k


def test_pins_take_it_to_and_fro_and_its_range_has_to_say_so():
    wide = told(arm(ranges=(-40.0, 40.0)))
    assert wide["turning.m.goes"].verdict == "fails" and "turning.m" not in wide
    pinned = told(arm(ranges=(-40.0, 40.0), pins_deg=(-40.0, 40.0), way="either"))
    assert "turning.m.goes" not in pinned and pinned["turning.m"].verdict == "holds"
    assert pinned["turning.m.time"].measure.quantities[0].value == pytest.approx(80 / 360 * 12.0, rel=1e-3)
    short = told(arm(ranges=(-60.0, 60.0), pins_deg=(-40.0, 40.0), way="either"))
    assert short["turning.m.goes"].verdict == "tight"
    either = told(arm(way="either"))
    assert either["turning.m.way"].verdict == "tight"
    whole = study(arm(ranges=(-40.0, 40.0)), Reuse())
    for proposal in propose(whole.finding("turning.m.goes"), whole.results):
        assert "turning.m.goes" not in told(apply(whole.figure, proposal.edit))


@settings(max_examples=25, deadline=None)
@given(
    st.floats(50.0, 900.0),
    st.floats(1.05, 3.0),
    st.floats(-1.0, 1.0),
    st.sampled_from(["mains", "geared"]),
    st.booleans(),
)
def test_no_reserve_grows_with_the_load_or_falls_with_the_motor(grams, more, high, sort, geared):
    through = {"through": Gear(driver=20, driven=40)} if geared else {}
    base = arm(grams, (60.0, 0.0, 30.0 * high), sort=sort, **through)
    heavier = Figure(
        **(dict(base) | {"parts": tuple(Part(**(dict(p) | {"mass_g": p.mass_g * more})) for p in base.parts)})
    )
    stronger = apply(base, Edit("x", (Set(("elements", "m", "torque_Nm"), 1.2 * more),)))
    one, other, third = (told(f)["turning.m"].reserve for f in (base, heavier, stronger))
    assert other <= one / more * (1 + 1e-6) and third == pytest.approx(one * more, rel=1e-6)
    if geared:
        plain = told(arm(grams, (60.0, 0.0, 30.0 * high), sort=sort))["turning.m"].reserve
        assert one == pytest.approx(plain * 2 * 0.95, rel=1e-6)


def test_all_else_in_every_place_and_posture_counts():
    """A lamp that slides out on the arm, and a base that leans: by brute force over both."""
    slide = Joint(id="out", name="out", rides_on="arm", kind="slide", axis=X, range_mm=(0.0, 60.0))
    base = arm()
    figure = Figure(
        joints=(*base.joints, slide), elements=base.elements, parts=(part("lamp", "out", 400.0, (80.0, 0.0, 10.0)),),
        postures=(Posture(id="level", name="level"), Posture(id="lean", name="lean", lean_deg=20.0, roll_deg=5.0)),
    )  # fmt: skip
    found = found_of(figure)
    assert found.forth.max() == pytest.approx(0.4 * G * math.hypot(0.14, 0.01), rel=2e-3)
    spring = Spring(
        id="s",
        name="s",
        free_mm=20.0,
        rate_N_per_mm=0.3,
        ends=(Anchor(at_mm=(0.0, 0.0, 90.0)), Anchor(rides_on="arm", at_mm=(30.0, 0.0, 0.0))),
    )
    helped = arm(more=(spring,))
    twin = Twin(Figure(**(dict(helped) | {"elements": (spring,)})))
    found = found_of(helped)
    for k in (10, 100, 180, 260, 350):
        twin.data.joint("arm").qpos[0] = found.places[k]
        mujoco.mj_forward(twin.model, twin.data)
        held = float(twin.data.qfrc_bias[0] - twin.data.qfrc_passive[0])
        assert float(found.highest[k]) == pytest.approx(held, rel=1e-3, abs=1e-3)


def test_a_joint_that_a_motor_turns_asks_for_no_servo_and_is_written_down_again():
    figure = arm()
    findings = {f.id for f in study(figure, Reuse()).findings}
    assert "hold.arm" not in findings and from_text(to_text(figure)) == figure
    fresh = apply(Figure(joints=figure.joints, parts=figure.parts), add_element(figure, "motor", "arm"))
    assert fresh.elements[0].kind == "motor" and {f.rule for f in study(fresh, Reuse()).findings} >= {"turning"}
    assert all(
        Motor(id="m", name=row["name"], joint="j", **{k: v for k, v in row.items() if k not in ("id", "name")})
        for row in motors()
    )


def test_a_twin_goes_as_its_twin_in_the_mirror():
    """What turns about an axis along the figure goes the other way on the other side: to a mirror's eye the same."""
    joint = Joint(id="arm", name="left arm", at_mm=(0.0, 60.0, 100.0), axis=(0.7, 0.5, 0.0), range_deg=(-30.0, 50.0))
    motor = Motor(
        id="m",
        name="left motor",
        joint="arm",
        sort="mains",
        torque_Nm=1.0,
        pins_deg=(-30.0, 50.0),
        way="either",
        fixed="flat",
    )
    figure = Figure(
        joints=(joint,),
        parts=(part("left_hand", "arm", 300.0, (40.0, 100.0, 90.0)),),
        elements=(motor,),
        postures=(Posture(id="lean", name="lean", lean_deg=12.0),),
    )
    edit, _ = twin_joint(figure, "arm")
    found = told(apply(figure, edit))
    mine = found["turning.m"]
    theirs = next(f for ident, f in found.items() if ident.count(".") == 1 and ident != "turning.m")
    assert theirs.verdict == mine.verdict and theirs.reserve == pytest.approx(mine.reserve, rel=1e-5)


def test_what_is_asked_both_ways_is_the_harder():
    figure = arm(way="either")
    spring = arm(at=(80.0, 0.0, 0.0), way="plus")
    has = turns_of(figure.elements[0], Assumptions())
    found = found_of(figure)
    assert reserve(found, "either", has) == pytest.approx(
        min(reserve(found, "plus", has), reserve(found, "minus", has))
    )
    assert reserve(found_of(spring), "plus", has) >= reserve(found, "either", has) * (1 - 1e-9)


@pytest.mark.parametrize(
    "fields", [{}, {"way": "minus"}, {"pins_deg": (-40.0, 30.0), "way": "either"}, {"through": NORTON}]
)
def test_while_a_score_runs_it_turns_on(fields):
    """Its place goes on as its turns a minute say, speed and acceleration are the derivatives of it; what follows it goes along."""
    figure = arm(sort="mains", mains_Hz=60, label_Hz=50, **fields)
    tree = build_tree(figure)
    motion = score_motion(figure, tree, tree.rest, Tracks())
    times = np.linspace(0.0, 9.99, 2000) + 0.0013
    q, qd, qdd = (each[0] for each in motion.state(times))
    turn = 60 / (5.0 * 60 / 50)
    if not fields or ("way" in fields and "pins_deg" not in fields):
        way = -1.0 if fields.get("way") == "minus" else 1.0
        assert np.angle(np.exp(1j * (q - way * 2 * math.pi * times / turn))) == pytest.approx(
            np.zeros(len(times)), abs=1e-9
        )
    elif "pins_deg" in fields:
        assert q.max() == pytest.approx(math.radians(30.0), abs=0.02) and q.min() == pytest.approx(
            math.radians(-40.0), abs=0.02
        )
        assert np.abs(qd) == pytest.approx(np.full(len(times), 2 * math.pi / turn))
    else:
        there = swung(linkage_of(NORTON), 2 * math.pi * times / turn)
        assert q == pytest.approx(there.joint, abs=1e-4) and qd == pytest.approx(
            there.ratio * 2 * math.pi / turn, abs=6e-3
        )
        summed = np.concatenate([[0.0], np.cumsum(0.5 * (qdd[1:] + qdd[:-1]) * np.diff(times))])
        assert summed == pytest.approx(qd - qd[0], abs=2e-2)
    assert (
        found_of(figure).swing == pytest.approx((q.min(), q.max()), abs=0.05)
        or not fields
        or "minus" in fields.values()
    )


def test_what_a_motor_carries_round_is_in_the_load_of_what_carries_it():
    """A servo that holds the base of a turning arm: over the score its load goes up and down with the arm, as inverse dynamics has it."""
    neck = Joint(id="neck", name="neck", axis=Y, range_deg=(-20.0, 20.0))
    turning = arm(sort="mains", turns_per_min=20.0)
    on = Joint(**(dict(turning.joints[0]) | {"rides_on": "neck", "at_mm": (0.0, 0.0, 100.0)}))
    servo = Drive(id="d", joint="neck", actuator=servo_class("class_20"))
    lamp = Part(**(dict(turning.parts[0]) | {"at_mm": (80.0, 0.0, 100.0)}))
    channel = JointChannel(id="nod", name="Nod", joints=("neck",), moves=moves_of([Row(0.5, 0.4, 5.0)]))
    score = Score(length_s=3.0, channels=(channel,))
    figure = Figure(joints=(neck, on), parts=(lamp,), drives=(servo,), elements=turning.elements, scores=(score,))
    loads = study(figure, Reuse()).results.loads
    swings = loads.of(0).effort[12:]
    assert swings.max() - swings.min() > 0.5 * 0.4 * G * 0.08


@pytest.mark.parametrize("written", [False, True])
def test_a_joint_that_nothing_drove_hangs_no_more_once_a_motor_turns_it(written):
    """By the window's edit, which says that it is driven, or by a file that says both: held by the motor it does not tip over."""
    figure = arm(at=(0.0, 0.0, 80.0))
    free = apply(figure, Edit("free", (Set(("joints", "arm", "role"), "free"), Set(("elements",), ()))))
    assert any(f.rule == "hangs" for f in study(free, Reuse()).findings)
    if written:
        again = Figure(**(dict(free) | {"elements": figure.elements}))
    else:
        again = apply(free, add_element(free, "motor", "arm"))
        assert again.joint("arm").role == "driven"
    findings = study(again, Reuse()).findings
    assert any(f.rule == "turning" for f in findings) and not any(f.rule == "hangs" for f in findings)
