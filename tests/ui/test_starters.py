"""Setting a figure down from starters, in the real window: kinds, schools, sizes, judged before it is made, one step to undo."""

from PyQt6.QtCore import Qt

from karakuri.workbench.benches.start_tiles import KindTile, StarterTile
from tests.ui.hand import Hand, painted


def tile(window, ident):
    return next(t for t in window.benches["start"].findChildren((KindTile, StarterTile)) if t.ident == ident)


def hang(window, hand, *ids):
    for ident in ids:
        hand.click(tile(window, ident))


def test_a_two_axis_head_with_jaw_and_eyes_from_starters(open_window, qtbot):
    window = open_window(None, in_place=False)
    hand, desk = Hand(window, qtbot), window.desk
    hand.click(hand.field("Name"))
    hand.fill("Tea-cart robot")
    hang(window, hand, "bust", "neck_turns", "neck_nods", "jaw_whole", "eyes_two")
    hand.click(hand.field("Head, high"))
    hand.fill("240")
    hand.click(hand.field("Eyeball, across"))
    hand.fill("34")
    qtbot.waitUntil(lambda: window.benches["start"].found() is not None, timeout=20_000)
    qtbot.wait(20)
    assert "Judged" in painted(window.card.body) and "15 wires" in painted(window.card.body)
    hand.click(hand.tag("Make this figure"))
    qtbot.waitUntil(lambda: desk.bench == "figure", timeout=20_000)
    hand.wait_judged()
    figure = desk.figure
    assert figure.name == "Tea-cart robot"
    assert [j.name for j in figure.joints if j.role == "driven"] == [
        "Neck turn",
        "Neck nod",
        "Jaw",
        "Eyes turn",
        "Lids",
    ]
    assert any(getattr(part.shape, "radius_mm", 0) == 17.0 for part in figure.parts)
    assert desk.study.count("fails") == 0
    print(f"\n{hand.actions} user actions")
    assert hand.actions <= 25
    # it is one step
    hand.ctrl(Qt.Key.Key_Z)
    assert not desk.figure.joints and not desk.figure.parts and desk.figure.name == "Tea-cart robot"
    hand.ctrl(Qt.Key.Key_Y)
    assert desk.figure == figure


def test_what_cannot_be_together_takes_the_others_place_and_says_so(open_window, qtbot):
    window = open_window(None)
    hand, start = Hand(window, qtbot), window.benches["start"]
    hang(window, hand, "jaw_whole", "eyes_four", "lids", "eyes_two")
    assert start.values["chosen"] == {"jaw_whole", "eyes_two"}
    assert window.note.isVisible()
    hang(window, hand, "jaw_split")
    assert start.values["chosen"] == {"jaw_split", "eyes_two"} and not tile(window, "jaw_whole").isChecked()
    hang(window, hand, "jaw_split")
    assert start.values["chosen"] == {"eyes_two"}


def test_the_board_is_worked_by_keys_alone(open_window, qtbot):
    window = open_window(None)
    hand, start = Hand(window, qtbot), window.benches["start"]
    start.kinds[0].setFocus()
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Space)
    assert start.kind.id == "bust"
    hand.key(Qt.Key.Key_Down)
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Return)
    hand.key(Qt.Key.Key_Down)
    hand.key(Qt.Key.Key_Space)
    wide = start.columns()
    assert start.values["chosen"] == {start.tiles[1].ident, start.tiles[1 + wide].ident}
    hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_Up)
    assert start.kinds[0].hasFocus()


def test_the_schools_stand_beside_each_other_and_are_hung_up_there_too(open_window, qtbot):
    window = open_window(None)
    hand, start = Hand(window, qtbot), window.benches["start"]
    hand.click(start.table)
    qtbot.wait(20)
    assert start.schools.isVisible() and not start.tiles[0].isVisible()
    assert {"no up or down, no wink", "Eyes, two axes each", "people"} <= set(
        painted_of(start) + painted_of(start.schools)
    )
    start.schools.setFocus()
    hand.key(Qt.Key.Key_End)
    hand.key(Qt.Key.Key_Return)
    assert start.values["chosen"] == {"gripper"}
    before = start.schools.rect_of("eyes_four")
    hand.click(start.table)
    assert tile(window, "gripper").isChecked() and before is not None


def painted_of(widget):
    widget.repaint()
    return [each.text for each in widget.painted]


def test_starters_hang_on_the_figure_that_is_open_as_one_step(open_window, qtbot):
    window = open_window()
    hand, desk = Hand(window, qtbot), window.desk
    owl = desk.figure
    hand.ctrl(Qt.Key.Key_N)
    hang(window, hand, "ears")
    hand.click(hand.tag(f"Hang these on {owl.name}"[:40]))
    assert desk.bench == "figure" and len(desk.figure.joints) == len(owl.joints) + 2
    ears = [joint for joint in desk.figure.joints if joint.name.startswith("Ear ")]
    assert {joint.rides_on for joint in ears} == {"neck_roll"} and all(desk.figure.drive_of(j.id) for j in ears)
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure == owl


def test_pressed_in_the_wrong_order_nothing_is_lost_and_the_last_word_counts(open_window, qtbot):
    window = open_window(None, in_place=False)
    hand, desk, start = Hand(window, qtbot), window.desk, window.benches["start"]
    hang(window, hand, "rolling", "neck_rods", "eyes_four")
    hand.click(hand.tag("Make this figure"))  # while it is looked at
    hang(window, hand, "eyes_four", "ears")  # and other things asked for meanwhile: it is not made
    qtbot.waitUntil(lambda: start.found() is not None and desk.starting.progress is None, timeout=30_000)
    assert desk.making_anew
    hand.click(hand.tag("Make this figure"))
    qtbot.waitUntil(lambda: desk.bench == "figure", timeout=30_000)
    names = {joint.name for joint in desk.figure.joints}
    assert "Ear left" in names and not any(name.startswith("Eye") for name in names)


def test_the_heads_size_is_the_kinds_until_it_is_written(open_window, qtbot):
    window = open_window(None)
    hand, start = Hand(window, qtbot), window.benches["start"]
    hang(window, hand, "worn")
    assert start.asked().tall_mm == 420.0
    hang(window, hand, "held")
    assert start.asked().tall_mm == 110.0
    hand.click(hand.field("Head, high"))
    hand.fill("150")
    hang(window, hand, "worn")
    assert start.asked().tall_mm == 150.0 and start.asked().eye == 24.0
    hand.click(hand.field("Head, high"))
    hand.fill("many")
    assert start.asked().tall_mm == 150.0
    hand.key(Qt.Key.Key_Escape)
