"""Profiles, tracks and what a score asks: against constants, closed forms, finite differences and an online trajectory generator."""

import math

import numpy as np
import pytest
import ruckig
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.worst import drive_inertia
from karakuri.model.channel import JointChannel
from karakuri.model.edit import apply
from karakuri.model.moves import Row, moves_of
from karakuri.model.profiles import PROFILE_KINDS
from karakuri.model.score_edits import stretch_all
from karakuri.model.stand import Posture
from karakuri.motion.life.blinks import OPEN_S, SHUT_S
from karakuri.motion.life.glances import saccade_s
from karakuri.motion.profiles import PROFILES
from karakuri.motion.track import build_track
from karakuri.sizing.causes import causes
from karakuri.study.study import study
from tests.figures import fig1, scored

DEG = math.pi / 180


def track(*rows: Row, park: float = 0.0):
    return build_track(JointChannel(id="c", name="c", joints=("j",), park=park, moves=moves_of(list(rows))), DEG)


@pytest.mark.parametrize(
    ("kind", "shape", "v", "a"),
    [
        ("minimum jerk", 0.0, 1.875, 5.774),  # Flash & Hogan, J. Neurosci. 5 (1985)
        ("cosine", 0.0, 1.571, 4.935),  # Norton, Cam Design and Manufacturing Handbook, simple harmonic
        ("trapezoid", 1 / 3, 1.5, 4.5),  # Biagiotti & Melchiorri, Trajectory Planning (2008), 3.2
        ("trapezoid", 0.5, 2.0, 4.0),  # the triangle
    ],
)
def test_profile_constants(kind, shape, v, a):
    """Peak speed × T ÷ D and acceleration × T² ÷ D; all from memory of the sources."""
    moved = track(Row(0.0, 0.6, 30.0, kind, shape))
    t = np.linspace(0, 0.6 - 1e-9, 60001)
    _, speed, acceleration = moved.at(t)
    assert np.abs(speed).max() / DEG * 0.6 / 30 == pytest.approx(v, abs=6e-4)
    assert np.abs(acceleration).max() / DEG * 0.36 / 30 == pytest.approx(a, abs=6e-4)
    assert PROFILES[kind].peak_speed(shape) == pytest.approx(v, abs=6e-4)
    assert PROFILES[kind].peak_acceleration(shape) == pytest.approx(a, abs=6e-4)


def test_minimum_jerk_of_thirty_degrees():
    """30° in 0.6 s: 93.75 °/s and 8.397 rad/s² (Flash & Hogan's polynomial, worked)."""
    moved = track(Row(0.0, 0.6, 30.0))
    _, speed, acceleration = moved.at(np.linspace(0, 0.6, 20001))
    assert speed.max() / DEG == pytest.approx(93.75, abs=1e-4)
    assert acceleration.max() == pytest.approx(8.397, abs=1e-3)


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(PROFILE_KINDS), st.floats(0.05, 3), st.floats(-60, 60), st.floats(0.1, 0.9), st.floats(0.05, 0.5),
    st.floats(-60, 60),
)  # fmt: skip
def test_speed_and_acceleration_are_the_derivatives(kind, takes, target, cut, shape, second):
    """Central differences; also for a move that departs while another runs, which starts with the speed reached."""
    first = Row(0.1, takes, target, "minimum jerk")
    then = Row(0.1 + cut * takes, takes, second, kind, shape if kind in ("trapezoid", "following") else 0.0)
    moved = track(first, then)
    h = 1e-6 * takes
    t = 0.1 + cut * takes + takes * np.linspace(0.05, 0.95, 37)
    before, at, after = moved.at(t - h), moved.at(t), moved.at(t + h)
    scale = max(abs(target), abs(second), 1.0) * DEG / takes
    assert np.abs((after[0] - before[0]) / (2 * h) - at[1]).max() < 1e-4 * scale
    smooth = np.ones(len(t), bool)
    if kind == "trapezoid":
        s = (t - then.departs) / takes
        smooth = (np.abs(s - shape) > 1e-3) & (np.abs(s - 1 + shape) > 1e-3)
    assert np.abs((after[1] - before[1]) / (2 * h) - at[2])[smooth].max(initial=0) < 1e-3 * scale / takes * 10


