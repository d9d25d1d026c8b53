"""A servo's loop with what it turns: against closed forms, against MuJoCo under the same law, and as laws over random trains."""

import math

import mujoco
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.linalg import expm

from karakuri.actuators.position_loop import FRAME_S, Pulsed, Train, answer, exponential
from karakuri.catalogue import servo_class
from karakuri.checks.shakes import propose
from karakuri.model.drive import Drive, Mount
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint, Move
from karakuri.model.part import Sphere
from karakuri.sizing.give import give_of
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, Z, part

RIGID = 1e5
TRAINS = st.builds(
    lambda stall, free, motor, load, degrees, outside, play, dead, band, rub: Train(
        stall, free, motor * stall * 1e-3, load * stall * 1e-2, stall / math.radians(degrees), outside, math.radians(play),
        math.radians(dead), math.radians(band), rub * stall, rub * stall, 0.0, 0.03,
    ),
    st.floats(0.05, 5), st.floats(4, 12), st.floats(0.05, 1), st.floats(0.01, 3), st.floats(0.2, 4), st.floats(0.05, 0.9), st.floats(0, 1.2),
    st.floats(0, 0.4), st.floats(3, 10), st.floats(0.005, 0.05),
)  # fmt: skip


def told(degrees: float) -> np.ndarray:
    return np.array([math.radians(degrees)])


@given(zeta=st.floats(0.12, 0.8), swings=st.floats(1.5, 8.0))
@settings(max_examples=30, deadline=None)
def test_a_stiff_train_answers_a_small_step_as_a_second_order_system(zeta, swings):
    """Overshoot exp(−π ζ ÷ √(1 − ζ²)) and its time π ÷ (ω √(1 − ζ²)) (Ogata, Modern Control Engineering, from memory: 0.2 → 52.7 %)."""
    omega, band, j = 2 * math.pi * swings, math.radians(5.0), 2e-3
    stall = omega**2 * j * band
    free = stall / (2 * zeta * omega * j)
    train = Train(stall, free, 0.5 * j, 0.5 * j, RIGID, 0.0, 0.0, 0.0, band)
    found = answer(train, told(3.0))
    assert found.past / math.radians(3.0) == pytest.approx(
        math.exp(-math.pi * zeta / math.sqrt(1 - zeta**2)), abs=0.012
    )
    assert train.damping == pytest.approx(zeta) and train.natural_Hz == pytest.approx(swings, rel=1e-3)
    peak = float(found.places.argmax()) * found.step
    assert peak == pytest.approx(math.pi / (omega * math.sqrt(1 - zeta**2)), abs=0.004)


def in_mujoco(train: Train, frames: np.ndarray, seconds: float, each: float) -> np.ndarray:
    """The load's place each so many s: two inertias on one axis in MuJoCo, its own friction and integrator, the law as torques from outside."""
    dt = 5e-5
    model = mujoco.MjModel.from_xml_string(
        f'<mujoco><option timestep="{dt}" gravity="0 0 0" integrator="Euler"/><worldbody>'
        f'<body><joint name="m" type="hinge" axis="0 0 1" frictionloss="{train.rubs_motor}"/><inertial pos="0 0 0" mass="1" diaginertia="1 1 {train.motor}"/></body>'
        f'<body><joint name="l" type="hinge" axis="0 0 1" frictionloss="{train.rubs_load}"/><inertial pos="0 0 0" mass="1" diaginertia="1 1 {train.load}"/></body>'
        "</worldbody></mujoco>"
    )  # fmt: skip
    data = mujoco.MjData(model)
    damps = 2 * train.loss * math.sqrt(train.stiff * train.load)
    out = []
    for n in range(round(seconds / dt)):
        target = frames[min(int(n * dt / FRAME_S + 1e-9), len(frames) - 1)]
        twist = data.qpos[0] - data.qpos[1]
        over = max(abs(twist) - train.play / 2, 0.0) * np.sign(twist)
        spring = train.stiff * over + (damps * (data.qvel[0] - data.qvel[1]) if over else 0.0)
        off = target - data.qpos[1] - train.outside * over
        u = float(np.clip(max(abs(off) - train.dead, 0.0) / train.band, 0, 1)) * np.sign(off)
        data.qfrc_applied[:] = train.stall * (u - data.qvel[0] / train.free) - spring, spring
        if n % round(each / dt) == 0:
            out.append(float(data.qpos[1]))
        mujoco.mj_step(model, data)
    return np.array(out)


