"""A servo from its label: what nobody stated follows what was stated, at every change; what was stated stays."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from karakuri.actuators.label import ANCHORS, GUESSED, from_label, restated, worked_out
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_classes
from karakuri.errors import BadQuantity, EditRefused
from karakuri.model.drive import Actuator, labels
from karakuri.model.edit import apply
from karakuri.model.edits import fit_servo, set_field
from karakuri.study.study import study
from karakuri.units import ALL_UNITS, KGCM, METRIC, SERVO, Quantity, read_quantity, show
from karakuri.values.fields import fields_of
from tests.figures import head

STATED = {
    "torque_Nm": st.floats(0.02, 20.0),
    "at_voltage_V": st.floats(3.0, 24.0),
    "speed_s_per_60deg": st.floats(0.04, 1.0),
    "mass_g": st.floats(1.0, 900.0),
    "stall_current_A": st.floats(0.1, 20.0),
    "gears": st.sampled_from(["metal", "plastic", "not stated"]),
    "permitted_side_N": st.floats(0.5, 500.0),
    "play_deg": st.floats(0.1, 3.0),
    "rated_voltage_V": st.floats(3.0, 24.0),
}
START = {"torque_Nm": 1.6 * KGCM, "speed_s_per_60deg": 0.12, "at_voltage_V": 4.8}


@given(st.lists(st.sampled_from(sorted(STATED)), max_size=8), st.data())
def test_the_order_of_writing_a_label_does_not_matter(fields, data):
    servo, stated = from_label("s", **START), dict(START)
    for field in fields:
        value = data.draw(STATED[field])
        servo, stated = Actuator(**restated(servo, field, value)), {**stated, field: value}
        if field == "at_voltage_V" and "rated_voltage_V" in stated:
            stated["rated_voltage_V"] = max(stated["rated_voltage_V"], value)
    again = from_label("s", **stated)
    for name in (*ANCHORS, *GUESSED, "gears"):
        assert getattr(servo, name) == pytest.approx(getattr(again, name)), name
        assert (name in servo.estimated) == (name not in stated)
        assert name not in stated or getattr(servo, name) == stated[name]
    assert "rated_voltage_V" in stated or servo.rated_voltage_V == servo.at_voltage_V


@given(st.floats(0.02, 15.0), st.floats(1.01, 3.0))
def test_estimates_rise_with_what_they_follow(torque, more):
    weak, strong = (from_label("s", **(START | {"torque_Nm": t})) for t in (torque, torque * more))
    for name in ("mass_g", "stall_current_A", "permitted_moment_Nm", "permitted_side_N", "reflected_inertia_kgm2"):
        assert getattr(weak, name) <= getattr(strong, name) * 1.001, name


def test_a_class_is_estimated_as_it_is_and_a_label_is_not_the_class_it_began_as():
    for c in servo_classes():
        near = from_label("s", mass_g=c.mass_g, gears=c.gears, **{name: getattr(c, name) for name in ANCHORS})
        for name in (
            "stall_current_A",
            "permitted_moment_Nm",
            "permitted_side_N",
            "shaft_stiffness_Nm_per_rad",
            "travel_deg",
        ):
            assert getattr(near, name) == pytest.approx(getattr(c, name), rel=2e-3), (c.name, name)
    own = from_label("own", **START)
    for field, value in (
        ("torque_Nm", 25 * KGCM),
        ("at_voltage_V", 6.0),
        ("speed_s_per_60deg", 0.17),
        ("mass_g", 64.0),
        ("gears", "metal"),
    ):
        own = Actuator(**restated(own, field, value))
    assert own.stall_current_A == pytest.approx(3.3, rel=0.02) and own.permitted_moment_Nm == pytest.approx(
        0.8, rel=0.02
    )
    figure = head(mass_g=900.0, servo=None)
    figure = apply(figure, set_field(figure, "parts", "foot", ("mass_g",), 3000.0, "mass"))
    fitted = apply(figure, fit_servo(figure, "tilt", own))
    fields = dict(fitted.supply) | {"current_A": 1.0}
    poor = type(fitted)(**(dict(fitted) | {"supply": fields}))
    supply = study(poor).finding("supply")
    assert supply.capacity.value / supply.demand.value == pytest.approx(1.0 / own.stall_current_A)


def told_share(figure) -> float:
    """By which share all that its joint carries may be off."""
    tree = build_tree(figure)
    rows = tree.rides[0]
    return float(tree.body_bound[rows].sum() / tree.body_mass[rows].sum())


@given(st.floats(0.1, 3.0), st.booleans())
def test_side_load_is_off_by_its_own_share_whatever_else_was_stated(permitted, moment_too):
    figure = head(mass_g=2000.0)
    drive = figure.drives[0]
    wanted = restated(drive.actuator, "permitted_side_N", permitted)
    if moment_too:
        wanted = restated(Actuator(**wanted), "permitted_moment_Nm", 50.0)
    told = study(apply(figure, set_field(figure, "drives", drive.id, ("actuator",), wanted, "side"))).finding(
        "shaft.tilt"
    )
    heavier = 1 + told_share(figure)
    assert told.capacity.kind == "force"  # what is left is what the head may weigh more or less
    assert (told.reserve_low, told.reserve_high) == (pytest.approx(told.reserve / heavier), pytest.approx(told.reserve / (2 - heavier)))  # fmt: skip
    guess = restated(Actuator(**(wanted | {"estimated": ("permitted_side_N",)})), "permitted_moment_Nm", 50.0)
    guess["permitted_side_N"] = permitted
    told = study(apply(figure, set_field(figure, "drives", drive.id, ("actuator",), guess, "side"))).finding(
        "shaft.tilt"
    )
    assert "estimate" in told.sentence.text or "permitted_side_N" not in guess["estimated"]


@pytest.mark.parametrize("value", [0.0, -1.0, float("nan"), float("inf"), 1e308, 1e-320])
@pytest.mark.parametrize("field", [*ANCHORS, *GUESSED])
def test_what_cannot_stand_on_a_label_is_refused_with_a_sentence(field, value):
    figure = head()
    drive = figure.drives[0]
    worked_out(dict(drive.actuator) | {field: value})
    try:
        after = apply(
            figure, set_field(figure, "drives", drive.id, ("actuator",), restated(drive.actuator, field, value), "x")
        )
    except EditRefused as told:
        assert "expected" in str(told).lower()
    else:
        study(after)


@pytest.mark.parametrize("unit", ["kg·cm", "kg-cm", "kgcm", "kg.cm", "kg cm", "KG.CM", "Kgf·cm", "kg x cm"])
def test_units_of_torque_as_labels_print_them(unit):
    """1 kg·cm = 0.0980665 N·m, 1 oz·in = 7.06155e-3 N·m, 1 lb·in = 0.112985 N·m: exact from lb = 0.45359237 kg, in = 25.4 mm."""
    for units in ALL_UNITS:
        assert read_quantity(f"25 {unit}", "torque", units) == pytest.approx(25 * 0.0980665)
        assert read_quantity(f"25{unit}", "torque", units) == pytest.approx(25 * 0.0980665)
    for other, si in (("oz-in", 7.06155e-3), ("oz.in", 7.06155e-3), ("ozin", 7.06155e-3), ("N·m", 1.0), ("Nm", 1.0), ("N.m", 1.0),
                      ("N·cm", 0.01), ("Ncm", 0.01), ("lb·in", 0.112985), ("in-lb", 0.112985), ("lbin", 0.112985)):  # fmt: skip
        assert read_quantity(f"3 {other}", "torque", SERVO) == pytest.approx(3 * si, rel=2e-6)


def test_torque_stays_torque():
    for text in (
        "25 kg",
        "25 cm",
        "25 kgm cm",
        "kg cm",
        "25 kg·cm·s",
        "9" * 5000,
        "(" * 150 + "1" + ")" * 150,
        "1/0",
        "nan",
        "inf",
    ):
        with pytest.raises(BadQuantity):
            read_quantity(text, "torque", METRIC)


def test_every_number_of_a_label_has_words_a_unit_and_a_field():
    named = labels()
    numbers = {name for name, f in fields_of(Actuator).items() if f.kind is float}
    assert numbers == set(named)
    servo = servo_classes()[0]
    for name, label in named.items():
        assert show(Quantity(getattr(servo, name) * label.si, label.kind), METRIC)