@pytest.mark.parametrize("kind", ["minimum jerk", "cosine", "trapezoid"])
def test_place_and_speed_do_not_leap_where_moves_overlap(kind):
    shape = 0.3 if kind == "trapezoid" else 0.0
    moved = track(Row(0.0, 1.0, 40.0, kind, shape), Row(0.6, 0.5, -10.0, kind, shape), Row(0.8, 1.0, 5.0, kind, shape))
    for at in (0.6, 0.8):
        (a, b), (va, vb), _ = moved.at(np.array([at - 1e-9, at + 1e-9]))
        assert b == pytest.approx(a, abs=1e-7)
        assert vb == pytest.approx(va, rel=1e-5)
    assert moved.at(np.array([3.0]))[0][0] == pytest.approx(5 * DEG)


@pytest.mark.parametrize(
    ("distance", "v", "a"), [(60, 90, 400), (60, 300, 400), (5, 90, 400), (20, 200, 300), (120, 150, 900)]
)
def test_trapezoids_against_an_online_trajectory_generator(distance, v, a):
    """ruckig, jerk unlimited, is time-optimal under speed and acceleration: our trapezoid of its time and ramp is the same curve.
    Closed form: D/v + v/a, or 2 √(D/a) (Biagiotti & Melchiorri 2008)."""
    wish, made = ruckig.InputParameter(1), ruckig.Trajectory(1)
    wish.current_position, wish.target_position = [0.0], [float(distance)]
    wish.max_velocity, wish.max_acceleration = [float(v)], [float(a)]
    assert ruckig.Ruckig(1).calculate(wish, made) == ruckig.Result.Working
    takes = made.duration
    steady = distance / v + v / a
    assert takes == pytest.approx(steady if distance / v >= v / a else 2 * math.sqrt(distance / a))
    top = min(v, math.sqrt(distance * a))
    moved = track(Row(0.0, takes, distance, "trapezoid", top / a / takes))
    for t in np.linspace(0, takes * 0.999, 40):
        place, speed, _ = made.at_time(float(t))
        ours = moved.at(np.array([t]))
        assert ours[0][0] / DEG == pytest.approx(place[0], abs=1e-9)
        assert ours[1][0] / DEG == pytest.approx(speed[0], abs=1e-9)


def test_a_sudden_move_takes_at_least_what_the_free_speed_leaves():
    """ruckig with the free speed and the acceleration of stall torque, both more than the line ever gives together, is never slower."""
    figure = scored(Row(0.5, 0.1, 20.0, "sudden"), mass_g=20.0)
    results = study(figure).results
    played = results.loads.joints[0]
    from karakuri.sizing.response import response

    ((times, places),) = response(results.loads.motion.tracks[0], played, results.joints[0].can, figure.score.length_s)
    can = results.joints[0].can
    inertia = float(drive_inertia(results.tree, np.zeros((1, 1)), 0)[0]) + played.joint.reflected
    wish, made = ruckig.InputParameter(1), ruckig.Trajectory(1)
    wish.current_position, wish.target_position = [0.0], [20 * DEG]
    wish.max_velocity, wish.max_acceleration = [can.free_speed], [can.stall / inertia]
    ruckig.Ruckig(1).calculate(wish, made)
    assert made.duration <= times[-1] - 0.5 <= 2.0 * made.duration
    assert times[-1] - 0.5 == pytest.approx(played.moves.least[0])
    assert places[-1] == pytest.approx(20 * DEG)


def test_exponential_following_lags_by_its_time_constant():
    """First-order lag: 63.2 % after one time constant, 95.0 % after three (any control text, e.g. Ogata)."""
    moved = track(Row(0.0, 5.0, 10.0, "following", 0.2))
    assert moved.at(np.array([0.2, 0.6]))[0] / DEG == pytest.approx([6.321, 9.502], abs=1e-3)


@pytest.mark.parametrize(("angle", "ms"), [(5, 32), (10, 43), (20, 65)])
def test_saccades(angle, ms):
    """21 ms + 2.2 ms a degree: Carpenter, Movements of the Eyes (1988); from memory."""
    assert saccade_s(angle) * 1e3 == pytest.approx(ms, abs=0.5)


def test_blinks_shut_faster_than_they_open():
    """Closing about 92 ms, opening about 242 ms: VanderWerf et al., J. Neurophysiol. 89 (2003); from memory."""
    assert (SHUT_S, OPEN_S) == (0.092, 0.242)


