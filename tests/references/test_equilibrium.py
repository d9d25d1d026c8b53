"""What hangs free: where it comes to rest, against closed forms, MuJoCo and thousands of poses."""

import math

import mujoco
import numpy as np
import pytest

from karakuri.bodies.coordinates import complete as follow
from karakuri.bodies.cut import matter_to
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.cli.main import pose_report
from karakuri.mechanics.bends import slopes_and_bends
from karakuri.mechanics.equilibrium import complete, energy, equilibrium, stopped
from karakuri.mechanics.hanging import holding_curve, rests
from karakuri.mechanics.worst import drive_torque_Nm, worst_pose
from karakuri.model.element import Spring, Torsion
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint
from karakuri.study.study import study
from tests.figures import X, Y, head, part, random_elements, random_figure, strung
from tests.references.mujoco_twin import Twin, compensated

DOWN = np.array([0.0, 0.0, -9.80665])


def hanging(seed: int, joints: int = 5, kinds=("spring", "torsion", "elastic", "strut", "pad")) -> Figure:
    """A random figure in which most joints hang free, with elements between them."""
    rng = np.random.default_rng(seed)
    figure = random_elements(random_figure(seed, joints), seed, kinds)
    free = [
        Joint(**(dict(j) | {"role": "free" if i and rng.random() < 0.6 else "driven"}))
        for i, j in enumerate(figure.joints)
    ]
    return Figure(**(dict(figure) | {"joints": tuple(free)}))


def begun(tree, seed, n):
    rng = np.random.default_rng(seed)
    return tree.low[:, None] + rng.random((len(tree.ids), n)) * (tree.high - tree.low)[:, None]


def pivot(z_mm, spring=0.0, grams=1400.0, friction=0.0) -> Figure:
    """A head whose centre is z above its free pivot, with a spring about the pivot, N·m/rad."""
    joint = Joint(id="p", name="pivot", role="free", axis=Y, stops_deg=(-80.0, 80.0), friction_Nm=friction)
    coil = (Torsion(id="c", name="coil", joint="p", rate_Nm_per_deg=spring / math.degrees(1)),) if spring else ()
    return Figure(joints=(joint,), parts=(part("m", "p", grams, (0.0, 0.0, z_mm)),), elements=coil)


@pytest.mark.parametrize(
    ("z_mm", "spring", "stays"),
    [(20.0, 0.0, False), (-20.0, 0.0, True), (20.0, 0.27, False), (20.0, 0.28, True), (20.0, 0.5, True)],
)
def test_a_free_pivot(z_mm, spring, stays):
    """U″ = k − m g z: a centre below hangs, above it tips unless the spring is stiffer than m g z = 0.2746 N·m/rad (1.4 kg, 20 mm)."""
    tree = build_tree(pivot(z_mm, spring))
    upright = np.zeros((1, 1))
    bend = float(slopes_and_bends(tree, upright, DOWN[:, None])[1][0, 0, 0])
    assert bend == pytest.approx(spring - 1.4 * 9.80665 * z_mm / 1e3, rel=1e-6)
    left = abs(float(equilibrium(tree, upright, DOWN).q[0, 0]))
    assert (left < 1e-6) == stays
    if not stays and not spring:
        assert left == pytest.approx(math.radians(80.0))


def test_a_spring_too_soft_lets_it_lean_where_the_two_agree():
    """k θ = m g z sin θ, solved here by bisection."""
    tree = build_tree(pivot(20.0, 0.2))
    low, high = 0.1, math.radians(179)
    for _ in range(80):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if 0.2 * middle < 1.4 * 9.80665 * 0.020 * math.sin(middle) else (low, middle)
    there = equilibrium(tree, np.array([[0.2, -0.2]]), DOWN)
    assert (
        there.q[0] == pytest.approx([min(low, math.radians(80)), -min(low, math.radians(80))], abs=1e-7)
        and there.stable.all()
    )


def test_what_tips_goes_down_the_side_it_was_on():
    tree = build_tree(pivot(20.0))
    q = np.radians([[-79.0, -30.0, -0.1, 0.1, 30.0, 79.0]])
    for found in (equilibrium(tree, q, DOWN).q, complete(tree, q.copy(), DOWN)):
        assert np.degrees(found[0]) == pytest.approx([-80.0, -80.0, -80.0, 80.0, 80.0, 80.0])


