"""Worked numbers: FIG1, solids and shells, minimum jerk, units. Sources beside each; all values from memory of them."""

import math

import numpy as np
import pytest

from karakuri.actuators.label import from_label
from karakuri.actuators.servo import capability
from karakuri.bodies.inertia import area_m2, turned, unit_inertia, volume_m3
from karakuri.bodies.outline import outline
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.errors import BadQuantity
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.kinematics import carried_mass, place
from karakuri.mechanics.statics import carried_centre, holding_torque_Nm, inertia_about_axis
from karakuri.model.assumptions import Assumptions
from karakuri.model.part import Box, Cylinder, Ellipsoid, Sphere
from karakuri.model.stand import Posture
from karakuri.motion.profiles import PROFILES
from karakuri.units import INCH, KGCM, METRIC, OZIN, SERVO, Quantity, calculate, read_quantity, show
from tests.figures import fig1, part

DOWN = np.array([0.0, 0.0, -9.80665])  # standard gravity, 3rd CGPM 1901


def test_fig1_masses_and_inertia():
    """Worked neck: parallel-axis theorem, e.g. Meriam & Kraige, Dynamics, App. B."""
    tree = build_tree(fig1())
    placed = place(tree, np.zeros((3, 1)))
    assert carried_mass(tree)[2] == pytest.approx(1.418)
    assert carried_centre(tree, placed)[2, :, 0] * 1e3 == pytest.approx([17.06, 1.06, 61.54], abs=0.005)
    inertias = [float(inertia_about_axis(tree, np.zeros((3, 1)), j)[0]) * 1e3 for j in range(3)]
    assert inertias == pytest.approx([4.856, 17.46, 7.87], rel=5e-4)


@pytest.mark.parametrize(("tilt", "t_tilt", "t_roll"), [(-30, 0.437, 0.0127), (-15, 0.103, 0.0142), (0, -0.237, 0.0147), (15, -0.561, 0.0142),
                                                        (30, -0.847, 0.0127)])  # fmt: skip
def test_fig1_holding(tilt, t_tilt, t_roll):
    tree = build_tree(fig1())
    for pan in (0.0, 40.0):
        pan_t, got_tilt, got_roll = holding_torque_Nm(tree, np.radians([[pan], [tilt], [0.0]]), DOWN)[:, 0]
        assert (got_tilt, got_roll) == (pytest.approx(t_tilt, abs=5.1e-4), pytest.approx(t_roll, abs=5.1e-5))
        assert abs(pan_t) < 1e-12


def test_fig1_leaning_and_nodding():
    tree = build_tree(fig1())
    lean = posture_gravity(Posture(id="l", name="l", lean_deg=25.0), 9.80665)
    assert holding_torque_Nm(tree, np.radians([[40.0], [10.0], [5.0]]), lean)[:, 0] == pytest.approx(
        [0.1045, -0.809, -0.282], abs=5.1e-4
    )
    s = np.linspace(0, 1, 4001)
    x, v, a = (
        10 * s**3 - 15 * s**4 + 6 * s**5,
        (30 * s**2 - 60 * s**3 + 30 * s**4) / 0.6,
        (60 * s - 180 * s**2 + 120 * s**3) / 0.36,
    )
    q, qd, qdd = (np.zeros((3, s.size)) for _ in range(3))
    q[1], qd[1], qdd[1] = np.radians(-15 + 30 * x), np.radians(30 * v), np.radians(30 * a)
    torque = inverse_dynamics(tree, q, qd, qdd, DOWN)
    assert (torque[1].min(), torque[1].max()) == (pytest.approx(-0.6812, abs=5e-5), pytest.approx(0.2211, abs=5e-4))
    assert math.sqrt(np.trapezoid(torque[1] ** 2, s)) == pytest.approx(0.420, abs=5e-4)
    assert s[np.argmax(abs(torque[1]))] * 0.6 == pytest.approx(0.5065, abs=5e-4)
    assert np.abs(torque[[2, 0]]).max(axis=1) == pytest.approx([0.0146, 0.0007], abs=5e-5)
    assert np.degrees(qd[1].max()) == pytest.approx(93.75)


