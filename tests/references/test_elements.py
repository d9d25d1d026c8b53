"""What pulls besides weight: closed forms and handbook cases, MuJoCo, energy, and brute force."""

import math

import numpy as np
import pytest

from karakuri.bodies.elements import LAWS, load_of
from karakuri.bodies.elements.coil import rate_N_per_m, rate_Nm_per_rad
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.catalogue import servo_class
from karakuri.mechanics.envelope import envelope, strung_alone
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import load_energy, load_torques
from karakuri.mechanics.statics import holding_torque_Nm, wrench_on
from karakuri.mechanics.worst import drive_torque_Nm, worst_pose
from karakuri.model.drive import Drive
from karakuri.model.element import Anchor, Coil, Elastic, Magnets, Pull, Spring, Torsion
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.sizing.hold import extremes, weighed
from karakuri.study.study import study
from tests.figures import Y, part, random_elements, random_figure, strung
from tests.references.mujoco_twin import Twin, compensated
from tests.references.test_followers_and_bounds import any_poses, following

DOWN = np.array([0.0, 0.0, -9.80665])


# ---- one element


def test_an_extension_spring_on_a_lever():
    """T = −F dL/dθ, F = F0 + k (L − L0): the project's own worked case, by hand: anchor (−20, 60), arm 45 mm, 350 N/m, 30 mm, 1.5 N."""
    spring = Spring(
        **strung("s", "base", "j", (-20.0, 0.0, 60.0), (45.0, 0.0, 0.0)),
        free_mm=30.0,
        rate_N_per_mm=0.35,
        tension_N=1.5,
    )
    tree = build_tree(Figure(joints=(Joint(id="j", name="j", range_deg=(-40.0, 40.0)),), elements=(spring,)))
    lifted = -np.radians([[-40.0, -20.0, 0.0, 20.0, 40.0]])  # the arm's tip up is nose-up, the negative way about +y
    assert holding_torque_Nm(tree, lifted, DOWN)[0] == pytest.approx([0.393, 0.575, 0.670, 0.662, 0.547], abs=5e-4)


def test_rates_of_coils():
    """Shigley, Mechanical Engineering Design, 10th ed., example 10-1 (from memory): music wire .037 in, mean .400 in, 10.5 active turns, 4.13 lbf/in
    with G 11.85 Mpsi; ours has a G of its own, so that the example is scaled by it. Torsion: E d⁴ ÷ (10.8 D N) a turn, by hand."""
    inch = 25.4
    coil = Coil(wire_mm=0.037 * inch, outer_mm=0.437 * inch, turns=10.5)
    in_lbf_per_in = rate_N_per_m(coil) / (4.4482216 / 0.0254) * (11.85e6 * 6894.757 / 79.3e9)
    assert in_lbf_per_in == pytest.approx(4.13, rel=2e-3)
    assert rate_N_per_m(Coil(wire_mm=0.8, outer_mm=7.0, turns=24)) == pytest.approx(710, rel=1e-3)
    assert rate_Nm_per_rad(Coil(wire_mm=1.0, outer_mm=10.0, turns=6)) * 2 * math.pi == pytest.approx(0.353, rel=2e-3)


def test_rubber_is_softer_than_hooke_once_it_is_drawn():
    """Ø4 rubber of 1.5 MPa drawn by half: 6.63 N, where Hooke's law would say 9.42 N; for small strain they agree (Treloar)."""
    law = load_of(
        Elastic(**strung("e", "base", "base", (0, 0, 0.0), (0, 0, 1.0)), free_mm=100.0, thick_mm=4.0), {"base": -1}
    ).law
    assert float(law.force(np.array([0.15]))[0]) == pytest.approx(6.63, abs=5e-3)
    hooke = 1.5e6 * math.pi * 0.002**2
    assert float(law.force(np.array([0.1001]))[0]) == pytest.approx(hooke * 1e-3, rel=2e-3)


