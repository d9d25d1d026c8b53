"""Steppers: worked values of stepper application notes and motor texts (recomputed, from memory), and laws."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.actuators.servo import capability
from karakuri.actuators.stepper import corner, finest, gives_way, pull_out, settles_at, worth
from karakuri.catalogue import steppers
from karakuri.checks.steps import propose
from karakuri.errors import FileTrouble
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.tables import tables
from karakuri.files.text import from_text, to_text
from karakuri.model.assumptions import Assumptions
from karakuri.model.drag import Pulled
from karakuri.model.drive import Actuator, Drive, Stepper
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint, Move, Support
from karakuri.model.moves import Row
from karakuri.model.transmission import Gear
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import scored

MOVE = Move(by=60.0, time_s=0.8)


def pan(stepper: Stepper | None = None, torque=0.4, through=None, drag=None, move=MOVE, row=None) -> Figure:
    """A head that is turned and nodded by a stepper through 1 : 5.18."""
    figure = scored(row or Row(0.2, 0.8, 20.0), mass_g=350.0)
    base = next(s for s in steppers() if s.catalogue_id == "stepper_42")
    servo = Actuator(**(dict(base) | {"stepper": stepper or base.stepper, "torque_Nm": torque}))
    drive = Drive(id="d", joint="tilt", actuator=servo, transmission=through or Gear(driver=50, driven=259))
    joint = Joint(**(dict(figure.joints[0]) | {"move": move, "support": Support(kind="bearing_pair"), "drag": drag}))
    return Figure(**(dict(figure) | {"joints": (joint,), "drives": (drive,)}))


def told(figure: Figure) -> dict:
    return {f.id: f for f in study(figure, Reuse()).findings}


def test_steps_a_degree_through_a_gear():
    """16 microsteps of 1.8°, 5.18 to 1: 46.04 a degree, 0.0217° each; a microstep of 16 is worth 9.8 % of what it holds with."""
    one = Stepper(steps=200, micro=16)
    assert 1 / (math.degrees(finest(one)) / 5.18) == pytest.approx(46.04, abs=0.01)
    assert math.degrees(finest(one)) / 5.18 == pytest.approx(0.0217, abs=1e-4)
    assert worth(one, 1.0) == pytest.approx(0.098, abs=1e-3)
    finding = told(pan())["steps.tilt"]
    assert finding.sentence.quantities[1].value == pytest.approx(46.04, abs=0.01)


def test_margin_before_steps_are_lost():
    """0.15 of 0.25 N·m leaves 40 %."""
    assert pytest.approx(0.40) == 1 - 0.15 / 0.25
    finding = told(pan())["steps.tilt.margin"]
    need, has, _, left = (q.value for q in finding.sentence.quantities)
    assert left == pytest.approx(1 - need / has) and finding.reserve == pytest.approx(0.7 * has / need)


def test_windings_follow_until_volts_over_twice_inductance_times_current():
    """12 V, 4 mH, 1 A: 1500 full steps a second, 7.5 turns; at twice that half of the torque is left."""
    one = Stepper(volts=12.0, henries_m=4.0, amps=1.0)
    assert corner(one) / (2 * math.pi) * 200 == pytest.approx(1500.0)
    assert pull_out(one, 0.4, corner(one)) == pytest.approx(0.4) and pull_out(
        one, 0.4, 2 * corner(one)
    ) == pytest.approx(0.2)


@settings(max_examples=60)
@given(st.floats(5.0, 48.0), st.floats(0.5, 20.0), st.floats(0.2, 4.0), st.floats(0.0, 1.0), st.floats(0.0, 1.5))
def test_the_line_it_is_judged_by_lies_below_what_it_keeps_in_step_with(volts, henries, amps, held, share):
    one = Stepper(volts=volts, henries_m=henries, amps=amps, held=held)
    servo = Actuator(**(dict(steppers()[2]) | {"stepper": one}))
    can = capability(servo, 6.0, Assumptions())
    speed = share * can.free_speed
    assert can.stall * max(1 - speed / can.free_speed, 0.0) <= pull_out(one, can.stall, speed) * (1 + 1e-12)
    assert can.continuous <= can.intermittent <= can.stall
    assert can.continuous == pytest.approx(can.stall * 0.6 * held)


def test_how_hot_windings_get():
    """1.0 A, 2.4 ohm, 18 K/W: 77.0 °C for good, 68.2 without the copper's own rise; it runs away at 2.43 A."""
    assert settles_at(1.0, 2.4, 18.0, windings=1) == pytest.approx(77.0, abs=0.05)
    assert pytest.approx(68.2) == 25 + 1.0**2 * 2.4 * 18
    assert math.isfinite(settles_at(2.42, 2.4, 18.0, windings=1)) and math.isinf(
        settles_at(2.44, 2.4, 18.0, windings=1)
    )
    hot = told(pan(Stepper(amps=2.0, held=1.0)))["steps.tilt.heat"]
    assert hot.verdict == "fails"
    assert told(pan(Stepper(amps=1.0, held=0.25)))["steps.tilt.heat"].verdict == "holds"


