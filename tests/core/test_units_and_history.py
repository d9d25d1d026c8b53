"""Quantities shown and read back, in every choice of units; undo as a model; the catalogue against what is known of its classes."""

import math
import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from karakuri.catalogue import (
    ESTIMATED,
    materials,
    permitted_moment_Nm,
    servo_class,
    servo_classes,
    support_name,
)
from karakuri.model.assumptions import Assumptions
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Sentence
from karakuri.session.session import Session
from karakuri.sizing.candidates import candidates
from karakuri.study.study import study
from karakuri.units import (
    ALL_UNITS,
    INCH,
    KGCM,
    METRIC,
    SERVO,
    Quantity,
    calculate,
    digits,
    read_quantity,
    rounded,
    show,
    show_number,
    units_named,
)
from tests.figures import head, own_servo

KINDS = {
    "mass": 1.0,
    "length": 0.1,
    "torque": 1.0,
    "angle": 1.0,
    "speed": 5.0,
    "time": 1.0,
    "current": 3.0,
    "voltage": 6.0,
    "force": 5.0,
}


@given(st.sampled_from(sorted(KINDS)), st.floats(0.01, 3.0), st.sampled_from(ALL_UNITS))
@settings(max_examples=200, deadline=None)
def test_what_is_shown_can_be_typed_back(kind, size, units):
    """To half of the last digit shown, with the unit and without it."""
    value = size * KINDS[kind]
    text = show(Quantity(value, kind), units)
    number = show_number(Quantity(value, kind), units)
    step = units.unit(kind).si * 10.0 ** -len(number.partition(".")[2])
    assert read_quantity(text, kind, units) == pytest.approx(value, abs=step * 0.51)
    assert read_quantity(number, kind, units) == pytest.approx(value, abs=step * 0.51)


@given(st.floats(-1e4, 1e4), st.integers(0, 4))
@settings(deadline=None)
def test_rounding_goes_where_it_says(value, decimals):
    up, down, near = (rounded(value, decimals, way) for way in ("up", "down", "nearest"))
    step = 10.0**-decimals
    assert down - 1e-6 * step <= value + 1e-6 * step and up >= value - 1e-5 * step
    assert up - down <= step * 1.001 and abs(near - value) <= step * 0.501


def test_numbers_are_written_as_the_house_writes_them():
    assert digits(-1234.5, 1) == "\u22121\u2009234.5"
    assert digits(-0.0001, 2) == "0.00"
    assert show(Quantity(0.21, "mass", plus_minus=0.03), METRIC) == "210\u00a0±\u00a030\u00a0g"
    assert show(Quantity(math.radians(38), "angle"), METRIC) == "38°"
    assert show(Quantity(0.2, "torque", rounding="down"), METRIC) == "0.20\u00a0N·m"
    assert units_named("inch") is INCH and units_named("furlong") is METRIC


@given(st.floats(0.05, 3.0), st.floats(0.01, 0.3), st.sampled_from(ALL_UNITS))
@settings(max_examples=150, deadline=None)
def test_a_derivation_gives_its_result_from_its_own_digits(mass, arm, units):
    """mass × g × arm: what is written, worked out again in the units written, is the result to its last digit."""
    g = 9.80665
    derivation = Derivation("Needs", "{0} carried × {1} × {2} arm", (Quantity(mass, "mass"), Quantity(g, "gravity"), Quantity(arm, "length")),
                            Quantity(mass * g * arm, "torque"))  # fmt: skip
    written = derivation.show(units).replace("\u00a0", " ").replace("\u2009", "")
    left, _, right = written.rpartition("= ")
    numbers = [calculate(n) for n in re.findall(r"\d[\d.]*(?= )", left)]
    labels = {METRIC.name: 1e-3, SERVO.name: 1.0, INCH.name: 1.0}
    worth = math.prod(numbers) * labels[units.name]
    result = right.split(" ")[0]
    assert abs(worth - calculate(result)) <= 10.0 ** -len(result.partition(".")[2]) * 0.51 + 1e-9, written


def test_sentences_keep_braces_that_are_not_theirs():
    assert Sentence("{0} of {9} and {x}", (Quantity(0.1, "mass"),)).show(METRIC) == "100\u00a0g of {9} and {x}"


class Undo(RuleBasedStateMachine):
    """History against a plain list of figures."""

    def __init__(self) -> None:
        super().__init__()
        self.session = Session(head())
        self.past, self.future = [self.session.figure], []

    @rule(grams=st.integers(1, 5000))
    def write(self, grams):
        self.session.edit(Edit(f"mass {grams}", (Set(("parts", "skull", "mass_g"), float(grams)),)))
        self.past.append(self.session.figure)
        self.future.clear()

    @rule(places=st.lists(st.integers(-90, 90), min_size=1, max_size=4))
    def drag(self, places):
        for x in places:
            self.session.edit(Edit("drag", (Set(("parts", "skull", "at_mm"), (float(x), 0.0, 150.0)),), "drag skull"))
        self.session.history.close_step()
        self.past.append(self.session.figure)
        self.future.clear()

    @precondition(lambda self: len(self.past) > 1)
    @rule()
    def undo(self):
        assert self.session.undo()
        self.future.append(self.past.pop())

    @precondition(lambda self: self.future)
    @rule()
    def redo(self):
        assert self.session.redo()
        self.past.append(self.future.pop())

    @rule()
    def nothing_left(self):
        if not self.future:
            assert not self.session.redo()

    @invariant()
    def same(self):
        assert self.session.figure == self.past[-1]
        assert (self.session.history.undo_name is None) == (len(self.past) == 1)


