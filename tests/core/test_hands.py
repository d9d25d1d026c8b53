"""A hand at a lever, and what a parallelogram keeps level: closed forms and laws."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import hand_gives_N
from karakuri.checks.contract import HANDS
from karakuri.checks.hands import propose
from karakuri.errors import EditRefused
from karakuri.files.text import from_text, to_text
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.worst import joint_torque_Nm
from karakuri.model.edit import apply
from karakuri.model.element import Hand
from karakuri.model.element_edits import add_element
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import keep_level, keeps_level
from karakuri.model.part import Part
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, box, head, part

G = 9.80665


def puppet(grams=3000.0, at=(900.0, 0.0, 0.0), ranges=(-40.0, 40.0), **fields) -> Figure:
    """A long arm of a giant puppet with a head at its end, moved by a hand at a lever."""
    joint = Joint(id="arm", name="arm", axis=Y, range_deg=ranges)
    hand = Hand(id="h", name="hand", joint="arm", **({"arm_mm": 600.0, "gives_N": 60.0} | fields))
    return Figure(joints=(joint,), parts=(part("skull", "arm", grams, at, box(150.0, 120.0, 180.0)),), elements=(hand,))


def told(figure: Figure) -> dict:
    return {f.id: f for f in study(figure, Reuse()).findings if f.rule == "hands"}


def test_the_force_at_the_grip_is_weight_times_its_arm_over_the_levers():
    """3 kg at 900 mm, the grip at 600: 3 × 9.80665 × 0.9 ÷ 0.6 = 44.13 N held level; all of ± 40° is 600 × 1.396 = 838 mm of way."""
    found = study(puppet(), Reuse()).results[HANDS][0]
    assert found.most[0] == pytest.approx(3 * G * 0.9 / 0.6, rel=1e-3) and found.held == pytest.approx(found.most[0])
    assert found.way == pytest.approx(0.6 * math.radians(80.0), rel=1e-9)
    finding = told(puppet())["hands.h"]
    assert finding.verdict == "fails" and finding.reserve == pytest.approx(
        600 / 837.8, rel=1e-3
    )  # farther than a hand goes
    near = told(puppet(ranges=(-20.0, 20.0)))["hands.h"]
    assert near.reserve == pytest.approx(60 / 44.13, rel=2e-3) and near.verdict == "holds"
    both = told(puppet(ranges=(-20.0, 20.0), count=2, gives_N=20.0))["hands.h"]
    assert both.reserve == pytest.approx(40 / 44.13, rel=2e-3)


def test_a_hand_that_nobody_measured_is_not_judged_and_told_what_guidance_is():
    """EN 1005-3: one arm pulls 55 N without a rest for the trunk, half of it often (from memory)."""
    assert hand_gives_N() == (55.0, 0.5)
    finding = told(puppet(gives_N=None))["hands.h"]
    assert finding.verdict == "not yet judged" and finding.sentence.quantities[3].value == pytest.approx(27.5)
    assert finding.actions[0].field == "grip"


def test_it_is_balanced_or_given_a_longer_lever():
    heavy = puppet(grams=5000.0, ranges=(-15.0, 15.0), arm_mm=300.0)
    whole = study(heavy, Reuse())
    finding = whole.finding("hands.h")
    assert finding.verdict == "fails"
    offered = {p.label.text: told(apply(heavy, p.edit))["hands.h"] for p in propose(finding, whole.results)}
    weights = [f for text, f in offered.items() if "Counterweight" in text]
    assert weights and all(f.verdict == "holds" for f in weights)
    longer = [f.reserve for text, f in offered.items() if "Grip" in text]
    assert longer and max(longer) > finding.reserve


@settings(max_examples=30, deadline=None)
@given(st.floats(200.0, 5000.0), st.floats(1.05, 3.0), st.floats(100.0, 900.0), st.floats(0.3, 3.0))
def test_no_reserve_grows_with_the_load_and_a_shorter_turn_is_a_longer_lever(grams, more, arm, turns):
    base = puppet(grams, ranges=(-5.0, 5.0), arm_mm=arm, turns=turns)
    heavy = Figure(
        **(dict(base) | {"parts": tuple(Part(**(dict(p) | {"mass_g": p.mass_g * more})) for p in base.parts)})
    )
    one, other = (study(f, Reuse()).results[HANDS][0] for f in (base, heavy))
    assert other.most[0] == pytest.approx(one.most[0] * more, rel=1e-6)
    same = study(puppet(grams, ranges=(-5.0, 5.0), arm_mm=arm / turns), Reuse()).results[HANDS][0]
    assert same.most[0] == pytest.approx(one.most[0], rel=1e-6) and same.way == pytest.approx(one.way, rel=1e-6)


# ---- kept level
def level(off=(0.0, 0.0, 0.0)) -> Figure:
    """An arm of 500 mm with a head on its end, some way off that end."""
    joint = Joint(id="arm", name="arm", axis=Y, range_deg=(-50.0, 50.0))
    neck = Joint(id="neck", name="neck", rides_on="arm", at_mm=(500.0, 0.0, 0.0), axis=(0.0, 0.0, 1.0))
    at = tuple(a + b for a, b in zip((500.0, 0.0, 0.0), off, strict=True))
    figure = Figure(joints=(joint, neck), parts=(part("skull", "neck", 2000.0, at, box(100.0, 100.0, 100.0)),))
    return apply(figure, keep_level(figure, "arm")[0])


@pytest.mark.parametrize("off", [(0.0, 0.0, 0.0), (80.0, 20.0, 0.0), (-120.0, 0.0, 90.0)])
def test_a_parallelogram_carries_a_load_alike_wherever_it_sits_on_it(off):
    """Roberval's balance: what must be held is weight × the arm's own level reach, however far off the load sits (any text on statics)."""
    tree = build_tree(level(off))
    arm = tree.index("arm")
    q = np.zeros((len(tree.ids), 41))
    q[arm] = np.radians(np.linspace(-50, 50, 41))
    for k, leader in enumerate(tree.coupling.leader):
        q[k] = tree.coupling.of_leader(k, q[leader])
    torque = joint_torque_Nm(tree, arm, q, np.array([0.0, 0.0, -G]))
    assert torque == pytest.approx(-2.0 * G * 0.5 * np.cos(q[arm]), rel=1e-9)
    turned = place(tree, q).rotation[tree.index("neck")]
    for i in range(3):  # it stays as it stood
        assert turned[i, i] == pytest.approx(np.ones(41), abs=1e-12)


def test_what_is_kept_level_rides_on_one_more_joint_and_can_be_read_again():
    figure = level()
    added = next(j for j in figure.joints if j.id not in ("arm", "neck"))
    assert added.role == "follows" and added.follows.ratio == -1.0 and figure.joint("neck").rides_on == added.id
    assert added.at_mm == (500.0, 0.0, 0.0) and from_text(to_text(figure)) == figure
    bare = Figure(joints=(Joint(id="arm", name="arm", axis=Y),))
    with pytest.raises(EditRefused, match="carries nothing yet"):
        keep_level(bare, "arm")
    with pytest.raises(EditRefused, match="slides"):
        keep_level(Figure(joints=(Joint(id="arm", name="arm", kind="slide"),)), "arm")


def test_a_joint_that_a_hand_moves_asks_for_no_servo():
    figure = puppet()
    assert not any(f.rule in ("hold", "travel") for f in study(figure, Reuse()).findings)
    fresh = apply(Figure(joints=figure.joints, parts=figure.parts), add_element(figure, "hand", "arm"))
    assert fresh.elements[0].kind == "hand" and told(fresh)


@pytest.mark.parametrize("change", [None, "ratio", "axis", "leader", "role"])
def test_only_a_parallelogram_is_drawn_as_one(change):
    figure = apply(head(), keep_level(head(), "tilt")[0])
    arm, level = figure.joints
    other = {
        "ratio": {"follows": {"joint": "tilt", "ratio": -0.9}}, "axis": {"axis": (0.0, 0.9, 0.2)}, "leader": {"rides_on": "base"}, "role": {"role": "free"},
    }.get(change or "", {})  # fmt: skip
    assert keeps_level(arm, Joint(**(dict(level) | other))) == (change is None)
    turned_about = Joint(**(dict(level) | {"axis": (0.0, -2.0, 0.0), "follows": {"joint": "tilt", "ratio": 1.0}}))
    assert keeps_level(arm, turned_about)  # the same, told the other way round
