"""Typing fast: Tab selects whole, studies answer meanwhile, undo is the figure's, a place far off is asked about, remedies hold still."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from karakuri.model.ref import Ref
from tests.ui.hand import Hand


@pytest.fixture
def hand(open_window, qtbot):
    window = open_window()
    made = Hand(window, qtbot)
    window.desk.select(Ref("part", "yoke"))
    window.desk.turn_to("figure")
    qtbot.wait(5)
    return made


def test_tab_after_a_changed_field_selects_the_next_whole(hand):
    """8 typed over 7 once gave 78: a jaw at 540 mm."""
    desk = hand.window.desk
    for label, index, value in (("Ahead", 0, 8.0), ("Above", 2, 41.0), ("To its left", 1, 3.0)):
        hand.click(hand.field("Mass"))
        field = hand.field("Mass")
        field.selectAll()
        QTest.keyClicks(field, str(90 + int(value)))
        while True:
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            hand.qtbot.wait(3)  # the study answers and the card is built anew
            here = QApplication.focusWidget()
            if here is hand.field(label):
                break
        assert here.selectedText() == here.text()
        QTest.keyClicks(here, f"{value:g}")
        QTest.keyClick(here, Qt.Key.Key_Return)
        assert desk.figure.part("yoke").at_mm[index] == value and desk.figure.part("yoke").mass_g == 90 + int(value)


@pytest.mark.parametrize(
    "keys", [(Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier), (Qt.Key.Key_Insert, Qt.KeyboardModifier.NoModifier)]
)
def test_what_was_just_made_has_its_name_selected(hand, keys):
    hand.key(*keys)
    hand.qtbot.wait(5)
    field = QApplication.focusWidget()
    assert field is hand.field("Name") and field.selectedText() == field.text() != ""
    QTest.keyClicks(field, "lantern")
    QTest.keyClick(field, Qt.Key.Key_Return)
    figure = hand.window.desk.figure
    assert "lantern" in [i.name for i in (*figure.parts, *figure.joints)]


def test_undo_is_the_figures_wherever_the_focus_is(hand):
    desk = hand.window.desk
    before = desk.figure.part("yoke").mass_g
    field = hand.field("Mass")
    hand.click(field)
    hand.fill("123")
    assert desk.figure.part("yoke").mass_g == 123.0
    hand.click(field)
    assert field.hasFocus()
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.part("yoke").mass_g == before
    QTest.keyClicks(field, "9")  # an entry that is not finished: undo is the field's own
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.part("yoke").mass_g == before
    hand.key(Qt.Key.Key_Escape)
    hand.click(hand.field("Name"))
    hand.fill("fork")
    hand.click(hand.field("Name"))
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.part("yoke").name == "yoke"


def test_a_place_far_off_is_asked_about_once(hand):
    desk = hand.window.desk
    field = hand.field("Ahead")
    hand.click(field)
    hand.fill("245192")
    assert desk.figure.part("yoke").at_mm[0] != 245192 and field.isModified()
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Escape)
    hand.click(field)
    field.selectAll()
    QTest.keyClicks(field, "3000")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert desk.figure.part("yoke").at_mm[0] != 3000 and "3.0 m from" in hand.window.card.body.trouble["x"]
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert desk.figure.part("yoke").at_mm[0] == 3000.0


@pytest.mark.remedies
def test_a_second_press_takes_no_other_remedy(hand):
    window, desk = hand.window, hand.window.desk
    tags = hand.remedies()
    places = [(t.x(), t.y(), t.label) for t in tags]
    before = desk.figure
    tags[0].click()
    after = desk.figure
    assert after != before
    assert [(t.x(), t.y(), t.label) for t in hand.remedies()] == places
    for tag in tags:
        tag.click()
    assert desk.figure is after
    hand.qtbot.waitUntil(lambda: not window.strip._held.isActive(), timeout=3000)
    hand.qtbot.wait(5)
    assert [(t.x(), t.y(), t.label) for t in hand.remedies()] != places


def test_masses_are_guesses_until_somebody_says_otherwise(hand):
    hand.key(Qt.Key.Key_Insert)
    hand.qtbot.wait(5)
    hand.click(hand.field("Mass"))
    hand.fill("120")
    made = hand.window.desk.figure.parts[-1]
    assert (made.mass_g, made.mass_origin) == (120.0, "guess")
