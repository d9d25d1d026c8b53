"""Driving by hand in the real window: set down, dragged, pressed, driven by a simulated hand, on a board, recorded and undone."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from karakuri.model.board_edits import add_board, plug_in
from karakuri.model.moves import Row
from karakuri.model.ref import Ref
from karakuri.model.score_edits import add_motor
from karakuri.model.steering_edits import add_grip, change_grip, first_steering
from karakuri.session.session import Session
from tests.figures import scored
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("rehearse")
    qtbot.wait(10)
    hand = Hand(window, qtbot)
    hand.choose(window.benches["rehearse"].shows, "by hand")
    qtbot.wait(20)
    yield hand
    window.desk.steered.stop()


@pytest.fixture
def small(open_window, qtbot):
    """One joint with one servo: it is at park within seconds."""
    window = open_window(Session(scored(Row(0.5, 1.0, 10.0))))
    window.desk.rehearse("hand")
    window.desk.turn_to("rehearse")
    qtbot.wait(20)
    yield Hand(window, qtbot)
    window.desk.steered.stop()
    window.desk.board.leave()


def view(hand):
    return hand.window.benches["rehearse"].over["hand"]


def driven(hand, *kinds):
    """A figure with grips, the first ones and some more."""
    desk = hand.window.desk
    desk.edit(lambda: first_steering(desk.figure))
    for kind in kinds:
        assert desk.edit(lambda kind=kind: add_grip(desk.figure, kind)[0])
    hand.qtbot.wait(30)
    return desk


def drag(hand, pad, *places):
    """Press on a pad at shares of its field, and go on to others."""
    x, y, w, h = pad._room()
    points = [QPoint(round(x + w * a), round(y + h * b)) for a, b in places]
    QTest.mousePress(pad, Qt.MouseButton.LeftButton, pos=points[0])
    for point in points[1:]:
        QTest.mouseMove(pad, point)
        hand.qtbot.wait(5)
    return lambda: QTest.mouseRelease(pad, Qt.MouseButton.LeftButton, pos=points[-1])


def written(hand, label, text):
    """A field of the card filled in."""
    hand.click(hand.field(label))
    hand.fill(text)
    hand.qtbot.wait(10)


def told(hand):
    """What the card says under its facts."""
    return " ".join(
        f"{item.value} {item.under}" for item in hand.window.card.body.page.items if type(item).__name__ == "Fact"
    )


def test_it_is_set_down_held_dragged_and_stands_when_let_go(bench):
    hand, desk = bench, bench.window.desk
    assert "Nothing is driven by hand yet" in painted(view(hand))
    hand.click(hand.tag("Drive it by hand"))
    hand.qtbot.wait(30)
    assert len(view(hand).pads) == len(desk.figure.steering.grips) > 3
    hand.click(view(hand).hold)
    assert desk.by_hand
    pad, grip = view(hand).pads[0], desk.figure.steering.grips[0]
    release = drag(hand, pad, (0.5, 0.5), (1.0, 0.5))
    release()
    assert desk.steered.level(grip.input) == 100.0
    hand.qtbot.wait(120)
    joint = desk.figure.score.moving(grip.channel).leads
    assert desk.place(joint) == pytest.approx(0.0, abs=1e-6), "nobody holds the dead man's switch"
    assert "let go" in view(hand).told_in_short()
    hand.click(view(hand).held)
    hand.qtbot.waitUntil(lambda: desk.place(joint) > 0.1, timeout=5_000)
    hand.click(view(hand).held)
    hand.qtbot.wait(60)
    stands = desk.place(joint)
    hand.qtbot.wait(120)
    assert desk.place(joint) == pytest.approx(stands, abs=1e-6)
    hand.click(view(hand).hold)
    assert not desk.by_hand
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.steering is None and not view(hand).pads


def test_sticks_spring_back_knobs_stay_and_arrows_do_as_the_mouse_does(bench):
    desk = driven(bench, "keyed")
    first, keys = view(bench).pads[0], view(bench).pads[-1]
    grip = desk.figure.steering.grips[0]
    desk.select(Ref("input", grip.input))
    bench.qtbot.wait(20)
    bench.choose(bench.choice("It is"), "a stick’s way")
    release = drag(bench, first, (0.5, 0.5), (0.1, 0.5))
    assert desk.steered.level(grip.input) < 15.0
    release()
    assert desk.steered.level(grip.input) == 50.0
    knob = desk.figure.steering.grips[1]
    drag(bench, view(bench).pads[1], (0.5, 0.5), (0.9, 0.5))()
    assert desk.steered.level(knob.input) == pytest.approx(90.0, abs=2.0)
    QTest.keyClick(view(bench).pads[1], Qt.Key.Key_Left)
    assert desk.steered.level(knob.input) == pytest.approx(85.0, abs=2.0)
    up = desk.figure.steering.grips[-1].up
    QTest.keyPress(keys, Qt.Key.Key_Up)
    assert desk.steered.level(up) == 100.0
    QTest.keyRelease(keys, Qt.Key.Key_Up)
    assert desk.steered.level(up) == 0.0
    assert "90" not in keys.accessibleName() and "%" in keys.accessibleName()


def test_what_is_recorded_becomes_moves_and_one_ctrl_z_takes_them_away(bench):
    desk = driven(bench)
    before = desk.figure.score
    bench.click(view(bench).trying)
    bench.qtbot.waitUntil(lambda: desk.by_hand)
    bench.click(view(bench).record)
    assert desk.steered.recording and "recording" in view(bench).told_in_short()
    bench.qtbot.waitUntil(lambda: desk.steered.recorded_s > 2.0, timeout=10_000)
    bench.click(view(bench).record)
    bench.qtbot.waitUntil(lambda: "became" in view(bench).told_in_short(), timeout=10_000)
    assert desk.figure.score != before
    assert not any(row.profile == "sudden" for c in desk.figure.score.moved for row in c.moves.rows() if row not in before.channel(c.id).moves.rows())  # fmt: skip
    bench.ctrl(Qt.Key.Key_Z)
    assert desk.figure.score == before
    bench.click(view(bench).trying)
    for frames in (0, 1, 5):
        bench.click(view(bench).record)
        desk.steered._timer.stop()
        desk.steered._frames = desk.steered._frames[:1] * frames
        bench.click(view(bench).record)
        assert "nothing was recorded: a take lasts" in view(bench).told_in_short(), frames


def test_a_take_is_written_down_before_the_figure_is_left(bench, monkeypatch):
    monkeypatch.setattr("karakuri.workbench.filing.ask", lambda *_: "stay")
    desk = driven(bench)
    desk.steered.record()
    desk.steered.hold(desk.figure.steering.grips[0].input, 90.0)
    desk.steered.hold(desk.figure.steering.held_by, 100.0)
    bench.qtbot.waitUntil(lambda: desk.steered.recorded_s > 0.8, timeout=8_000)
    channel, before = desk.figure.steering.grips[0].channel, desk.figure.score
    assert not bench.window.filing.may_leave()
    bench.qtbot.waitUntil(lambda: not desk.steered.writing, timeout=8_000)
    assert not desk.by_hand and len(desk.figure.score.moving(channel).moves) != len(before.moving(channel).moves)
    assert desk.take_written()


def at_park(hand):
    """A stand-in joined, powered, every joint at park."""
    board = hand.window.desk.board
    board.start_stand_in()
    hand.qtbot.waitUntil(lambda: board.state == "joined", timeout=15_000)
    board.confirm()
    hand.qtbot.waitUntil(lambda: board.state == "confirmed", timeout=5_000)
    board.approach()
    hand.qtbot.waitUntil(lambda: board.state == "ready", timeout=60_000)
    return board


def test_wheels_roll_while_the_stick_is_pushed_and_stand_after_stop_esc_and_when_nobody_steers(small):
    """On the stand-in: pushed ahead both go, each its own way round; let go, Stop, Esc and *Let go* have them still, and nothing starts them anew."""
    hand, desk = small, small.window.desk
    assert desk.edit(lambda: add_grip(desk.figure, "wheels")[0])
    hand.qtbot.wait(300)
    board = at_park(hand)
    left, right = (next(o for o in board.outputs() if o.name == name) for name in ("Left wheel", "Right wheel"))
    ahead = desk.figure.steering.grips[0].ahead

    def sent():
        places = board.news.get("places", {})
        return places.get(str(left.number)), places.get(str(right.number))

    def rolls():
        hand.qtbot.waitUntil(lambda: sent() == (2000.0, 1000.0), timeout=10_000)

    def stands():
        hand.qtbot.waitUntil(lambda: sent() == (1500.0, 1500.0), timeout=10_000)
        hand.qtbot.wait(300)
        assert sent() == (1500.0, 1500.0)

    hand.click(view(hand).hold)
    desk.steered.hold(ahead, 100.0)
    rolls()
    desk.steered.hold(ahead, 50.0)
    stands()
    for stop in (
        lambda: hand.key(Qt.Key.Key_Escape),
        lambda: hand.click(hand.window.stop),
        lambda: hand.click(view(hand).hold),
    ):
        if not desk.by_hand:
            hand.click(view(hand).hold)
        desk.steered.hold(ahead, 100.0)
        rolls()
        stop()
        assert not desk.by_hand
        stands()


def test_a_motors_pulse_for_still_is_found_by_trying_its_output(small):
    hand, desk = small, small.window.desk
    assert desk.edit(lambda: add_motor(desk.figure, "Fan"))
    board = at_park(hand)
    desk.select(Ref("channel", "fan"))
    desk.turn_to("score")
    hand.qtbot.wait(20)
    hand.click(hand.tag("Try its output by itself"))
    hand.qtbot.wait(20)
    assert desk.bench == "rehearse"
    hand.click(hand.tag("Send the middle, 1500 µs"))
    hand.qtbot.waitUntil(lambda: board.trial is not None, timeout=8_000)
    for us in (1510, 1520):
        hand.qtbot.waitUntil(lambda us=us: board.trial[1] == us - 10, timeout=8_000)
        hand.qtbot.wait(50)
        hand.click(hand.tag("10 µs more"))
    hand.qtbot.waitUntil(lambda: board.trial[1] == 1520, timeout=8_000)
    hand.qtbot.wait(50)
    hand.click(hand.tag("Write 1520 µs as its still"))
    assert desk.figure.score.moving("fan").still_us == 1520.0
    hand.qtbot.wait(400)
    board.try_output(desk.trying, 1700)
    hand.qtbot.waitUntil(lambda: board.trial is not None and board.trial[1] > 1560, timeout=8_000)
    hand.click(hand.window.stop)
    hand.qtbot.waitUntil(lambda: board.trial is None or board.trial[1] == 1520.0, timeout=8_000)
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert desk.figure.score.moving("fan").still_us == 1500.0


def test_a_board_goes_where_the_hand_goes_and_its_knobs_are_inputs(small):
    bench, desk = small, driven(small)
    board = at_park(bench)
    bench.click(view(bench).hold)
    bench.click(view(bench).held)
    grip = desk.figure.steering.grips[0]
    output = next(o for o in board.outputs() if o.joint == desk.figure.score.moving(grip.channel).leads)
    desk.steered.hold(grip.input, 100.0)
    parked = float(output.value([output.park])[0]) if output.pulses else 0.0
    bench.qtbot.waitUntil(lambda: abs(board.news.get("places", {}).get(str(output.number), parked) - parked) > 60, timeout=20_000)  # fmt: skip
    assert board.state == "live"
    bench.key(Qt.Key.Key_Escape)
    bench.qtbot.waitUntil(lambda: board.state == "ready", timeout=5_000)
    assert not desk.by_hand, "a hand that went on would be followed"
    stands: dict = {}

    def still():  # what was told last on a slow machine may come a moment after the stop
        nonlocal stands
        before, stands = stands, dict(board.news["places"])
        bench.qtbot.wait(300)
        return before == stands == board.news["places"]

    bench.qtbot.waitUntil(still, timeout=10_000)
    desk.steered.hold(grip.input, 0.0)
    bench.qtbot.wait(400)
    assert board.state == "ready" and board.news["places"] == stands
    bench.click(view(bench).hold)
    assert desk.by_hand
    board.park()
    bench.qtbot.waitUntil(lambda: board.state == "ready" and abs(board.news["places"][str(output.number)] - parked) < 2, timeout=30_000)  # fmt: skip
    assert not desk.by_hand
    board.leave()


def test_of_more_ribbons_than_there_is_room_those_of_the_grip_in_hand_are_shown(bench):
    desk = driven(bench, "wheels")
    desk.set_scale(1.5)
    bench.click(view(bench).hold)
    bench.qtbot.wait(50)
    traces = view(bench).traces
    assert "left_wheel" not in traces.shown()
    traces.repaint()
    assert "more: take their pad in hand" in painted(traces)
    desk.select(Ref("grip", "grip_wheels"))
    bench.qtbot.wait(20)
    traces.repaint()
    assert traces.shown()[:2] == ["left_wheel", "right_wheel"] and "Left wheel" in painted(traces)
    desk.set_scale(1.0)


def test_cards_say_how_late_it_is_and_take_what_is_typed(bench):
    desk = driven(bench, "keyed")
    grip = desk.figure.steering.grips[0]
    desk.select(Ref("grip", grip.id))
    bench.qtbot.wait(20)
    assert "10 + 120 + 20" in told(bench)
    written(bench, "Stays behind by", "0.3")
    assert desk.figure.steering.grips[0].smooth_ms == 300.0 and "330" in told(bench)
    written(bench, "At its high end", "5")
    assert desk.figure.steering.grips[0].to[1] == 5.0
    assert not desk.edit(lambda: change_grip(desk.figure, grip.id, "ribbon", channel=desk.figure.steering.grips[1].channel))  # fmt: skip
    desk.select(Ref("input", grip.input))
    bench.qtbot.wait(20)
    written(bench, "At its low end", "12")
    assert desk.figure.behaviour.input(grip.input).reads == (12.0, 100.0)
    written(bench, "Let go", "60")
    assert desk.figure.behaviour.input(grip.input).middle == 60.0


def test_a_boards_knob_is_measured_at_its_ends_and_then_moves_the_pad(bench):
    desk = driven(bench)
    grip = desk.figure.steering.grips[0]
    made = []

    def add():
        edit, ident = add_board(desk.figure, "atmega328p", "Controller")
        made.append(ident)
        return edit

    assert desk.edit(add)
    assert desk.edit(lambda: plug_in(desk.figure, made[0], "input", grip.input, (("signal", "A1"),)))
    board = desk.board
    board.start_stand_in()
    bench.qtbot.waitUntil(lambda: board.state == "joined", timeout=15_000)
    desk.select(Ref("input", grip.input))
    for level, tag in ((12.5, "That is its low end"), (87.5, "That is its high end")):
        board._tell("say", line=f"PRESS A1 {level}")
        bench.qtbot.waitUntil(lambda level=level: board.read.get(grip.input) == level, timeout=5_000)
        bench.qtbot.wait(250)
        bench.click(bench.tag(tag))
    assert desk.figure.behaviour.input(grip.input).reads == (12.5, 87.5)
    bench.click(view(bench).hold)
    board._tell("say", line="PRESS A1 50")
    bench.qtbot.waitUntil(lambda: desk.steered.level(grip.input) == pytest.approx(50.0), timeout=5_000)
    board._tell("say", line="PRESS A1 87.5")
    bench.qtbot.waitUntil(lambda: desk.steered.level(grip.input) == pytest.approx(100.0), timeout=5_000)
    board._tell("say", line="PRESS A1 300")
    bench.qtbot.wait(200)
    assert desk.steered.level(grip.input) == pytest.approx(100.0), "a board that lies is not believed"
    board.leave()
