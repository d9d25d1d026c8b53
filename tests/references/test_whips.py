"""What a score does to a rod by throwing it about: against SciPy's integration of a swinging mass, against MuJoCo's, by hand, and as laws."""

import math

import mujoco
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.integrate import solve_ivp

from karakuri.bodies.tree import build_tree
from karakuri.checks.contract import FLICKS, RODS, WHIPS
from karakuri.mechanics.swing import felt
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint, Move
from karakuri.model.moves import Row
from karakuri.model.rod import Rod
from karakuri.model.score_edits import stretch_all
from karakuri.sizing.rods import beam_of, sways_at
from karakuri.sizing.whipped import STEP_S, whipped, worse
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import scored

G = 9.80665
LEVEL = np.array([[0.0, 0.0, -G]])


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 60.0), st.floats(0.005, 0.3), st.integers(0, 1000))
def test_what_is_felt_is_what_an_integration_of_the_swing_finds(frequency, damping, seed):
    """x″ + 2ζω x′ + ω² x = b with b straight between samples, by SciPy's Runge-Kutta of 8th order."""
    b = np.cumsum(np.random.default_rng(seed).normal(0, 3, 60))
    ours = felt(b, 0.02, frequency, damping)
    omega, t = 2 * math.pi * frequency, np.arange(60) * 0.02

    def goes(now, state):
        return state[1], np.interp(now, t, b) - 2 * damping * omega * state[1] - omega**2 * state[0]

    found = solve_ivp(goes, (0, t[-1]), (b[0] / omega**2, 0.0), t_eval=t, method="DOP853", rtol=1e-9, atol=1e-12, max_step=0.005)  # fmt: skip
    assert np.abs(ours - found.y[0] * omega**2).max() < 1e-4 * np.abs(b).max()


def test_what_is_pushed_at_once_feels_twice_and_what_is_pushed_slowly_once():
    """Any text on vibration: a step is answered with 1 + e^(−πζ ÷ √(1−ζ²)), next to 2; a ramp over many swings with next to 1."""
    step = np.r_[0.0, np.ones(4000)]
    assert felt(step, 0.001, 3.0, 0.01).max() == pytest.approx(1 + math.exp(-math.pi * 0.01), rel=1e-3)
    slow = np.minimum(np.arange(20000) / 10000, 1.0)
    assert felt(slow, 0.001, 3.0, 0.01).max() == pytest.approx(1.0, abs=0.02)


def waving(*rows, stuff="beech", thick=6.0, long=300.0, grams=60.0, length_s=4.0, **fields) -> Figure:
    """A stick upright on a nod, with a weight on its tip."""
    figure = scored(*rows, servo="class_60", length_s=length_s)
    joint = figure.joints[0]
    foot = (joint.at_mm[0], joint.at_mm[1], joint.at_mm[2] + 20.0)
    stick = Rod(**({"id": "s", "name": "stick", "rides_on": "tilt", "at_mm": foot, "tip_mm": (foot[0], foot[1], foot[2] + long), "stuff": stuff, "thick_mm": thick, "load_g": grams} | fields))  # fmt: skip
    return Figure(**(dict(figure) | {"rods": (stick,)}))


def over(figure):
    """The whole score as one stretch."""
    from karakuri.mechanics.starts import rest_pose
    from karakuri.motion.score_motion import Tracks, score_motion

    tree = build_tree(figure)
    times = np.arange(0.0, figure.score.length_s, STEP_S)
    q, _, _ = score_motion(figure, tree, rest_pose(tree), Tracks()).state(times)
    return whipped(tree, figure.rods[0], 0, LEVEL, times, q[:, None, :]), tree, times, q