def test_it_gives_way_by_a_step_where_it_holds_no_more():
    one = Stepper()
    assert gives_way(one, 0.4, 0.4 - 1e-12) == pytest.approx(math.radians(1.8), rel=1e-4)
    assert gives_way(one, 0.4, 0.2) == pytest.approx(math.radians(1.8) * 30 / 90, rel=1e-9)
    assert math.isinf(gives_way(one, 0.4, 0.41))


def test_one_that_does_not_know_where_it_stands_fails_and_a_switch_cures_it():
    lost = pan(Stepper(finds="nothing"))
    whole = study(lost, Reuse())
    finding = whole.finding("steps.tilt.home")
    assert finding.verdict == "fails"
    cured = apply(lost, next(iter(propose(finding, whole.results))).edit)
    again = told(cured)["steps.tilt.home"]
    assert again.verdict == "holds" and again.sentence.quantities[0].value == pytest.approx(60 / 20)
    slow = pan(Stepper(finds_deg_per_s=2.0))
    whole = study(slow, Reuse())
    finding = whole.finding("steps.tilt.home")
    assert finding.verdict == "tight"
    assert told(apply(slow, next(iter(propose(finding, whole.results))).edit))["steps.tilt.home"].verdict == "holds"


def test_what_rubs_swallows_fine_steps_but_never_makes_it_fail():
    stiff = pan(drag=Pulled(kind="pulled", up_g=900.0, down_g=100.0, lever_mm=60.0))
    finding = told(stiff)["steps.tilt"]
    assert finding.verdict == "tight" and "cannot stand" in finding.sentence.text
    assert (
        told(pan(Stepper(micro=1), drag=Pulled(kind="pulled", up_g=130.0, down_g=100.0, lever_mm=60.0)))[
            "steps.tilt"
        ].verdict
        == "holds"
    )


@settings(max_examples=12, deadline=None)
@given(st.floats(0.1, 0.6), st.floats(1.05, 2.5))
def test_no_reserve_falls_with_a_stronger_one(torque, more):
    weak, strong = told(pan(torque=torque)), told(pan(torque=torque * more))
    for ident in ("hold.tilt", "move.tilt", "steps.tilt.margin"):
        assert strong[ident].reserve >= weak[ident].reserve * (1 - 1e-6)


def test_a_stepper_is_no_servo_of_a_board_and_says_so():
    figure = pan()
    assert outputs(figure) == () and from_text(to_text(figure)) == figure
    with pytest.raises(FileTrouble) as trouble:
        tables(figure)
    assert "a stepper" in str(trouble.value.faults)
    findings = told(figure)
    assert "shakes.tilt" not in findings and not any(ident.startswith("supply") for ident in findings)
    assert findings["hold.tilt"].verdict in ("holds", "tight") and np.isfinite(findings["hold.tilt"].reserve)