def test_fig1_nod_played_as_a_score():
    """The worked neck nods −15 → +15° in 0.6 s: peak 0.6812 N·m at 0.5065 s, by fine sampling inside the move."""
    tree = build_tree(fig1())
    moved = track(Row(0.0, 0.6, 15.0), park=-15.0)
    t = np.linspace(0, 0.6, 4001)
    q, qd, qdd = (np.zeros((3, t.size)) for _ in range(3))
    q[1], qd[1], qdd[1] = moved.at(t)
    torque = inverse_dynamics(tree, q, qd, qdd, posture_gravity(Posture(id="l", name="l"), 9.80665))[1]
    k = int(np.argmax(np.abs(torque)))
    assert (abs(torque[k]), t[k]) == (pytest.approx(0.6812, abs=1e-4), pytest.approx(0.5065, abs=1e-3))


@pytest.mark.parametrize("by", [0.5, 0.8, 1.5, 3.0])
def test_time_scaling_of_torque(by):
    """τ = g + (τ0 − g) ÷ k² when everything takes k times as long: Hollerbach, ASME J. Dyn. Sys. 106 (1984)."""
    rows = (Row(0.2, 0.5, 25.0), Row(0.9, 0.4, -20.0), Row(1.5, 0.3, 10.0, "cosine"))
    fast, tree = track(*rows), build_tree(fig1())
    slow = track(*(r._replace(departs=r.departs * by, takes=r.takes * by) for r in rows))
    t = np.linspace(0, 2.0, 801)
    down = posture_gravity(Posture(id="l", name="l"), 9.80665)

    def torque(moved, times):
        q, qd, qdd = (np.zeros((3, times.size)) for _ in range(3))
        q[1], qd[1], qdd[1] = moved.at(times)
        still = np.zeros_like(q)
        return inverse_dynamics(tree, q, qd, qdd, down)[1], inverse_dynamics(tree, q, still, still, down)[1]

    (quick, held), (calm, held_too) = torque(fast, t), torque(slow, t * by)
    assert held_too == pytest.approx(held, abs=1e-9)
    assert calm == pytest.approx(held + (quick - held) / by**2, abs=1e-9)


def test_stretching_a_score_scales_its_torque_of_motion():
    figure = scored(Row(0.2, 0.3, 25.0), Row(1.0, 0.3, -20.0))
    before = study(figure).results.loads.joints[0]
    after = study(apply(figure, stretch_all(figure, 2.0))).results.loads.joints[0]
    assert after.top[0] == pytest.approx(before.top[0] / 2, rel=1e-6)
    assert after.hold[0] == pytest.approx(before.hold[0], rel=1e-3)
    assert after.peak[0] < before.peak[0]


def test_peaks_are_not_missed_between_samples():
    """A 90 ms move: the peak found inside it equals that of sampling a thousand times finer, within 0.2 %."""
    figure = scored(Row(0.505, 0.09, 12.0), Row(0.7, 0.09, 0.0))
    results = study(figure).results
    played, score = results.loads.joints[0], results.loads.motion
    t = np.linspace(0.505, 0.595, 90001)
    q, qd, qdd = score.state(t)
    fine = np.abs(inverse_dynamics(results.tree, q, qd, qdd, results.gravities[0])[0] + played.joint.reflected * qdd[0])
    assert played.moves.torque[0] == pytest.approx(fine.max() + played.joint.friction, rel=2e-3)
    free, stall = results.joints[0].can.free_speed, results.joints[0].can.stall
    assert played.moves.reserve[0] >= (1 - fine.max() / stall) / (np.abs(qd).max() / free) * 0.99


def test_causes_add_up_to_the_torque():
    """What each body asks, as a point at its place, sums to inverse dynamics when all bodies are points."""
    figure = scored(Row(0.2, 0.4, 25.0), Row(0.9, 0.3, -20.0))
    results = study(figure).results
    score, tree = results.loads.motion, results.tree
    for at in (0.31, 0.95, 1.05):
        q, qd, qdd = score.state(np.array([at]))
        whole = inverse_dynamics(tree, q, qd, qdd, results.gravities[0])[0, 0]
        told = causes(tree, score, 0, at, results.gravities)
        assert sum(by for _, by in told) == pytest.approx(whole, abs=2e-4 * max(1.0, abs(whole)))