@pytest.mark.parametrize("seed", range(6))
def test_mujoco_moves_the_same_train_the_same_way(seed):
    rng = np.random.default_rng(seed)
    stall = float(rng.uniform(0.2, 3))
    train = Train(
        stall, float(rng.uniform(5, 10)), stall * float(rng.uniform(2e-4, 6e-4)), stall * float(rng.uniform(1e-3, 1e-2)),
        stall / math.radians(rng.uniform(1, 4)), float(rng.uniform(0.1, 0.8)), math.radians(rng.uniform(0, 0.8)) * (seed % 2),
        math.radians(0.2), math.radians(rng.uniform(3, 8)), 0.03 * stall, 0.01 * stall, 0.0, 0.03,
    )  # fmt: skip
    by = float(rng.uniform(10, 60))
    frames = np.radians(by * np.minimum(np.arange(1, 11) / 10, 1.0) ** 2) if seed % 3 else told(by)
    ours = answer(train, frames)
    theirs = in_mujoco(train, frames, min(len(ours.places) * ours.step, 0.8), ours.step)
    n = min(len(theirs), len(ours.places))
    assert np.abs(ours.places[:n] - theirs[:n]).max() < math.radians(0.012 * by + 0.1)
    assert max(theirs) == pytest.approx(max(ours.places[:n]), abs=math.radians(0.004 * by + 0.1))


@given(train=TRAINS, by=st.floats(5, 60), k=st.floats(0.2, 5))
@settings(max_examples=25, deadline=None)
def test_scaled_it_is_the_same_and_mirrored_it_is_mirrored(train, by, k):
    base = answer(train, told(by))
    scaled = replace(
        train, **{f: getattr(train, f) * k for f in ("stall", "motor", "load", "stiff", "rubs_motor", "rubs_load")}
    )
    assert answer(scaled, told(by)).past == pytest.approx(base.past, abs=math.radians(0.05))
    other = answer(train, told(-by))
    assert other.past == pytest.approx(base.past, abs=1e-9) and other.way == -base.way


@given(train=TRAINS, by=st.floats(5, 60), more=st.floats(1.3, 4))
@settings(max_examples=25, deadline=None)
def test_a_heavier_load_on_a_stiff_train_never_runs_past_less(train, by, more):
    stiff = replace(train, stiff=RIGID * train.stall, play=0.0, dead=0.0, rubs_motor=0.0, rubs_load=0.0)
    one, other = (answer(replace(stiff, load=stiff.load * f), told(by)).past for f in (1.0, more))
    assert other >= one - math.radians(0.02)


def test_what_plays_freely_hunts_until_its_dead_band_is_wider():
    """A dead band wider than the play stops the hunting (any text on describing functions, e.g. Gelb & Vander Velde, from memory)."""
    train = Train(0.13, 8.7, 2e-5, 2.7e-3, 0.13 / math.radians(3), 0.4, math.radians(1.0), math.radians(0.05), math.radians(5), 0.0, 0.0, 0.0, 0.0)  # fmt: skip
    assert not answer(train, told(5.0)).rests and answer(train, told(5.0)).starts > 0
    assert answer(replace(train, rubs_load=0.003, dead=math.radians(1.2)), told(5.0)).rests


def test_what_pulls_at_rest_is_no_movement():
    train = Train(1.0, 8.0, 1e-4, 3e-3, 30.0, 0.5, 0.01, 0.003, 0.08, 0.03, 0.01, 0.4, 0.03)
    assert np.abs(answer(train, np.zeros(1)).places).max() < 1e-9


@given(dead=st.floats(0.2, 4.0), on=st.floats(2, 30))
@settings(max_examples=20, deadline=None)
def test_a_loop_of_ones_own_rests_where_a_pulse_moves_it_less_than_its_dead_zone(dead, on):
    """By hand: a pulse turns it at most by free speed × (on + the time it takes to stop); well inside the dead zone it rests in there."""
    own = Pulsed(on / 1e3, 0.05, math.radians(dead), math.radians(270 / 4096))
    train = Train(2.0, 2.0, 2e-3, 2e-3, 2000.0, 0.5, 0.0, 0.0, 0.1, 0.1, 0.1, 0.0, 0.03, own)
    found = answer(train, told(8.0))
    stops = train.free * (train.motor + train.load) / (train.rubs_motor + train.rubs_load)
    step = math.degrees(train.free * (on / 1e3 + stops))
    if step < 1.5 * dead:
        assert found.rests and abs(math.degrees(found.ends) - 8.0) <= dead + 0.2
    if found.rests:
        assert abs(math.degrees(found.ends) - 8.0) <= dead + 0.2