def test_minimum_jerk_constants():
    """Flash & Hogan, J. Neurosci. 5, 1985: 1.875 D/T and 5.774 D/T²."""
    assert (pytest.approx(1.875), pytest.approx(5.7735, abs=5e-5)) == (
        PROFILES["minimum jerk"].peak_speed(0.0),
        PROFILES["minimum jerk"].peak_acceleration(0.0),
    )


@pytest.mark.parametrize(("shape", "want"), [
    (Sphere(radius_mm=90.0, wall_mm=1.0), (1.620e-3,) * 3),
    (Cylinder(radius_mm=70.0, height_mm=200.0, wall_mm=1.0, open_ends=True), (1.735e-3, 1.735e-3, 1.470e-3)),
    (Cylinder(radius_mm=70.0, height_mm=200.0, wall_mm=1.0), (2.158e-3, 2.158e-3, 1.279e-3)),
    (Box(size_mm=(180.0, 140.0, 220.0), wall_mm=1.0), (2.744e-3, 3.180e-3, 2.228e-3)),
])  # fmt: skip
def test_thin_shells_of_300_g(shape, want):
    """Thin shells, derived from the solids of App. B and checked on meshes (worked numbers of the handbook)."""
    assert np.array(unit_inertia(shape)) * 0.3 == pytest.approx(want, rel=5e-4)


def test_ellipsoid_shell_reduces_to_sphere_and_to_known_areas():
    """Knud Thomsen's area formula is good to 1.061 % (2004); a round one must be the sphere's exactly."""
    round_one = Ellipsoid(semi_axes_mm=(90.0, 90.0, 90.0), wall_mm=1.0)
    assert unit_inertia(round_one) == pytest.approx(unit_inertia(Sphere(radius_mm=90.0, wall_mm=1.0)), rel=1e-12)
    a, b, c, p = 0.09, 0.06, 0.04, 1.6075
    thomsen = 4 * math.pi * (((a * b) ** p + (a * c) ** p + (b * c) ** p) / 3) ** (1 / p)
    assert area_m2(Ellipsoid(semi_axes_mm=(90.0, 60.0, 40.0), wall_mm=1.0)) == pytest.approx(thomsen, rel=0.0107)
    assert volume_m3(Box(size_mm=(100.0, 80.0, 60.0))) == pytest.approx(4.8e-4)


def test_unit_table():
    """Exact: lb = 0.45359237 kg, in = 25.4 mm (1959 agreement), g = 9.80665 m/s²."""
    assert read_quantity("475 oz·in", "torque", METRIC) == pytest.approx(3.3542, abs=5e-5)
    assert read_quantity("475 oz in", "torque", METRIC) == pytest.approx(475 * OZIN, rel=1e-12)
    assert read_quantity("20 kg cm", "torque", METRIC) == pytest.approx(1.9613, abs=5e-5)
    assert pytest.approx(13.887, abs=5e-4) == KGCM / OZIN
    assert show(Quantity(475 * OZIN, "torque"), SERVO) == "34.2\u00a0kg·cm"
    assert show(Quantity(475 * OZIN, "torque"), INCH) == "475.0\u00a0oz·in"
    assert read_quantity("2 lb", "mass", METRIC) == pytest.approx(0.90718474)
    assert read_quantity("2 lb + 3 oz", "mass", METRIC) == pytest.approx(0.90718474 + 3 * 0.45359237 / 16)
    assert read_quantity("1/2 in", "length", METRIC) == pytest.approx(0.0127)
    assert read_quantity("46-2", "length", METRIC) == pytest.approx(0.044)
    assert read_quantity("0.16 s/60°", "servo_speed", METRIC) == pytest.approx(0.16)
    assert read_quantity("90 °/s", "speed", METRIC) == pytest.approx(math.pi / 2)


