"""Making things: a part where the pointer is, a joint's twin with all on it, a pose kept wherever it was made, the keyboard where one clicked."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication, QLineEdit

from karakuri.model.ref import Ref
from karakuri.model.sides import twin_of
from karakuri.session.session import Session
from tests.core.test_sides import left_arm
from tests.ui.hand import Hand


@pytest.fixture
def owl_hand(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("figure")
    return window, Hand(window, qtbot)


def test_ins_puts_the_part_where_the_pointer_is(owl_hand):
    window, hand = owl_hand
    desk, side = window.desk, window.benches["figure"].side
    desk.select(Ref("joint", "neck_tilt"))
    hand.click(side, QPoint(3, 3))
    desk.select(Ref("joint", "neck_tilt"))
    spot = QPoint(side.width() // 2, side.height() // 3)
    QCursor.setPos(side.mapToGlobal(spot))
    hand.key(Qt.Key.Key_Insert)
    made = desk.figure.parts[-1]
    x, y = side.screen_of("part", made.id)
    assert made.rides_on == "neck_tilt" and abs(x - spot.x()) < 2 and abs(y - spot.y()) < 2
    QCursor.setPos(window.mapToGlobal(QPoint(2, 2)))
    hand.click(side, QPoint(3, 3))
    desk.select(Ref("joint", "neck_tilt"))
    hand.key(Qt.Key.Key_Insert)
    pivot, other = desk.figure.joint("neck_tilt").at_mm, desk.figure.parts[-1].at_mm
    assert other == pytest.approx((pivot[0], pivot[1], pivot[2] + 40.0))


def test_the_twin_of_a_joint_by_key_and_undone_at_once(open_window, qtbot):
    figure, ident = left_arm(2)
    window = open_window(Session(figure))
    desk, hand = window.desk, Hand(window, qtbot)
    desk.turn_to("figure")
    desk.select(Ref("joint", ident))
    before = desk.figure
    hand.ctrl(Qt.Key.Key_D)
    twin = twin_of(desk.figure, ident)
    assert twin is not None and desk.subject == Ref("joint", twin) and desk.figure.joint(twin).name == "right joint 1"
    assert len(desk.figure.joints) == 10 and len(desk.figure.drives) > len(before.drives)
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure == before
    desk.select(Ref("joint", ident))
    qtbot.wait(20)
    hand.click(hand.tag("Twin, with all"))
    assert len(desk.figure.joints) == 10
    desk.select(Ref("joint", ident))
    hand.ctrl(Qt.Key.Key_D)
    assert "has a twin already" in window.note.text and len(desk.figure.joints) == 10


@pytest.mark.parametrize("bench", ["figure", "drive", "balance", "limits", "score", "rehearse"])
def test_a_pose_is_kept_wherever_it_is_made_and_a_press_takes_the_keyboard(owl_hand, bench):
    window, hand = owl_hand
    desk = window.desk
    desk.turn_to(bench)
    desk.select(Ref("joint", "neck_tilt"))
    window.focus_card()
    there = window.benches[bench]
    if isinstance(QApplication.focusWidget(), QLineEdit):
        hand.click(there, QPoint(there.width() // 2, 4))
    assert not isinstance(QApplication.focusWidget(), QLineEdit)
    desk.set_pose("neck_tilt", 0.2)
    before = len(desk.figure.poses)
    hand.key(Qt.Key.Key_K)
    assert len(desk.figure.poses) == before + 1
    assert dict(desk.figure.poses[-1].places)["neck_tilt"] == pytest.approx(11.46, abs=0.01)
    assert bench == "score" or desk.subject == Ref("joint", "neck_tilt")


def test_a_parts_list_is_pasted_as_one_step(owl_hand):
    window, hand = owl_hand
    before = window.desk.figure
    QApplication.clipboard().setText("name\tmass [g]\trides on\nWig\t120\tneck tilt\nBell\t30\tbase\n")
    window.desk.select(Ref("joint", "beak"))
    hand.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert [p.name for p in window.desk.figure.parts[-2:]] == ["Wig", "Bell"] and "guesses" in window.note.text
    hand.ctrl(Qt.Key.Key_Z)
    assert window.desk.figure == before
    QApplication.clipboard().setText("nothing of the kind")
    hand.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert window.desk.figure == before and "no parts list" in window.note.text


def test_a_servo_of_ones_own_is_kept_and_offered_for_another_joint(owl_hand, qtbot, tmp_path):
    window, hand = owl_hand
    desk = window.desk
    desk.turn_to("drive")
    desk.select(Ref("joint", "neck_tilt"))
    qtbot.wait(20)
    hand.choose(hand.choice("Class"), "own servo")
    hand.click(hand.field("Called"))
    hand.fill("Big one")
    hand.click(hand.field("Stall torque"))
    hand.fill("40 kg cm")
    qtbot.wait(20)
    hand.click(hand.tag("Keep Big one in my drawer"))
    desk.select(Ref("joint", "neck_roll"))
    qtbot.wait(20)
    assert any(c.servo.name == "Big one" for c in window.benches["drive"].rows)
    hand.choose(hand.choice("Class"), "Big one")
    fitted = desk.figure.drive_of("neck_roll").actuator
    assert fitted == desk.figure.drive_of("neck_tilt").actuator and fitted.name == "Big one"
    assert window.exports.write_drawer_to(tmp_path / "s.json")
    desk.drawer.take_out("Big one")
    assert window.exports.read_drawer_from(tmp_path / "s.json") and desk.drawer.servos() == (fitted,)