def hollow(servo="class_1_6", grams=500.0, mount=None, **move) -> Figure:
    """A hollow head of 0.5 kg that shakes 'no'."""
    joint = Joint(
        id="p",
        name="Pan",
        axis=Z,
        range_deg=(-45.0, 45.0),
        move=Move(**({"by": 60.0, "time_s": 2.0, "profile": "sudden"} | move)),
    )
    shell = part("m", "p", grams, (0.0, 0.0, 90.0), Sphere(radius_mm=90.0, wall_mm=3.0))
    drive = Drive(id="d", joint="p", actuator=servo_class(servo), mount=mount or Mount())
    return Figure(joints=(joint,), parts=(shell,), drives=(drive,))


def test_a_hollow_head_on_a_plastic_micro_shakes():
    """By hand: J ≈ ⅔ m r² = 2.7 g·m², 0.13 N·m at 5° off: some 4 swings a second, hardly calmed; seen on benches (common practice)."""
    told = study(hollow()).finding("shakes.p")
    assert told.verdict == "fails" and "shakes after a move" in told.sentence.text
    found = study(hollow()).results.found["shakes"]["p"]
    assert 10 < math.degrees(found.past) < 30 and 0.8 < found.rested < 2.5 and 2.5 < found.train.natural_Hz < 4.5
    assert study(hollow(time_s=2.0, profile="minimum jerk")).finding("shakes.p").verdict == "holds"


def test_its_remedies_ease_stiffen_and_rub_and_say_what_they_gave():
    before, reuse = study(hollow()), Reuse()
    found = remedies(before, before.finding("shakes.p"), reuse)
    names = " | ".join(r.edit.name for r in found)
    assert "ease" in names and "fit class" in names and len(found) >= 2
    for remedy in found:
        after = study(apply(before.figure, remedy.edit)).finding("shakes.p")
        assert after is None or after.verdict != "fails"


def test_a_pivot_nearer_to_what_it_carries_is_a_shorter_lever():
    """Half the way leaves a quarter of m r² (parallel-axis theorem) and a swing the faster; across the axis only."""
    figure = hollow("class_20")
    nods = Joint(**(dict(figure.joints[0]) | {"axis": Y, "at_mm": (0.0, 30.0, -60.0)}))
    lump = part("m", "p", 500.0, (0.0, 0.0, 90.0))
    figure = Figure(**(dict(figure) | {"joints": (nods,), "parts": (lump,)}))
    done = study(figure)
    told = done.finding("shakes.p")
    offered = [p for p in propose(told, done.results) if p.group == "lever"]
    assert offered[0].edit.steps[0].value == (0.0, 30.0, 15.0)
    after = study(apply(figure, offered[0].edit)).results.found["shakes"]["p"]
    before = done.results.found["shakes"]["p"]
    assert after.train.load == pytest.approx(before.train.load / 4, rel=0.02)
    assert after.past < before.past and after.train.natural_Hz > 1.4 * before.train.natural_Hz


def test_a_hand_that_drags_keeps_what_was_told():
    settled = study(hollow())
    moved = apply(settled.figure, Edit("move", (Set(("parts", "m", "at_mm"), (0.0, 1.0, 90.0)),)))
    quick = study(moved, Reuse(), quick=True, base=settled)
    assert quick.finding("shakes.p") is settled.finding("shakes.p") and not quick.settled


def test_what_gives_adds_up_as_springs_in_a_row():
    for mount in (Mount(), Mount(horn="metal", bracket="foam")):
        give = give_of(Drive(id="d", joint="p", actuator=servo_class("class_10"), mount=mount))
        assert 1 / give.whole == pytest.approx(1 / give.gears + 1 / give.horn + 1 / give.bracket)
        assert give.outside == pytest.approx(1 - give.whole / give.gears)


def test_the_exponential_is_the_library_s():
    rng = np.random.default_rng(5)
    for size in (0.0, 1e-3, 1.0, 30.0):
        a = rng.normal(size=(6, 6)) * size
        assert np.allclose(exponential(a), expm(a), rtol=1e-9, atol=1e-12 * max(1.0, float(np.abs(expm(a)).max())))