def test_it_snaps_where_the_real_thing_snaps():
    """A lever under an over-centre spring stays on the side it was, and goes over only once it is taken past the top."""
    joint = Joint(id="p", name="lever", role="free", axis=Y, stops_deg=(-40.0, 40.0))
    spring = Spring(**strung("s", "base", "p", (0.0, 0.0, -60.0), (0.0, 0.0, 40.0)), free_mm=50.0, rate_N_per_mm=0.5)
    tree = build_tree(Figure(joints=(joint,), parts=(part("m", "p", 20.0, (0.0, 0.0, 40.0)),), elements=(spring,)))
    q = equilibrium(tree, np.radians([[-30.0, -1.0, 1.0, 30.0]]), DOWN)
    assert np.degrees(q.q[0]) == pytest.approx([-40.0, -40.0, 40.0, 40.0]) and q.at_stop.all()


@pytest.mark.parametrize("seed", range(12))
def test_slopes_and_bends_are_those_of_the_energy(seed):
    kinds = (
        "spring",
        "torsion",
        "elastic",
        "strut",
        "pad",
    )  # the force of magnets is drawn straight between places of a table
    figure = random_elements(random_figure(seed, 5, slides=True), seed, kinds, count=4)
    rng = np.random.default_rng(seed)
    made = [figure.joints[0]]
    for i, joint in enumerate(figure.joints[1:], 1):
        follows = (
            {"role": "follows", "follows": Follow(joint=f"j{i - 1}", ratio=0.7)}
            if rng.random() < 0.3
            else {"role": "free"}
        )
        made.append(Joint(**(dict(joint) | follows)))
    tree = build_tree(Figure(**(dict(figure) | {"joints": tuple(made)})))
    hangs, q, h = tree.coupling.hangs, follow(tree.coupling, begun(tree, seed, 6)), 1e-5
    pull = np.repeat(DOWN[:, None], 6, axis=1)
    slope, bend = slopes_and_bends(tree, q, pull)
    for a, k in enumerate(hangs):
        ahead, behind = (follow(tree.coupling, q + step * np.eye(len(q))[:, [k]]) for step in (h, -h))
        told = (energy(tree, ahead, DOWN) - energy(tree, behind, DOWN)) / (2 * h)
        assert slope[a] == pytest.approx(told, abs=1e-6 * (1 + np.abs(slope).max()))
        turned = (slopes_and_bends(tree, ahead, pull)[0] - slopes_and_bends(tree, behind, pull)[0]) / (2 * h)
        assert pytest.approx(turned, abs=1e-4 * (1 + np.abs(bend).max())) == bend[:, a].T


@pytest.mark.parametrize("seed", range(14))
def test_at_rest_nothing_pulls_and_touched_it_comes_back(seed):
    tree = build_tree(hanging(seed))
    hangs = list(tree.coupling.hangs)
    if not hangs:
        pytest.skip("nothing hangs in this one")
    found = equilibrium(tree, begun(tree, seed, 8), DOWN)
    assert found.converged.all() and found.stable.all()
    here = energy(tree, found.q, DOWN)
    rng = np.random.default_rng(seed)
    for _ in range(20):
        touched = found.q.copy()
        low, high = stopped(tree)
        touched[hangs] = np.clip(touched[hangs] + rng.normal(0, 2e-3, (len(hangs), 8)), low[:, None], high[:, None])
        assert (energy(tree, touched, DOWN) >= here - 1e-12).all()
        assert equilibrium(tree, touched, DOWN).q == pytest.approx(found.q, abs=1e-5)


@pytest.mark.parametrize("seed", range(10))
def test_rest_as_mujoco_has_it(seed):
    """Let go in MuJoCo, under heavy damping, springs as its tendons and joint springs: it ends where ours ends, from the same place."""
    figure = compensated(hanging(seed, 4, ("spring", "torsion")))
    tree = build_tree(figure)
    hangs = list(tree.coupling.hangs)
    q = begun(tree, seed, 1)
    found = equilibrium(tree, q, DOWN)
    if not hangs or found.at_stop[0]:
        pytest.skip("nothing hangs, or it leans against a stop")
    twin = Twin(figure)
    pose = dict(zip(tree.ids, found.q[:, 0].tolist(), strict=True))
    theirs = twin.inverse(pose)
    for h in hangs:
        assert abs(theirs[tree.ids[h]]) < 1e-6 * (1 + max(map(abs, theirs.values())))
    model, data = twin.model, twin.data
    free = [twin.dof(tree.ids[h]) for h in hangs]
    for k, ident in enumerate(tree.ids):
        data.qpos[twin.dof(ident)] = found.q[k, 0] + (0.05 if k in hangs else 0.0)
    still = [twin.dof(i) for i in tree.ids if twin.dof(i) not in free]
    data.qvel[:] = 0.0
    model.dof_damping[:] = 0.3
    model.dof_armature[still] = 1e9  # what is driven stays where it is
    for _ in range(60_000):
        mujoco.mj_step(model, data)
    ends = np.array([data.qpos[k] for k in free])
    assert ends == pytest.approx(found.q[hangs, 0], abs=2e-3)  # the softest ways still creep