def test_disc_magnets_on_steel():
    """Ø10 × 5 mm, N42 of 1.30 T, on thick steel: 23.9, 19.0, 12.8, 6.6, 2.2 N at 0.25 to 4 mm (by the integral of Vokoun et al., 2009, as
    another worked it out); as a pair at twice the gap the same."""

    def law(gap, on):
        way = strung("m", "base", "base", (0, 0, 0.0), (0, 0, 5.0))
        return LAWS["magnets"](Magnets(**way, wide_mm=10.0, thick_mm=5.0, gap_mm=gap, on=on))

    shut = np.array([0.005])
    for gap, newtons in ((0.25, 23.9), (0.5, 19.0), (1.0, 12.8), (2.0, 6.6), (4.0, 2.2)):
        assert float(law(gap, "thick steel").force(shut)[0]) == pytest.approx(newtons, abs=0.05)
        assert float(law(2 * gap, "magnet").force(shut)[0]) == pytest.approx(newtons, abs=0.05)
        opened = float(law(0.25, "thick steel").force(shut + (gap - 0.25) / 1e3)[0])
        assert opened == pytest.approx(newtons, abs=0.1)  # drawn straight between the places of its table
    assert float(law(0.5, "thin steel").force(shut)[0]) == pytest.approx(9.5, abs=0.05)


