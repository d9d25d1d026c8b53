"""The Score bench by mouse and keyboard."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from karakuri.model.edit import Edit, Set
from karakuri.model.moves import Row
from karakuri.model.ref import FIGURE, Ref
from karakuri.model.score import Score
from karakuri.session.session import Session
from karakuri.workbench.benches.ribbons import time_words
from karakuri.workbench.routes import open_finding
from tests.core.test_sheds import hatted
from tests.figures import scored
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("score")
    qtbot.wait(20)
    return window.benches["score"], Hand(window, qtbot)


def moves(hand, ident):
    return hand.window.desk.figure.score.moving(ident).moves


def test_dragging_a_bead_sets_arrival_and_target(bench):
    score, hand = bench
    ribbons, said = score.ribbons, []
    before = moves(hand, "neck_pan_channel").row(2)
    start = ribbons.place_of("neck_pan_channel", 2)
    hand.drag(ribbons, start, QPointF(40, 0), during=lambda: (ribbons.repaint(), said.append(painted(ribbons))))
    after = moves(hand, "neck_pan_channel").row(2)
    assert after.takes == pytest.approx(before.takes + 40 / ribbons.span().per_s, abs=0.011)
    assert (after.departs, after.target) == (before.departs, before.target)
    assert any("later, slower" in text for text in said)
    hand.drag(ribbons, ribbons.place_of("neck_pan_channel", 2), QPointF(0, 12))
    assert moves(hand, "neck_pan_channel").row(2).target < before.target
    assert hand.window.desk.session.history.undo_name == "arrival of Neck pan"
    hand.ctrl(Qt.Key.Key_Z)
    hand.ctrl(Qt.Key.Key_Z)
    assert moves(hand, "neck_pan_channel").row(2) == before


def test_a_bead_sticks_at_the_soft_band_and_says_why(bench):
    score, hand = bench
    said = []
    hand.drag(score.ribbons, score.ribbons.place_of("beak_channel", 1), QPointF(0, -90), during=lambda: (score.ribbons.repaint(), said.append(painted(score.ribbons))))  # fmt: skip
    assert moves(hand, "beak_channel").row(1).target == 26.0
    assert any("Beak is wanted up to 26° open" in text for text in said)


def test_dragging_the_foot_sets_departure_and_keeps_arrival(bench):
    score, hand = bench
    before = moves(hand, "neck_roll_channel").row(2)
    hand.drag(score.ribbons, score.ribbons.place_of("neck_roll_channel", 2, foot=True), QPointF(-20, 0))
    after = moves(hand, "neck_roll_channel").row(2)
    assert after.departs < before.departs
    assert after.departs + after.takes == pytest.approx(before.departs + before.takes, abs=2e-3)


def test_pulling_a_hold_makes_a_new_move(bench):
    score, hand = bench
    ribbons = score.ribbons
    n = len(moves(hand, "neck_pan_channel"))
    _, top = next(row for row in ribbons.rows() if row[0].id == "neck_pan_channel")
    hand.drag(ribbons, QPointF(ribbons.span().x(9.2), top + ribbons.row_tall() / 2), QPointF(0, -14))
    assert len(moves(hand, "neck_pan_channel")) == n + 1
    made = moves(hand, "neck_pan_channel").row(hand.window.desk.move_in_hand()[1])
    assert made.departs + made.takes == pytest.approx(9.2, abs=0.02) and made.target > 5
    hand.key(Qt.Key.Key_Delete)
    assert len(moves(hand, "neck_pan_channel")) == n


def test_shift_moves_the_whole_move(bench):
    score, hand = bench
    ribbons = score.ribbons
    before = moves(hand, "neck_pan_channel").row(3)
    start = ribbons.place_of("neck_pan_channel", 3)
    QTest.mousePress(ribbons, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, start.toPoint())
    from PyQt6.QtGui import QMouseEvent

    for dx in (5, 12, 20):
        at = start + QPointF(dx, 0)
        QApplication.sendEvent(ribbons, QMouseEvent(QMouseEvent.Type.MouseMove, at, ribbons.mapToGlobal(at), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier))  # fmt: skip
    QTest.mouseRelease(
        ribbons, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, (start + QPointF(20, 0)).toPoint()
    )
    after = moves(hand, "neck_pan_channel").row(3)
    assert after.departs > before.departs and after.takes == before.takes


def test_every_gesture_by_keyboard(bench, qtbot):
    score, hand = bench
    desk, ribbons = hand.window.desk, score.ribbons
    ribbons.setFocus()
    hand.key(Qt.Key.Key_Down)
    assert desk.subject == Ref("channel", "neck_pan_channel")
    hand.key(Qt.Key.Key_Down)
    hand.key(Qt.Key.Key_Down)
    hand.key(Qt.Key.Key_Down)
    assert desk.subject == Ref("channel", "beak_channel")
    hand.key(Qt.Key.Key_PageDown)
    hand.key(Qt.Key.Key_PageDown)
    assert desk.move_in_hand()[1] == 1
    assert "Beak, move 2" in ribbons.accessibleName()
    hand.key(Qt.Key.Key_Return)
    assert isinstance(QApplication.focusWidget(), QLineEdit)
    hand.fill("2.4")  # leaves at
    assert moves(hand, "beak_channel").row(1).departs == pytest.approx(2.4)
    ribbons.setFocus()
    for _ in range(12):
        hand.key(Qt.Key.Key_Right)
    assert desk.transport.now == pytest.approx(1.2)
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert desk.transport.now == pytest.approx(2.2)
    n = len(moves(hand, "beak_channel"))
    hand.key(Qt.Key.Key_B)
    assert len(moves(hand, "beak_channel")) == n + 1
    pins = len(desk.figure.score.pins)
    hand.key(Qt.Key.Key_4)
    assert len(desk.figure.score.pins) == pins + 1 and desk.subject.kind == "pin"
    hand.key(Qt.Key.Key_Delete)
    assert len(desk.figure.score.pins) == pins
    wide = ribbons.t1 - ribbons.t0
    hand.key(Qt.Key.Key_Plus)
    assert ribbons.t1 - ribbons.t0 < wide
    hand.key(Qt.Key.Key_Minus)
    hand.key(Qt.Key.Key_0)
    assert (ribbons.t0, ribbons.t1) == (0.0, 16.0)
    hand.key(Qt.Key.Key_Space)
    assert desk.transport.running
    qtbot.waitUntil(lambda: desk.transport.now > 2.5)
    hand.key(Qt.Key.Key_G)
    assert not desk.transport.running


def test_zoom_by_wheel_from_the_whole_to_fifty_milliseconds(bench):
    score, hand = bench
    ribbons, desk = score.ribbons, hand.window.desk
    desk.transport.go(8.0)

    def wheel(x, y, turn, modifier=Qt.KeyboardModifier.NoModifier):
        at = QPointF(x, y)
        QApplication.sendEvent(ribbons, QWheelEvent(at, ribbons.mapToGlobal(at), QPoint(), QPoint(0, turn), Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip

    for _ in range(60):
        wheel(400, 10, 120)
        assert ribbons.t0 <= 8.0 <= ribbons.t1
    assert ribbons.t1 - ribbons.t0 == pytest.approx(0.05)
    ribbons.repaint()
    assert "8.00" in painted(ribbons)
    at = ribbons.t0
    wheel(400, 200, -120, Qt.KeyboardModifier.ShiftModifier)
    assert ribbons.t0 > at
    for _ in range(80):
        wheel(400, 10, -120)
    assert ribbons.whole_shown


def test_the_plumb_line_poses_the_figure(bench):
    score, hand = bench
    desk = hand.window.desk
    hand.click(score.ribbons, QPoint(round(score.ribbons.span().x(8.6)), 10))
    assert desk.transport.now == pytest.approx(8.6, abs=0.02)
    moving = desk.moving()
    q = moving.state(np.array([desk.transport.now]))[0][:, 0]
    assert desk.pose["neck_tilt"] == pytest.approx(float(q[desk.tree().index("neck_tilt")]))
    assert np.degrees(desk.pose["eye_left_pan"]) == pytest.approx(np.degrees(desk.pose["eye_right_pan"]))


def test_poses_recall_mirror_blend_and_pin(bench, qtbot):
    score, hand = bench
    desk, shelf = hand.window.desk, score.shelf
    x, y, wide, tall = shelf.slot(3)
    hand.click(shelf, QPoint(round(x + wide / 2), round(y + tall / 2)))
    assert desk.subject == Ref("pose", "listening_left")
    assert np.degrees(desk.pose["neck_pan"]) == pytest.approx(
        dict(desk.figure.pose("listening_left").places)["neck_pan"]
    )
    hand.click(hand.tag("Keep its mirror image"))
    assert (
        dict(desk.figure.poses[-1].places)["neck_pan"] == -dict(desk.figure.pose("listening_left").places)["neck_pan"]
    )
    hand.choose(hand.choice("Blend with"), "Hoot")
    assert desk.figure.poses[-1].name.endswith("and Hoot") and len(desk.figure.poses) == 8
    hand.click(hand.tag("Take this pose out"))
    assert len(desk.figure.poses) == 7
    pins = len(desk.figure.score.pins)
    start = QPointF(shelf.slot(5)[0] + 20, 30)
    goal = score.ribbons.mapTo(score, QPoint(round(score.ribbons.span().x(10.0)), 120))
    hand.drag(shelf, start, QPointF(shelf.mapFrom(score, goal)) - start)
    assert len(desk.figure.score.pins) == pins + 1
    made = next(p for p in desk.figure.score.pins if Ref("pin", p.id) == desk.subject)
    assert made.arrives_s == pytest.approx(10.0, abs=0.05)
    hand.choose(hand.choice("Arrives"), "eyes, lids")
    assert next(p for p in desk.figure.score.pins if p.id == made.id).manner == "in order"
    slip = next(s for s in score.ribbons.slips if s[0] == made.id)
    score.ribbons.repaint()
    hand.drag(score.ribbons, QPointF((slip[1] + slip[2]) / 2, 38), QPointF(60, 0))
    assert next(p for p in desk.figure.score.pins if p.id == made.id).arrives_s > made.arrives_s + 0.5


def test_a_drag_in_the_drawing_poses_the_joint(bench):
    score, hand = bench
    desk = hand.window.desk
    start = QPointF(*score.front.screen_of("part", "face_disc"))
    before = desk.figure
    hand.drag(score.front, start, QPointF(18, 4))
    assert any(abs(v) > 0.01 for v in desk.pose.values())
    assert desk.figure is before
    hand.key(Qt.Key.Key_K)
    assert len(desk.figure.poses) == 7


def test_ctrl_drag_poses_on_the_figure_bench(open_window, qtbot):
    window = open_window()
    side = window.benches["figure"].side
    at = side.screen_of("part", "face_disc")
    before = window.desk.figure
    QTest.mousePress(side, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, QPointF(*at).toPoint())
    from PyQt6.QtGui import QMouseEvent

    for dy in (6, 14):
        to = QPointF(at[0], at[1] + dy)
        QApplication.sendEvent(side, QMouseEvent(QMouseEvent.Type.MouseMove, to, side.mapToGlobal(to), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier))  # fmt: skip
    QTest.mouseRelease(
        side, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, QPointF(at[0], at[1] + 14).toPoint()
    )
    assert window.desk.figure is before
    moved = [k for k, v in window.desk.pose.items() if abs(v) > 0.01]
    assert len(moved) == 1


@pytest.mark.remedies
def test_faults_are_tags_and_remedies_take_them_away(bench):
    score, hand = bench
    score.ribbons.repaint()
    text = painted(score.ribbons)
    assert "past its limits by" in text and "too much:" in text
    first = hand.remedies()[0]
    assert first.label.startswith("Depart at")
    hand.click(first)
    score.ribbons.repaint()
    assert "past its limits by" not in painted(score.ribbons)
    hand.ctrl(Qt.Key.Key_Z)
    score.ribbons.repaint()
    assert "past its limits by" in painted(score.ribbons)


def test_a_finding_opens_its_move_at_its_time(bench):
    _, hand = bench
    hand.click(hand.window.strip.rows[0])
    desk = hand.window.desk
    assert desk.subject == Ref("move", "beak_channel", 19) and desk.bench == "score"
    assert desk.transport.now == pytest.approx(desk.study.findings[0].at_s, abs=1e-6)


def test_the_card_of_a_move_changes_it(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(Ref("move", "neck_tilt_channel", 4))
    hand.qtbot.wait(10)
    hand.choose(hand.choice("Profile"), "trapezoid")
    assert moves(hand, "neck_tilt_channel").row(4).profile == "trapezoid"
    hand.click(hand.field("Ramp share"))
    hand.fill("25")
    assert moves(hand, "neck_tilt_channel").row(4).shape == pytest.approx(0.25)
    hand.click(hand.field("Goes to"))
    hand.fill("12")
    assert moves(hand, "neck_tilt_channel").row(4).target == 12.0
    hand.choose(hand.choice("Profile"), "sudden")
    hand.choose(hand.choice("Profile"), "following")
    hand.click(hand.field("Time constant"))
    hand.fill("0.2")
    assert moves(hand, "neck_tilt_channel").row(4).shape == pytest.approx(0.2)
    for field, words in (
        ("Leaves at", "leaves at 0 s or later"),
        ("Arrives at", "arrive before that"),
        ("Time constant", "0.001 s to a day"),
    ):
        before = desk.figure
        hand.click(hand.field(field))
        hand.fill("-1")
        assert desk.figure is before and words in hand.window.note.text
    hand.click(hand.tag("Next move"))
    assert desk.move_in_hand()[1] == 5
    n = len(moves(hand, "neck_tilt_channel"))
    hand.click(hand.tag("Take this move out"))
    assert len(moves(hand, "neck_tilt_channel")) == n - 1


def test_the_card_of_the_score(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(FIGURE)
    hand.qtbot.wait(10)
    hand.click(hand.field("Length"))
    hand.fill("20")
    assert desk.figure.score.length_s == 20.0
    hand.choose(hand.choice("At the end"), "stops")
    assert not desk.figure.score.loops
    hand.click(hand.field("Waits at most"))
    hand.fill("0.1")
    assert desk.figure.score.life.waits_s == (2.0, 10.0)  # refused, with a sentence
    assert "waits run" in hand.window.note.text
    hand.click(hand.tag("Section from the plumb line on"))
    assert desk.figure.score.sections[0].to_s == pytest.approx(4.0)
    hand.choose(hand.choice("Runs"), "part 1")
    assert desk.transport.span() == (0.0, 4.0)
    hand.click(hand.tag("Write its life"))
    hand.click(hand.tag("Stretch everything"))
    assert desk.figure.score.length_s == pytest.approx(22.0)


def test_ribbons_untied_parked_and_taken_out(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(Ref("channel", "eye_left_pan_channel"))
    hand.qtbot.wait(10)
    hand.click(hand.tag("Untie them"))
    assert len(desk.figure.score.moved) == 8
    desk.select(Ref("channel", "beak_channel"))
    hand.qtbot.wait(10)
    hand.click(hand.field("Parks at"))
    hand.fill("3")
    assert desk.figure.score.channel("beak_channel").park == 3.0
    hand.choose(
        next(c for c in hand.window.card.body.editors.values() if c.accessibleName().endswith("take one in hand")),
        "1.60 s",
    )
    assert desk.subject.kind == "move"
    desk.select(Ref("channel", "lamp"))
    hand.qtbot.wait(10)
    hand.click(hand.tag("Take this ribbon out"))
    assert all(c.id != "lamp" for c in desk.figure.score.moved) and desk.subject == FIGURE


def test_running_loops_slower_and_within_a_section(bench, qtbot):
    score, hand = bench
    desk = hand.window.desk
    hand.choose(score.pace, "50")
    assert desk.transport.pace == 0.5
    hand.choose(score.pace, "as written")
    desk.transport.go(15.9)
    hand.click(score.run)
    qtbot.waitUntil(lambda: desk.transport.passes >= 1, timeout=5000)
    hand.click(score.run)
    assert desk.transport.now < 3.0 and score.run.label == "Run from here"
    desk.transport.run()
    desk.turn_to("drive")
    assert not desk.transport.running


def test_an_empty_score_teaches_and_is_laid_out(open_window, qtbot):
    window = open_window()
    window.desk.edit(Edit("clear", (Set(("score",), Score()), Set(("poses",), ()))))
    window.desk.turn_to("score")
    qtbot.wait(20)
    hand = Hand(window, qtbot)
    score = window.benches["score"]
    score.ribbons.repaint()
    text = painted(score.ribbons)
    assert "Lay out the ribbons" in text and "new move" in text
    hand.click(score.lay)
    assert len(window.desk.figure.score.moved) == 6
    assert not score.lay.isVisible()
    hand.key(Qt.Key.Key_B)  # nothing in hand: a sentence, no crash
    hand.key(Qt.Key.Key_7)


def test_hours_of_moves_scroll_and_drag(open_window, qtbot):
    """64 ribbons and 20 000 moves: the view paints, scrolls and edits (how fast is measured in benchmarks)."""
    from benchmarks.long_score import long_figure

    window = open_window(Session(long_figure(8, 600.0, 40)), in_place=True)
    window.desk.turn_to("score")
    ribbons = window.benches["score"].ribbons
    qtbot.wait(10)
    ribbons.repaint()
    ribbons.show_span(100.0, 130.0)
    ribbons.scroll_by(10 * ribbons.row_tall())
    ribbons.repaint()
    channel = ribbons.rows()[0][0]
    k = next(k for k, t in enumerate(channel.moves.departs_s) if t > 110)
    before = channel.moves.row(k)
    Hand(window, qtbot).drag(ribbons, ribbons.place_of(channel.id, k), QPointF(9, 0))
    assert window.desk.figure.score.channel(channel.id).moves.row(k).takes > before.takes


def test_times_on_the_ruler():
    assert [time_words(t, s) for t, s in ((0.05, 0.01), (7, 1), (7.5, 0.5), (125, 5), (3600, 600))] == [
        "0.05",
        "7",
        "7.5",
        "2:05",
        "60:00",
    ]


def test_a_slide_and_odd_scores_do_not_break_the_view(open_window, qtbot):

    for figure in (
        scored(),
        scored(Row(0, 0, 5, "sudden")),
        scored(Row(5.0, 1, 5), length_s=3.0),
        scored(Row(0.1, 0.1, 99.0)),
    ):
        window = open_window(Session(figure))
        window.desk.turn_to("score")
        qtbot.wait(5)
        window.desk.select(Ref("channel", "nod"))
        window.desk.transport.go(9.0)
        window.benches["score"].ribbons.repaint()
        if len(figure.score.moved[0].moves):
            window.desk.select(Ref("move", "nod", 0))
            qtbot.wait(5)


def test_what_rocks_and_what_is_thrown_off_is_shown_when_it_happens(open_window, qtbot):
    """From the strip to the Balance bench, the figure as it stands then; what holds on is in hand."""
    row = (Row(0.3, 0.1, 28.0), Row(1.0, 0.1, -28.0))
    figure = hatted(*row, grams=300.0)
    window = open_window(Session(figure))
    desk = window.desk
    qtbot.waitUntil(lambda: desk.study is not None and desk.study.settled, timeout=20_000)
    for rule, kind in (("rocks", "figure"), ("sheds", "fastening")):
        finding = next(f for f in desk.study.findings if f.rule == rule)
        assert finding.verdict != "holds"
        desk.turn_to("figure")
        open_finding(desk, finding)
        assert desk.bench == "balance" and desk.transport.now == pytest.approx(finding.at_s, abs=0.02)
        assert desk.subject.kind == kind
    window.card.body.repaint()
    assert "hat magnets" in painted(window.card.body) and "throws" in painted(window.card.body)