@pytest.mark.parametrize("seed", [0, 2, 5])
def test_a_drive_that_carries_what_hangs(seed):
    """Its worst hold is over places where all that hangs is at rest; none of thousands of poses asks more."""
    figure = hanging(seed, 4, ("spring", "torsion"))
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    for j in range(4):
        if j in tree.coupling.hangs:
            continue
        found = worst_pose(tree, j, gravities)
        for g in gravities:
            q = complete(tree, begun(tree, seed, 300), g)
            assert abs(found.hold) >= float(np.abs(drive_torque_Nm(tree, j, q, g)).max()) * (1 - 1e-2) - 1e-9
        there = complete(tree, found.pose[:, None].copy(), gravities[found.posture])
        rows = list(matter_to(tree, j))
        assert there[rows, 0] == pytest.approx(found.pose[rows], abs=1e-5)


@pytest.mark.parametrize("seed", range(8))
def test_all_rests_over_a_range_are_told(seed):
    """Of a free pivot with a spring across it: every place that is told holds by itself, and letting go anywhere ends in one that stays."""
    rng = np.random.default_rng(seed)
    at = lambda: tuple(float(v) for v in rng.uniform(-90, 90, 3))  # noqa: E731
    joint = Joint(
        id="p", name="p", role="free", axis=tuple(float(v) for v in rng.normal(size=3)), stops_deg=(-120.0, 140.0)
    )
    spring = Spring(**strung("s", "base", "p", at(), at()), free_mm=20.0, rate_N_per_mm=0.3)
    tree = build_tree(Figure(joints=(joint,), parts=(part("m", "p", 300.0, at()),), elements=(spring,)))
    places, holds = holding_curve(tree, 0, tree.rest, DOWN, 721)
    found = rests(places, holds, True)
    let_go = equilibrium(tree, np.radians(np.linspace(-119, 139, 60))[None, :], DOWN)
    stays = np.array([rest.at for rest in found if rest.stays])
    assert len(stays) and all(np.abs(stays - q).min() < 2e-3 for q in let_go.q[0])
    inside = [rest for rest in found if -119 < math.degrees(rest.at) < 139]
    for rest in inside:
        near = equilibrium(tree, np.array([[rest.at - 0.02, rest.at + 0.02]]), DOWN).q[0]
        assert (np.abs(near - rest.at).max() < 2e-3) == rest.stays


def test_a_bell_on_an_arm_hangs():
    """Its weight acts at its pivot, whatever the arm does; one that rubs may be left anywhere, and counts so."""
    arm = Joint(id="arm", name="Arm", at_mm=(0.0, 0.0, 100.0), axis=Y, range_deg=(-30.0, 30.0))
    bell = Joint(id="bell", name="Bell", rides_on="arm", role="free", at_mm=(60.0, 0.0, 100.0), axis=Y)
    clapper = part("clapper", "bell", 300.0, (60.0, 0.0, 20.0))
    drive = head().drives[0]
    figure = Figure(joints=(arm, bell), parts=(clapper,), drives=(type(drive)(**(dict(drive) | {"joint": "arm"})),))
    assert study(figure).results.of("arm").hold.need == pytest.approx(0.3 * 9.80665 * 0.060, rel=1e-6)
    rubs = Figure(**(dict(figure) | {"joints": (arm, Joint(**(dict(bell) | {"friction_Nm": 1.0})))}))
    assert study(rubs).results.of("arm").hold.need == pytest.approx(0.3 * 9.80665 * 0.140, rel=2e-3)
    told = {row["joint"]: row["at_deg"] for row in pose_report(figure, ["arm=20"], None)["joints"]}
    assert told["bell"] == pytest.approx(-20.0, abs=1e-6)


def test_what_follows_what_hangs_goes_with_it():
    pan = Joint(id="a", name="a", role="free", axis=X, stops_deg=(-90.0, 90.0))
    other = Joint(
        id="b", name="b", role="follows", follows=Follow(joint="a", ratio=-2.0), axis=X, at_mm=(0.0, 50.0, 0.0)
    )
    figure = Figure(
        joints=(pan, other), parts=(part("m", "a", 100.0, (0.0, 10.0, -30.0)), part("n", "b", 80.0, (0.0, 70.0, 10.0)))
    )
    tree = build_tree(figure)
    found = equilibrium(tree, np.zeros((2, 1)), DOWN)
    assert found.converged.all() and found.q[1, 0] == pytest.approx(-2 * found.q[0, 0])
    best = min(
        float(energy(tree, np.array([[t], [-2 * t]]), DOWN)[0])
        for t in np.linspace(found.q[0, 0] - 0.2, found.q[0, 0] + 0.2, 401)
    )
    assert float(energy(tree, found.q, DOWN)[0]) <= best + 1e-12