Undo.TestCase.settings = settings(max_examples=25, stateful_step_count=15, deadline=None)
TestUndo = Undo.TestCase


def test_classes_lie_where_such_servos_lie():
    """Common practice, no source: micro 9 g 1.5–2.5 kg·cm, stall 0.7–1 A; standard 45–70 g, 10–35 kg·cm, 2–5 A; play of the horn
    0.3–0.7° with metal gears, 0.5–1.5° with plastic ones."""
    classes = servo_classes()
    assert len(classes) == 12
    assert [c.torque_Nm for c in classes] == sorted(c.torque_Nm for c in classes)
    assert classes[0].mass_g <= 4 and classes[-1].mass_g == 180
    for c in classes:
        kgcm = c.torque_Nm / KGCM
        if 8 <= c.mass_g <= 10:
            assert 1.5 <= kgcm <= 2.5 and 0.7 <= c.stall_current_A <= 1.0
        if 45 <= c.mass_g <= 70:
            assert 10 <= kgcm <= 35.01 and 2.0 <= c.stall_current_A <= 5.0
        low, high = (0.3, 0.7) if c.gears == "metal" else (0.5, 1.5)
        assert low <= c.play_deg <= high
        assert 0.08 <= c.speed_s_per_60deg <= 0.25
        assert set(ESTIMATED) <= set(c.estimated) and c.mass_origin == "typical"
        assert not re.search(r"[A-Z]{2,}\d|\d{3,}[A-Z]", c.name)


def test_a_label_keeps_what_it_says_and_marks_the_rest():
    own = own_servo("drawer", 10 * KGCM, 0.16, 6.0, 48.0)
    assert (own.torque_Nm, own.speed_s_per_60deg, own.at_voltage_V, own.mass_g) == (10 * KGCM, 0.16, 6.0, 48.0)
    assert "gears" in own.estimated and own.gears == "not stated" and "torque_Nm" not in own.estimated
    assert own_servo("hot", 1.0, 0.1, 12.0, 50.0).rated_voltage_V == 12.0


@pytest.mark.parametrize(("ident", "low", "high"), [("steel", 7850, 7850), ("aluminium", 2700, 2700), ("brass", 8500, 8500), ("lead", 11340, 11340), ("pla", 1240, 1240),
                                                    ("acrylic", 1190, 1190), ("birch_ply", 680, 680), ("xps", 28, 45), ("eva_foam", 45, 120), ("leather", 860, 860)])  # fmt: skip
def test_densities(ident, low, high):
    """General engineering tables, from memory: kg/m³."""
    assert low <= next(m for m in materials() if m.id == ident).density_kgm3 <= high


def test_supports_carry_more_the_more_they_are():
    kinds = ("bush", "bearing_pair", "turntable")
    moments = [permitted_moment_Nm(kind) for kind in kinds]
    assert moments == sorted(moments) and permitted_moment_Nm("spline") is None
    assert support_name("spline") == "the servo's own shaft"


def test_candidates_smallest_that_holds_first_then_why_not():
    r = study(head()).results.of("tilt")
    held = r.hold
    rows = candidates(
        servo_classes(), 0.0, held, r.placed, 6.0, Assumptions(), servo_class("class_10"), (("Neck pan", 0.4),)
    )
    verdicts = [row.verdict for row in rows]
    first_fail = verdicts.index("fails")
    assert all(v == "fails" for v in verdicts[first_fail:])
    holding = [row for row in rows if row.verdict == "holds" and row.reason != "oversized"]
    assert rows[0] is holding[0] and rows[0].servo.torque_Nm == min(r.servo.torque_Nm for r in holding)
    assert [row.servo.torque_Nm for row in rows[first_fail:]] == sorted(
        (r.servo.torque_Nm for r in rows[first_fail:]), reverse=True
    )
    assert all(
        row.reason in ("drops", "sags and heats", "too slow for the move", "too weak for the move")
        for row in rows[first_fail:]
    )
    assert [row.fitted for row in rows].count(True) == 1
    heavier = next(row for row in rows if row.servo.catalogue_id == "class_60")
    assert heavier.lower == (("Neck pan", pytest.approx(0.4 * (180 - 48) / 1e3)),)
    assert any(row.reason == "oversized" for row in rows)
    own = own_servo("own", 12 * KGCM, 0.16, 6.0, 50.0)
    assert candidates(servo_classes(), 0.0, held, r.placed, 6.0, Assumptions(), own, ())[-13:][0].servo is not None
    assert any(
        row.servo is own and row.fitted
        for row in candidates(servo_classes(), 0.0, held, r.placed, 6.0, Assumptions(), own, ())
    )


@given(st.lists(st.one_of(st.just(0.0), st.floats(-1e9, 1e9), st.floats(-1e-6, 1e-6)), min_size=3, max_size=3), st.sampled_from(["{0} ÷ {1}", "{0} × {1} ÷ ({2} × {2})", "{0} ÷ ({1} − {2})"]))  # fmt: skip
@settings(max_examples=80, deadline=None)
def test_a_sum_is_written_whatever_its_parts_round_to(values, text):
    """What is divided by may be so small that it is written as 0: the sum is still shown."""
    parts = tuple(Quantity(v, kind) for v, kind in zip(values, ("torque", "angle", "length"), strict=True))
    for units in ALL_UNITS:
        assert "=" in Derivation("Needs", text, parts, Quantity(values[0], "torque")).show(units)