@pytest.mark.parametrize(("takes", "thick"), [(0.15, 5.0), (0.3, 4.0), (0.5, 6.0), (0.25, 8.0)])
def test_a_weight_on_a_stick_is_thrown_as_in_mujoco(takes, thick):
    """The stick as two springy hinges of MuJoCo at its foot, one each way, with the stiffness that gives its tip the same sway; the nod's hinge moved as the score says. What bends it is the springs' torque."""
    figure = waving(Row(0.2, takes, 28.0), Row(1.2, takes, -28.0), thick=thick)
    figure = apply(figure, Edit("as it is", (Set(("assumptions", "growth_percent"), 0.0),)))
    rod, tree = figure.rods[0], build_tree(figure)
    found, _, times, _ = over(figure)
    beam = beam_of(rod)
    mass, length, f = 0.06 + 0.236 * beam.mass, beam.length, sways_at(tree, rod)
    stiff = (2 * math.pi * f) ** 2 * mass * length**2
    damp = 2 * 0.01 * 2 * math.pi * f * mass * length**2
    model = mujoco.MjModel.from_xml_string(
        f'<mujoco><option timestep="0.0002" integrator="implicit"/><worldbody><body mocap="true" name="nod"/><body name="arm"><joint name="nod" axis="0 1 0" armature="1000"/>'
        f'<geom type="sphere" size="0.001" mass="0.001"/><body pos="0 0 0.02"><joint name="a" axis="0 1 0" stiffness="{stiff}" damping="{damp}"/><joint name="b" axis="1 0 0" stiffness="{stiff}" damping="{damp}"/>'
        f'<geom type="sphere" size="0.001" pos="0 0 {length}" mass="{mass}"/></body></body></worldbody></mujoco>'
    )
    data = mujoco.MjData(model)
    from karakuri.mechanics.starts import rest_pose
    from karakuri.motion.score_motion import Tracks, score_motion

    steps = np.arange(0.0, times[-1], model.opt.timestep)
    place, speed, pushed = score_motion(figure, tree, rest_pose(tree), Tracks()).state(steps)
    worst = 0.0
    for k in range(len(steps)):
        data.qpos[0], data.qvel[0] = place[0, k], speed[0, k]
        data.qfrc_applied[0] = 1000.0 * pushed[0, k]
        mujoco.mj_step(model, data)
        worst = max(worst, stiff * abs(float(data.qpos[1])))
    stress = worst * beam.radius / beam.second
    # the stick's own weight counts a little otherwise at its foot than at its tip, and a hinge leans farther than a beam bends
    assert found.bent.stress == pytest.approx(stress, rel=0.12)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.15, 0.5), st.floats(4, 12), st.floats(10, 200), st.floats(1.5, 4.0))
def test_a_slow_score_asks_what_weight_asks(takes, thick, grams, by):
    """Stretched fifty times it asks no more than standing at its ends does; and a firmer rod never bears less of it."""
    figure = waving(Row(0.2, takes, 28.0), Row(1.2, takes, -28.0), thick=thick, grams=grams)
    slow, *_ = over(apply(figure, stretch_all(figure, 30.0)))
    (standing,) = study(figure, Reuse()).results[RODS]
    assert slow.bent.stress <= standing.stressed.stress * 1.05
    quick, *_ = over(figure)
    assert quick.bent.stress >= slow.bent.stress * 0.999


def told(figure):
    found = study(figure, Reuse())
    return found, next((f for f in found.findings if f.rule == "whips"), None)


def test_what_a_bump_asks_anyway_is_not_told_again_and_what_is_more_is():
    calm, none = told(waving(Row(0.3, 1.2, 10.0), thick=8.0, grams=40.0))
    assert none is None and calm.results[WHIPS][0].reserve > 1
    figure = waving(Row(0.3, 0.12, 28.0), Row(1.0, 0.12, -28.0), Row(1.7, 0.12, 28.0), thick=6.0, grams=150.0)
    wild, whips = told(figure)
    assert whips is not None and whips.verdict == "fails" and "breaks" in whips.sentence.text
    rods = next(f for f in wild.findings if f.rule == "rods")
    assert whips.reserve < wild.results[RODS][0].reserves(0.02)["bends"] and rods.subject == whips.subject
    assert whips.at_s == wild.results[WHIPS][0].at_s
    assert any(remedy.verdict in ("holds", "tight") for remedy in remedies(wild, whips, Reuse()))


def test_a_sudden_move_whips_too():
    soft, hard = (told(waving(Row(0.3, takes, 20.0, profile)))[0].results[WHIPS][0] for takes, profile in ((0.8, "minimum jerk"), (0.0, "sudden")))  # fmt: skip
    assert hard.hard > 1.5 * soft.hard and hard.reserve < soft.reserve


def test_a_sudden_move_is_the_same_as_one_in_its_least_time_sped_up_half_the_way():
    sudden = told(waving(Row(0.3, 0.0, 20.0, "sudden")))[0].results
    least = float(sudden.loads.joints[0].moves.least[0])
    written = told(waving(Row(0.3, round(least, 4), 20.0, "trapezoid", 0.5)))[0].results
    assert sudden[WHIPS][0].reserve == pytest.approx(written[WHIPS][0].reserve, rel=0.08)


def test_what_swings_on_from_one_stretch_into_the_next_is_felt_there():
    """Two moves in the rhythm of the stick, one on either side of where stretches part: as over the whole in one go; alone either asks less."""

    def swinging(*at):
        return waving(*(Row(t, 0.14, target) for t, target in zip(at, (4.0, 0.0), strict=False)), thick=6.0, grams=100.0, length_s=24.0)  # fmt: skip

    pace = told(swinging(1.0))[0].results[WHIPS][0].sways
    both = swinging(19.75, 19.75 + 1.5 / pace)
    whole, *_ = over(both)
    found = told(both)[0].results[WHIPS][0]
    alone = told(swinging(19.75))[0].results[WHIPS][0]
    assert found.at_s > 20.0 and found.reserve == pytest.approx(whole.reserve, rel=0.02)
    assert found.reserve < 0.8 * alone.reserve


