"""What a score asks of every drive, against MuJoCo's inverse dynamics; and what a servo makes of it, against MuJoCo's own servo."""

import math

import mujoco
import numpy as np
import pytest

from karakuri.bodies.tree import build_tree
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.worst import drive_inertia
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.sizing.response import response
from karakuri.study.study import study
from tests.figures import random_figure, scored
from tests.references.mujoco_twin import Twin, compensated
from tests.references.test_mujoco import solid_owl


def randomly_scored(seed: int) -> Figure:
    """A random tree whose every joint moves about, some moves overlapping, of every profile but the sudden one."""
    rng = np.random.default_rng(seed)
    figure = random_figure(seed, 2 + seed % 4)
    kinds = (("minimum jerk", 0.0), ("cosine", 0.0), ("trapezoid", 0.3))
    channels = []
    for joint in figure.joints:
        at, rows = 0.1, []
        for _ in range(6):
            kind, shape = kinds[int(rng.integers(3))]
            takes = float(rng.uniform(0.15, 0.6))
            rows.append(Row(round(at, 3), round(takes, 3), float(rng.uniform(*joint.range_deg)) * 0.5, kind, shape))
            at += takes * float(rng.uniform(0.7, 1.6))
        channels.append(JointChannel(id=f"{joint.id}_c", name=joint.name, joints=(joint.id,), moves=moves_of(rows)))
    return Figure(**(dict(figure) | {"scores": (Score(length_s=6.0, channels=tuple(channels)),)}))


@pytest.mark.parametrize("figure", [solid_owl(), *(randomly_scored(seed) for seed in range(6))], ids=lambda f: f.name)
def test_torque_over_the_score(figure):
    """At random moments of the score: our torque about every joint equals mj_inverse at the same place, speed and acceleration."""
    bare = compensated(figure)
    tree, twin = build_tree(bare), Twin(bare)
    score = score_motion(bare, tree, rest_pose(tree), Tracks())
    times = np.sort(np.random.default_rng(1).uniform(0, figure.score.length_s, 25))
    q, qd, qdd = score.state(times)
    down = np.array([0.0, 0.0, -9.80665])
    ours = inverse_dynamics(tree, q, qd, qdd, down)
    for i in range(len(times)):
        pose, speed, acceleration = (dict(zip(tree.ids, each[:, i], strict=True)) for each in (q, qd, qdd))
        theirs = twin.inverse(pose, speed, acceleration, down)
        scale = max(map(abs, theirs.values()))
        for j, ident in enumerate(tree.ids):
            assert ours[j, i] == pytest.approx(theirs[ident], rel=1e-9, abs=1e-9 * max(scale, 1e-6))


@pytest.mark.parametrize("seed", range(6))
def test_peaks_of_moves_are_those_of_mujoco(seed):
    """The largest torque our pages tell of each move is not exceeded by mj_inverse at a hundred moments inside it."""
    figure = randomly_scored(seed)
    figure = Figure(**(dict(figure) | {"assumptions": type(figure.assumptions)(growth_percent=0.0)}))
    bare = compensated(figure)
    twin, results = Twin(bare), study(bare).results
    score, tree = results.loads.motion, results.tree
    for played in results.loads.joints[:2]:
        if played.joint.channel < 0:
            continue
        track = score.tracks[played.joint.channel]
        for k in range(0, len(track.departs), 2):
            times = track.departs[k] + (track.ends[k] - track.departs[k]) * np.linspace(0, 1 - 1e-9, 100)
            q, qd, qdd = score.state(times)
            theirs = [
                twin.inverse(*(dict(zip(tree.ids, each[:, i], strict=True)) for each in (q, qd, qdd)), down)[tree.ids[played.joint.joint]]
                for down in results.gravities
                for i in range(len(times))
            ]  # fmt: skip
            most = np.abs(theirs).max()
            assert played.moves.torque[k] >= 0.985 * most
            assert played.moves.torque[k] <= 1.03 * most + played.joint.friction + 0.02 * played.peak[0]


@pytest.mark.parametrize("by", [15.0, 28.0])
def test_a_sudden_step_against_mujoco_servo(by):
    """MuJoCo plays the torque-speed line inside an actuator: torque = stall × (duty − speed ÷ free speed), duty 1 until it is there.

    Our response is a rate limit, an estimate: it has no inertia to speed up, so it is sooner there; here by less than 40 ms.
    """
    figure = scored(Row(0.2, 0.05, by, "sudden"), mass_g=30.0, length_s=2.0)
    figure = apply(figure, Edit("weightless", (Set(("assumptions", "gravity_mps2"), 1e-6),)))
    results = study(figure).results
    played, can = results.loads.joints[0], results.joints[0].can
    ((times, _),) = response(results.loads.motion.tracks[0], played, can, 2.0)
    ours = float(times[-1]) - 0.2
    inertia = float(drive_inertia(results.tree, np.zeros((1, 1)), 0)[0]) + played.joint.reflected
    model = mujoco.MjModel.from_xml_string(
        f"""<mujoco><option timestep="0.0005" gravity="0 0 0" integrator="implicit"/><worldbody><body>
        <joint name="j" type="hinge" axis="0 1 0"/><inertial pos="0 0 0" mass="1" diaginertia="{inertia} {inertia} {inertia}"/>
        </body></worldbody><actuator><general joint="j" gainprm="{can.stall}" biastype="affine"
        biasprm="0 0 {-can.stall / can.free_speed}" ctrllimited="true" ctrlrange="-1 1"/></actuator></mujoco>"""
    )
    data = mujoco.MjData(model)
    while data.qpos[0] < math.radians(by):
        data.ctrl[0] = 1.0
        mujoco.mj_step(model, data)
        assert data.time < 2.0
    assert ours <= data.time + 0.006
    assert data.time - ours < 0.04