@pytest.mark.parametrize(("text", "kind"), [("", "mass"), ("two", "mass"), ("3 mm", "mass"), ("1/0", "length"), ("2**9", "length"), ("5 kg", "length"),
                                            ("__import__('os')", "mass"), ("1e999", "mass")])  # fmt: skip
def test_bad_quantities_are_refused_with_a_sentence(text, kind):
    with pytest.raises(BadQuantity) as trouble:
        value = read_quantity(text, kind, METRIC)
        if not math.isfinite(value):
            raise BadQuantity("not finite")
    assert str(trouble.value)


def test_sums():
    assert calculate("2 × (3 + 4) − 6 ÷ 3") == 12.0


def test_servo_line():
    """20 kg·cm, 0.16 s/60° at 6.0 V: 1.9613 N·m, 6.545 rad/s; at 40 % of stall 3.927 rad/s; 7.4 V: 2.419 N·m, 8.072 rad/s.

    Straight torque-speed line: permanent-magnet DC motor theory, e.g. Hughes, Electric Motors and Drives, ch. 3.
    """
    honest = Assumptions(stall_share=1.0)
    servo = from_label("s", torque_Nm=20 * KGCM, speed_s_per_60deg=0.16, at_voltage_V=6.0, rated_voltage_V=7.4)
    can = capability(servo, 6.0, honest)
    assert (can.stall, can.free_speed) == (pytest.approx(1.9613, abs=5e-5), pytest.approx(6.545, abs=5e-4))
    assert can.speed_at(0.4 * can.stall) == pytest.approx(3.927, abs=5e-4)
    assert capability(servo, 7.4, honest).stall == pytest.approx(2.419, abs=5e-4)
    assert capability(servo, 7.4, honest).free_speed == pytest.approx(8.072, abs=5e-4)
    assert capability(servo, 12.0, honest).voltage == servo.rated_voltage_V
    assert can.continuous == pytest.approx(0.25 * can.stall)  # gears not stated count as plastic


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("kind", ["sphere", "ellipsoid", "box", "cylinder"])
def test_an_outline_reaches_as_far_as_the_shape_does(kind, seed):
    """Its width along any direction of the drawing is that of the solid: a support function, from points all over the surface."""
    rng = np.random.default_rng(seed)
    a, b, c = (float(v) for v in rng.uniform(10, 60, 3))
    shape = {"sphere": Sphere(radius_mm=a), "ellipsoid": Ellipsoid(semi_axes_mm=(a, b, c)), "box": Box(size_mm=(2 * a, 2 * b, 2 * c)),
             "cylinder": Cylinder(radius_mm=a, height_mm=2 * c)}[kind]  # fmt: skip
    body = part("p", "base", 1.0, (0.0, 0.0, 0.0), shape, turned_deg=tuple(float(v) for v in rng.uniform(-180, 180, 3)))
    axes = np.array([[1.0, 0, 0], [0, 0, 1.0]])
    drawn = np.array(outline(body, np.eye(3), axes))
    u, v = rng.uniform(0, 2 * np.pi, 40_000), np.arccos(rng.uniform(-1, 1, 40_000))
    ball = np.stack([np.cos(u) * np.sin(v), np.sin(u) * np.sin(v), np.cos(v)])
    solid = {"sphere": a * ball, "ellipsoid": np.array([[a], [b], [c]]) * ball, "box": np.array([[a], [b], [c]]) * np.sign(ball),
             "cylinder": np.stack([a * np.cos(u), a * np.sin(u), c * np.sign(ball[2])])}[kind]  # fmt: skip
    seen = axes @ turned(body.turned_deg) @ solid / 1e3
    for angle in np.linspace(0, np.pi, 7):
        way = np.array([np.cos(angle), np.sin(angle)])
        assert np.ptp(drawn @ way) == pytest.approx(np.ptp(way @ seen), rel=0.02)
