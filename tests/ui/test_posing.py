"""Posing by a drag, running the plumb line, and what the desk keeps in hand while figures change under it."""

import math

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt

from karakuri.demo import walrus_path
from karakuri.model.edit import Add, Edit, Remove, Set
from karakuri.model.edits import set_field
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import set_role
from karakuri.model.moves import Row
from karakuri.model.part import Part
from karakuri.model.ref import FIGURE, Ref
from karakuri.model.score import Section
from karakuri.model.score_edits import remove_channel, remove_move
from karakuri.motion.makers.pin import unpin
from karakuri.session.session import Session
from karakuri.workbench.stage.turning import grasp
from karakuri.workbench.transport import PACES
from karakuri.workbench.widgets.poserule import PoseRule
from tests.figures import head, scored
from tests.ui.hand import Hand, painted


@pytest.fixture
def owl(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("score")
    qtbot.wait(10)
    return window


@pytest.mark.parametrize("part", ["face_disc", "skull_shell", "speaker"])
@pytest.mark.parametrize("view", ["side", "front"])
@pytest.mark.parametrize(("dx", "dy"), [(10, 0), (0, 10), (-9, 6)])
def test_a_part_in_hand_follows_the_pointer(open_window, qtbot, view, part, dx, dy):
    """About an axis that faces the viewer the part turns as the pointer does about the pivot; else it goes along as far as it can."""
    window = open_window()
    desk, drawing = window.desk, getattr(window.benches["figure"], view)
    if all(p.id != part for p in desk.figure.parts) or desk.figure.part(part).rides_on == "base":
        pytest.skip(f"{part} does not turn")
    at = drawing.screen_of("part", part)
    held = grasp(drawing.view.scene, desk, Ref("part", part), at, drawing.view)
    assert held is not None and held.joint == desk.figure.part(part).rides_on
    value = held.value(at[0] + dx, at[1] + dy)
    assert held.ends[0] - 1e-9 <= value <= held.ends[1] + 1e-9
    assert held.value(*at) == pytest.approx(round(held.began / held.step) * held.step, abs=1e-9)
    desk.set_pose(held.joint, value)
    drawing.repaint()
    there = drawing.screen_of("part", part)
    moved = np.subtract(there, at)
    if abs(value) > math.radians(1.5) and held.ends[0] < value < held.ends[1] and np.hypot(*moved) > 2:
        assert float(np.dot(moved, (dx, dy))) > 0  # never against the hand


def test_what_stands_on_the_base_does_not_turn(open_window):
    window = open_window()
    drawing = window.benches["figure"].side
    part = next(p for p in window.desk.figure.parts if p.rides_on == "base")
    assert grasp(drawing._prepare().scene, window.desk, Ref("part", part.id), (10, 10), drawing.view) is None


def test_whatever_is_taken_hold_of_while_posing_turns_or_does_not(open_window):
    """A press on the outline of a wearer, on what is strung or held on, once ended the program."""
    window = open_window(Session.from_template(walrus_path()))
    desk, drawing = window.desk, window.benches["figure"].side
    scene = drawing._prepare().scene
    refs = [Ref("wearer"), FIGURE]
    for kind, items in (
        ("element", desk.figure.elements),
        ("fastening", desk.figure.fastenings),
        ("joint", desk.figure.joints),
        ("drive", desk.figure.drives),
    ):
        refs += [Ref(kind, item.id) for item in items] + [Ref(kind, "gone")]
    held = [grasp(scene, desk, ref, (30.0, 40.0), drawing.view) for ref in refs]
    assert held[:2] == [None, None] and sum(each is not None for each in held) >= len(desk.figure.joints)


def test_a_follower_in_hand_takes_its_leader_along(owl, qtbot):
    desk = owl.desk
    assert desk.edit(lambda: set_role(desk.figure, "eye_right_pan", "follows"))
    assert desk.edit(lambda: set_field(desk.figure, "joints", "eye_right_pan", ("follows", "ratio"), -0.5, "ratio"))
    desk.set_pose("eye_right_pan", 0.1)
    tree, q = desk.pose_array()
    assert desk.pose["eye_left_pan"] == pytest.approx(-0.2) and desk.place("eye_right_pan") == pytest.approx(0.1)
    assert q[tree.index("eye_right_pan")] == pytest.approx(0.1) and q[tree.index("eye_left_pan")] == pytest.approx(-0.2)
    owl.desk.turn_to("figure")
    qtbot.wait(10)
    rule = next(rule for rule in owl.findChildren(PoseRule) if rule.ident == "eye_right_pan" and rule.isVisible())
    low, high = (end * math.pi / 180 for end in desk.figure.joint("eye_left_pan").range_deg)
    assert rule.value() == pytest.approx(0.1) and rule.ends() == pytest.approx((-0.5 * high, -0.5 * low))


def test_a_slide_is_drawn_out_along_its_axis(open_window, qtbot):
    figure = head()
    lift = Joint(
        id="lift", name="Lift", kind="slide", axis=(0.0, 0.0, 1.0), at_mm=(0.0, 0.0, 150.0), range_mm=(0.0, 40.0)
    )
    ball = Part(id="ball", name="ball", rides_on="lift", mass_g=20.0, at_mm=(0.0, 0.0, 160.0))
    session = Session(figure)
    session.edit(Edit("lift", (Add("joints", lift), Add("parts", ball))))
    window = open_window(session)
    drawing = window.benches["figure"].side
    at = drawing.screen_of("part", "ball")
    held = grasp(drawing.view.scene, window.desk, Ref("part", "ball"), at, drawing.view)
    assert held.value(at[0], at[1] - 10) == pytest.approx(round(10 / drawing.view.k * 1e3) / 1e3)
    assert held.value(at[0], at[1] + 500) == 0.0 and held.value(at[0], at[1] - 5000) == pytest.approx(0.04)


def test_pivots_pose_their_own_joint(owl, qtbot):
    front, desk = owl.benches["score"].front, owl.desk
    hand = Hand(owl, qtbot)
    before = desk.figure
    hand.drag(front, QPointF(*front.screen_of("joint", "neck_roll")), QPointF(14, 0))
    assert desk.figure is before


# ---- the plumb line
def test_time_stays_within_the_score(owl):
    transport = owl.desk.transport
    for asked, got in ((-3.0, 0.0), (99.0, 16.0), (7.25, 7.25)):
        transport.go(asked)
        assert transport.now == got
    owl.desk.edit(Edit("short", (Set(("score", "length_s"), 5.0),)))
    assert transport.now == 5.0


@pytest.mark.parametrize("pace", PACES)
def test_paces_run_as_fast_as_they_say(owl, qtbot, pace):
    transport = owl.desk.transport
    transport.set_pace(pace)
    transport.go(1.0)
    transport.run()
    qtbot.wait(400)
    transport.stop()
    assert 1.0 < transport.now < 1.0 + 3.0 * pace


def test_a_score_that_does_not_loop_stops_at_its_end(open_window, qtbot):
    window = open_window(Session(scored(Row(0.1, 0.2, 10.0), Row(0.5, 0.2, 0.0), length_s=0.9, loops=False)))
    window.desk.turn_to("score")
    transport = window.desk.transport
    transport.run()
    qtbot.waitUntil(lambda: not transport.running, timeout=4000)
    assert transport.now == pytest.approx(0.9)
    transport.run()
    assert transport.now < 0.9  # from the beginning again
    transport.stop()


def test_a_section_is_run_and_forgotten_with_its_figure(owl, qtbot):
    desk = owl.desk
    made = (Section(id="greet", name="greet", from_s=2.0, to_s=2.5),)
    desk.edit(Edit("sections", (Set(("score", "sections"), made),)))
    desk.transport.section = "greet"
    desk.transport.go(9.0)
    desk.transport.run()
    assert desk.transport.now == 2.0
    qtbot.waitUntil(lambda: desk.transport.passes >= 1, timeout=4000)
    assert 2.0 <= desk.transport.now <= 2.5
    desk.replace(Session(head()))
    assert desk.transport.section == "" and not desk.transport.running


def test_a_figure_without_moves_keeps_its_pose_when_time_is_set(open_window):
    window = open_window(Session(head()))
    window.desk.turn_to("score")
    window.desk.set_pose("tilt", 0.2)
    window.desk.transport.go(3.0)
    assert window.desk.pose["tilt"] == 0.2


# ---- what is in hand
def test_what_is_in_hand_is_let_go_when_it_is_gone(owl, qtbot):
    desk = owl.desk
    desk.select(Ref("move", "beak_channel", 19))
    assert desk.joint_in_hand() == "beak"
    channel = desk.figure.score.channel("beak_channel")
    desk.edit(remove_move(channel, 19))
    assert desk.subject == Ref("channel", "beak_channel")
    desk.edit(remove_channel(desk.figure, desk.figure.score.channel("beak_channel")))
    assert desk.subject == FIGURE
    desk.undo()
    desk.select(Ref("pose", "hoot"))
    (pinned,) = (pin.id for pin in desk.figure.score.pins if pin.pose == "hoot")
    desk.edit(unpin(desk.figure, pinned))
    desk.edit(Edit("drop", (Remove("poses", "hoot"),)))
    assert desk.subject == FIGURE
    desk.undo()
    desk.undo()
    desk.select(Ref("pin", "hoot_at_12"))
    desk.edit(unpin(desk.figure, "hoot_at_12"))
    assert desk.subject == FIGURE


def test_every_bench_shows_what_a_move_in_hand_is_about(owl, qtbot):
    desk = owl.desk
    desk.select(Ref("move", "neck_tilt_channel", 4))
    for bench in ("drive", "balance", "limits"):
        desk.turn_to(bench)
        qtbot.wait(5)
        assert "Neck tilt" in painted(owl.benches[bench].joint)


def test_kept_poses_are_recalled_from_the_top_line(owl, qtbot):
    hand = Hand(owl, qtbot)
    hand.choose(owl.top.pose, "Hoot")
    assert owl.top.pose.shown == "Hoot"
    hand.choose(owl.top.pose, "rest")
    assert owl.top.pose.shown in ("rest", "Rest")


@pytest.mark.parametrize(
    ("words", "subject"),
    [("beak", Ref("joint", "beak")), ("hoot", Ref("pose", "hoot")), ("score", None), ("rehearse", None)],
)
def test_find_reaches_poses_and_the_new_benches(owl, qtbot, words, subject):
    hand = Hand(owl, qtbot)
    owl.desk.turn_to("figure")
    hand.alt(Qt.Key.Key_W)
    hand.fill(words, Qt.Key.Key_Return)
    assert owl.desk.subject == subject if subject else owl.desk.bench == words


def test_an_oversized_servo_is_offered_a_smaller_one_on_its_card(owl, qtbot):
    desk = owl.desk
    joint = next(f.subject.id for f in desk.study.findings if f.rule == "hold" and "Oversized" in f.sentence.text)
    desk.select(Ref("joint", joint))
    desk.turn_to("drive")
    qtbot.waitUntil(lambda: bool(desk.remedies.get(f"hold.{joint}")), timeout=8000)
    qtbot.wait(30)
    remedy = desk.remedies[f"hold.{joint}"][0]
    hand = Hand(owl, qtbot)
    before = desk.figure.drive_of(joint).actuator.torque_Nm
    hand.click(hand.tag(remedy.label.show(desk.units)))
    assert desk.figure.drive_of(joint).actuator.torque_Nm < before