def test_a_ruler_and_a_scale_tell_a_rate():
    way = strung("s", "base", "base", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    hung = [Pull(length_mm=60.0 + grams / 1e3 * 9.80665 / 0.4, weight_g=grams) for grams in (300.0, 500.0, 800.0)]
    one = Spring(**way, free_mm=60.0, pulls=(hung[0],))
    assert float(LAWS["spring"](one).slope(np.array([0.2]))[0]) == pytest.approx(400.0, rel=1e-9)
    tight = LAWS["spring"](Spring(**way, free_mm=62.5, pulls=tuple(hung)))  # the same line: 1 N before its coils part
    assert float(tight.force(np.array([0.0625 + 2e-4]))[0]) == pytest.approx(1.08, abs=1e-5)
    assert float(tight.force(np.array([0.0625 - 1e-9]))[0]) == 0.0
    assert float(tight.force(np.array([hung[1].length_mm / 1e3]))[0]) == pytest.approx(0.5 * 9.80665, rel=1e-9)
    assert load_of(one, {"base": -1}).bound == pytest.approx(0.05)
    nonsense = Spring(
        **way,
        free_mm=60.0,
        pulls=(Pull(length_mm=60.0, weight_g=300.0),),
        coil=Coil(wire_mm=0.8, outer_mm=7.0, turns=24),
    )
    assert load_of(nonsense, {"base": -1}).bound == pytest.approx(0.30)  # a pull that tells nothing makes nothing surer
    told = build_tree(
        Figure(joints=(Joint(id="j", name="j"),), elements=(one, Spring(**(dict(nonsense) | {"id": "n"}))))
    )
    assert [source.origin for source in told.elements] == ["weighed", "guess"]
    assert load_of(Spring(**way, free_mm=60.0, rate_N_per_mm=0.4), {"base": -1}).bound == pytest.approx(0.30)


def test_a_spring_that_balances_at_every_angle():
    """A spring of no free length from straight above the pivot: k a b = m g L (Carwardine; Herder, Energy-free Systems, 2001, from memory)."""
    k = 1.4 * 9.80665 * 0.080 / (0.050 * 0.060)
    spring = Spring(**strung("s", "base", "j", (0.0, 0.0, 50.0), (0.0, 0.0, 60.0)), free_mm=0.01, rate_N_per_mm=k / 1e3)
    figure = Figure(
        joints=(Joint(id="j", name="j"),), parts=(part("m", "j", 1400.0, (0.0, 0.0, 80.0)),), elements=(spring,)
    )
    tree = build_tree(figure)
    q = np.radians(np.linspace(-150, 150, 61))[None, :]
    q = q[:, np.abs(q[0]) > 0.3]
    assert np.abs(holding_torque_Nm(tree, q, DOWN)).max() < 2e-3 * 1.4 * 9.80665 * 0.080


# ---- any element, any figure


@pytest.mark.parametrize("seed", range(12))
def test_torques_are_what_energy_says(seed):
    figure = random_elements(random_figure(seed, 4, slides=True), seed, count=4)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    q = any_poses(tree, rng, 12)
    step = 1e-6

    def energy(poses):
        return load_energy(tree, place(tree, poses), poses)

    torque = load_torques(tree, place(tree, q), q).sum(axis=0)
    for j in range(len(tree.ids)):
        ahead, behind = q.copy(), q.copy()
        ahead[j] += step
        behind[j] -= step
        slope = (energy(ahead) - energy(behind)) / (2 * step)
        assert -slope == pytest.approx(torque[j], abs=1e-5 * (1 + float(np.abs(torque).max())))


@pytest.mark.parametrize("seed", range(10))
def test_held_as_in_mujoco(seed):
    """Springs as spatial tendons, springs about joints as joint stiffness."""
    figure = compensated(random_elements(random_figure(seed, 5, slides=True), seed, ("spring", "torsion"), count=4))
    tree, twin, rng = build_tree(figure), Twin(figure), np.random.default_rng(seed)
    assert tree.loads
    q = any_poses(tree, rng, 4)
    ours = holding_torque_Nm(tree, q, DOWN)
    for i in range(q.shape[1]):
        theirs = twin.inverse(dict(zip(tree.ids, q[:, i].tolist(), strict=True)))
        passive = {ident: float(twin.data.qfrc_passive[twin.dof(ident)]) for ident in tree.ids}
        assert any(abs(p) > 1e-6 for p in passive.values()) or not np.abs(load_torques(tree, place(tree, q), q)).any()
        for j, ident in enumerate(tree.ids):
            assert ours[j, i] == pytest.approx(theirs[ident], rel=1e-6, abs=1e-6 * (1 + max(map(abs, theirs.values()))))


@pytest.mark.parametrize("seed", range(8))
def test_no_pose_asks_more_of_a_drive_than_its_worst(seed):
    """Against thousands of poses: hold, tilting moment and side load, followers among the joints."""
    figure = random_elements(following(seed, 4), seed)
    figure = Figure(
        **(
            dict(figure)
            | {
                "joints": tuple(
                    Joint(**(dict(j) | {"role": "driven"} if j.role == "free" else dict(j))) for j in figure.joints
                )
            }
        )
    )
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    q = any_poses(tree, rng, 3000)
    axes = place(tree, q).axis
    for j in range(4):
        if tree.coupling.leader[j] != j:
            continue
        found = worst_pose(tree, j, gravities)
        across = lambda v, j=j: np.sqrt(np.maximum((v * v).sum(axis=0) - (axes[j] * v).sum(axis=0) ** 2, 0.0))  # noqa: E731
        assert abs(found.hold) >= max(float(np.abs(drive_torque_Nm(tree, j, q, g)).max()) for g in gravities) * (
            1 - 5e-3
        )
        assert found.moment >= max(float(across(wrench_on(tree, j, q, g)[1]).max()) for g in gravities) * (1 - 5e-3)
        assert found.side >= max(float(across(wrench_on(tree, j, q, g)[0]).max()) for g in gravities) * (1 - 5e-3)


@pytest.mark.parametrize("seed", range(6))
def test_no_masses_and_no_forces_within_their_bounds_ask_more_or_less(seed):
    figure = random_elements(random_figure(seed, 3), seed, count=2)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    q = any_poses(tree, rng, 1500)
    amount, bound = tree.amounts, tree.amount_bounds
    for j in range(3):
        found = worst_pose(tree, j, gravities)
        told = extremes(
            tree,
            j,
            gravities,
            (found.pose, found.moment_pose),
            lambda other, g, poses, j=j: worst_pose(other, j, g, 4, poses, False),
        )
        assert told.low <= abs(found.hold) * (1 + 1e-9) <= told.high * (1 + 1e-9)
        for k in range(8):
            some = amount + bound * (rng.choice([-1.0, 1.0], len(amount)) if k % 2 else rng.uniform(-1, 1, len(amount)))
            brute = max(float(np.abs(drive_torque_Nm(weighed(tree, some), j, q, g)).max()) for g in gravities)
            assert brute <= told.high * (1 + 5e-3)


@pytest.mark.parametrize("seed", range(10))
def test_along_its_envelope_as_by_trying(seed):
    """What is strung across one joint alone is searched along its angle: against thousands of poses, and angle by angle."""
    figure = random_figure(seed, 4)
    rng = np.random.default_rng(seed)
    child = figure.joints[2]
    at = lambda: tuple(float(v) for v in rng.uniform(-100, 100, 3))  # noqa: E731
    springs = (
        Spring(
            **strung("s", child.rides_on, child.id, at(), at()),
            free_mm=40.0,
            rate_N_per_mm=float(rng.uniform(0.02, 0.4)),
        ),
        Torsion(id="t", name="t", joint=child.id, rate_Nm_per_deg=0.01, free_deg=float(rng.uniform(-40, 40))),
    )
    tree = build_tree(Figure(**(dict(figure) | {"elements": springs})))
    j = tree.index(child.id)
    assert strung_alone(tree, j)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    q = any_poses(tree, rng, 6000)
    axes = place(tree, q).axis
    across = lambda v: np.sqrt(np.maximum((v * v).sum(axis=0) - (axes[j] * v).sum(axis=0) ** 2, 0.0))  # noqa: E731
    found = worst_pose(tree, j, gravities)
    held = [drive_torque_Nm(tree, j, q, g) for g in gravities]
    assert found.highest >= max(float(h.max()) for h in held) - 2e-3 * abs(found.hold)
    assert found.lowest <= min(float(h.min()) for h in held) + 2e-3 * abs(found.hold)
    assert found.moment >= max(float(across(wrench_on(tree, j, q, g)[1]).max()) for g in gravities) * (1 - 2e-3)
    assert found.side >= max(float(across(wrench_on(tree, j, q, g)[0]).max()) for g in gravities) * (1 - 2e-3)
    again = float(drive_torque_Nm(tree, j, found.pose[:, None], gravities[found.posture])[0])
    assert again == pytest.approx(found.hold, abs=1e-9 + 1e-6 * abs(found.hold))
    told = envelope(tree, j, np.linspace(tree.low[j], tree.high[j], 9), gravities)
    for k, angle in enumerate(told.angles):
        at_angle = q[:, :2000].copy()
        at_angle[j] = angle
        most = max(float(drive_torque_Nm(tree, j, at_angle, g).max()) for g in gravities)
        assert told.highest[k] >= most - 5e-3 * (1e-3 + abs(most))
        there = told.poses[0][:, [k]]
        assert float(drive_torque_Nm(tree, j, there, gravities[told.postures[0][k]])[0]) == pytest.approx(
            told.highest[k], rel=1e-6, abs=1e-9
        )


@pytest.mark.parametrize("off", [0.0, 3.3, -11.7])
def test_a_latch_in_the_middle_of_a_range_is_not_stepped_over(off):
    """Magnets that hold within a degree: the worst hold, and side load, against a hundred thousand angles."""
    way = {
        "ends": tuple(Anchor(rides_on=b, at_mm=at) for b, at in (("base", (40.0, 0.0, -4.0)), ("j", (40.0, 0.0, 0.0))))
    }
    latch = Magnets(id="m", name="m", **way, wide_mm=6.0, thick_mm=3.0, gap_mm=0.1)
    joint = Joint(id="j", name="j", axis=Y, range_deg=(-80.0 + off, 75.0))
    tree = build_tree(Figure(joints=(joint,), parts=(part("m", "j", 60.0, (30.0, 0.0, 0.0)),), elements=(latch,)))
    q = np.linspace(tree.low[0], tree.high[0], 100_001)[None, :]
    found = worst_pose(tree, 0, DOWN[None, :], 4)
    held = drive_torque_Nm(tree, 0, q, DOWN)
    assert abs(found.hold) >= float(np.abs(held).max()) * (1 - 1e-2)
    force = wrench_on(tree, 0, q, DOWN)[0]
    assert found.side >= float(np.hypot(force[0], force[2]).max()) * (1 - 1e-2)


def test_a_spring_that_helps_and_one_that_does_not_know_its_rate():
    """The need is told as weight and what is strung to it; a guessed rate decides, and the sentence says to measure it."""
    joint = Joint(id="tilt", name="Tilt", axis=Y, at_mm=(0.0, 0.0, 100.0), range_deg=(0.0, 30.0))
    skull = part("skull", "tilt", 1300.0, (70.0, 0.0, 120.0), mass_origin="weighed")
    drive = Drive(id="s", joint="tilt", actuator=servo_class("class_20"))
    spring = Spring(
        **strung("spring", "base", "tilt", (-60.0, 0.0, 20.0), (-50.0, 0.0, 110.0)), free_mm=30.0, rate_N_per_mm=0.15
    )
    bare = Figure(joints=(joint,), parts=(skull,), drives=(drive,))
    helped = Figure(**(dict(bare) | {"elements": (spring,)}))
    before, after = (study(f).results.of("tilt").hold for f in (bare, helped))
    assert after.need < before.need and after.pulled < 0
    assert after.need == pytest.approx(after.mass * 9.80665 * after.arm + after.pulled, rel=1e-9)
    told = study(helped)
    found = told.finding("hold.tilt")
    assert "strung to it" in found.derivations[0].text
    assert found.decides is not None and found.decides.text.endswith("measure spring.")
    weigh = told.finding("weigh.tilt")
    assert weigh.subject.kind == "element" and "Measure spring" in weigh.sentence.text