def test_how_fast_it_sways_is_an_estimate_and_low_knows_it():
    """Off the rhythm of its moves by a seventh: as reckoned it is shaken less than where it sways a little slower."""
    rows = [Row(0.3 + 0.2 * k, 0.2, 4.0 * (k % 2 == 0)) for k in range(12)]
    found = [told(waving(*rows, thick=thick, grams=100.0))[0].results[WHIPS][0] for thick in np.linspace(4.0, 9.0, 11)]
    assert all(each.low <= each.reserve * (1 + 1e-9) for each in found)
    assert any(each.low < 0.7 * each.reserve for each in found) and any(each.low > 0.9 * each.reserve for each in found)


def test_the_least_of_all_postures_stretches_and_moves_is_low():
    """Where one leaves less as reckoned and the other less a little off that, the reserve is of the first and low of the second."""
    found = [told(waving(Row(0.3, takes, 20.0)))[0].results[WHIPS][0] for takes in (0.2, 0.5)]
    first, second = sorted((replace(each, reserve=reserve, low=low) for each, reserve, low in zip(found, (2.0, 3.0), (1.9, 0.5), strict=True)), key=lambda each: each.reserve)  # fmt: skip
    for both in (worse(first, second), worse(second, first)):
        assert (both.reserve, both.low, both.at_s) == (2.0, 0.5, first.at_s)


def test_a_pole_on_the_base_is_whipped_by_what_moves_at_its_tip():
    """Nothing moves the pole itself; the head that nods on it does."""
    head = scored(Row(0.3, 0.15, 28.0), servo="class_60")
    at = head.joints[0].at_mm
    pole = Rod(id="p", name="pole", at_mm=(at[0], at[1], at[2] - 400.0), tip_mm=at, stuff="beech", thick_mm=8.0, carries=("tilt",))  # fmt: skip
    still = Figure(**(dict(head) | {"rods": (pole,), "scores": (head.score.but(channels=()),)}))
    wanted = apply(still, Edit("wanted", (Set(("joints", "tilt", "move"), Move(by=50.0, time_s=0.15)),)))
    (flicked,) = study(wanted, Reuse()).results[FLICKS]
    (standing,) = study(wanted, Reuse()).results[RODS]
    assert flicked.of == "tilt" and flicked.bent.stress > 1.2 * standing.stressed.stress


def test_a_rod_pushed_into_a_socket_may_be_thrown_out_of_it():
    """Swung round its foot, its tip away from the pivot: what draws at it grows with the square of the pace."""
    figure = waving(Row(0.3, 0.12, 29.0), Row(0.8, 0.12, -29.0), stuff="steel", thick=10.0, long=250.0, grams=500.0, held="socket", depth_mm=10.0)  # fmt: skip
    found = told(figure)[0].results[WHIPS][0]
    assert found.what in ("slips", "bends") and math.isfinite(found.reserve)
    assert found.low <= found.reserve


def test_a_wanted_move_alone_whips_a_rod_too():
    """Without a score: as much as the same move from the same place does in one, and it is slowed."""
    moving = waving(Row(0.3, 0.15, -30.0), Row(1.3, 0.15, 28.0), thick=7.0, grams=150.0)
    channel = moving.score.channels[0]
    still = Figure(**(dict(moving) | {"scores": (moving.score.but(channels=()),)}))
    wanted = apply(still, Edit("wanted", (Set(("joints", "tilt", "move"), Move(by=58.0, time_s=0.15)),)))
    assert channel.joints == ("tilt",) and told(still)[1] is None
    found, whips = told(wanted)
    assert whips is not None and whips.at_s is None and "wanted move" in whips.sentence.text
    as_scored = told(moving)[0].results[WHIPS][0]
    assert found.results[FLICKS][0].reserve <= as_scored.reserve * 1.05
    assert found.results[FLICKS][0].reserve >= as_scored.reserve * 0.6
    assert any(remedy.edit.name.startswith("slow") for remedy in remedies(found, whips, Reuse()))


def test_a_pole_on_a_slide_is_whipped_by_the_wanted_move_of_the_slide():
    """Stiff, it is thrown as the slide goes: 5.774 × way ÷ time² at most (minimum jerk, any textbook on robot motion), and its weight."""
    pole = Rod(
        id="pole", name="pole", rides_on="slide", tip_mm=(0.0, 0.0, 120.0), stuff="steel", thick_mm=20.0, load_g=200.0
    )
    slide = Joint(id="slide", name="slide", kind="slide", axis=(1.0, 0.0, 0.0), range_mm=(0.0, 80.0))
    still = Figure(joints=(slide,), rods=(pole,))
    assert told(still)[1] is None and not told(still)[0].results[FLICKS]
    found, whips = told(still.but(joints=(slide.but(move=Move(by=60.0, time_s=0.12)),)))
    flick = found.results[FLICKS][0]
    assert flick.of == "slide" and flick.hard == pytest.approx(
        math.hypot((10 / 3**0.5) * 0.06 / 0.12**2, 9.80665), rel=0.1
    )
    assert whips is None or "slide on its wanted move" in whips.sentence.text
