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
    hand.click(hand.tag("Twin on the other side"))
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
