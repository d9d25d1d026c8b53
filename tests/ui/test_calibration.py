"""Calibration in the real window: the tooth to choose, the middle trimmed, a swapped part, a generator's own clock."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from karakuri.model.board_edits import add_board
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from tests.ui.hand import Hand


@pytest.fixture
def bench(open_window, qtbot):
    hand = Hand(open_window(), qtbot)
    hand.alt(Qt.Key.Key_4)
    hand.window.desk.select(Ref("joint", "neck_tilt"))
    qtbot.wait(5)
    return hand


def note(hand):
    return next(item.text for item in hand.window.card.body.page.items if item.key == "tooth")


def test_the_tooth_is_told_and_the_rest_is_trimmed(bench):
    """20° off at 25 teeth of 14.4°: one tooth back leaves 5.6°."""
    hand, desk = bench, bench.window.desk
    drive = desk.figure.drive_of("neck_tilt")
    before = next(o for o in desk.board.outputs() if o.joint == "neck_tilt").pulses
    hand.click(hand.field("Stands off, + " + desk.figure.joint("neck_tilt").ends[1]))
    hand.fill("20")
    assert "1 tooth toward " + desk.figure.joint("neck_tilt").ends[0] in note(hand) and "5.6° are left" in note(hand)
    hand.click(hand.tag("It is on that tooth now"))
    assert desk.figure.record[-1].kind == "calibration" and desk.figure.calibration_of(drive.id) is not None
    after = next(o for o in desk.board.outputs() if o.joint == "neck_tilt").pulses
    assert after.calibrated and after.pulses == before.pulses
    assert np.degrees(after.angle(np.array([1500.0])) - before.angle(np.array([1500.0])))[0] == pytest.approx(
        5.6, abs=0.01
    )
    assert not desk.stands_off
    desk.horn_stands_off(drive.id, np.radians(20.0))
    hand.click(hand.field("Teeth of its spline"))
    hand.fill("36")
    assert desk.figure.drive_of("neck_tilt").mount.teeth == 36  # 10° a tooth: two of them
    assert "2 teeth toward" in note(hand)


def test_a_swapped_part_tells_which_places_have_moved(bench):
    hand, desk = bench, bench.window.desk
    drive = desk.figure.drive_of("neck_tilt")
    for name in ("shut", "wide"):
        hand.click(hand.field("Name it here"))
        hand.fill(name)
        desk.set_pose("neck_tilt", 0.2)
    before = desk.figure.calibration_of(drive.id)
    was = {place.name: place.pulse_us for place in before.places}
    hand.click(hand.field("shut is now"))
    hand.fill(f"{was['shut'] - 25:.1f}")
    after = desk.figure.calibration_of(drive.id)
    assert {p.name: pytest.approx(p.pulse_us + 25, abs=0.11) for p in after.places} == was
    assert after.pulses_us == tuple(pytest.approx(us - 25, abs=0.11) for us in before.pulses_us)
    assert "swapped: shut" in desk.figure.record[-1].words and "wide" in desk.figure.record[-1].words


def test_a_generators_own_clock_is_written_from_one_pulse(bench):
    hand, desk = bench, bench.window.desk
    desk.edit(lambda: add_board(desk.figure, "generator", "Generator")[0])
    desk.feed("wiring")
    hand.alt(Qt.Key.Key_7)
    desk.select(Ref("board", "generator"))
    hand.qtbot.wait(5)
    hand.click(hand.field("1500 µs measure"))
    hand.fill("1442.3")
    assert desk.figure.boards[0].clock_MHz == pytest.approx(26.0, abs=0.01)
    hand.click(hand.field("1500 µs measure"))
    hand.fill("900")
    assert desk.figure.boards[0].clock_MHz == pytest.approx(26.0, abs=0.01) and "20 to 30 MHz" in hand.window.note.text
    hand.key(Qt.Key.Key_Escape)
    hand.click(hand.field("1500 µs measure"))
    hand.fill("")
    assert desk.figure.boards[0].clock_MHz is None
    assert apply(desk.figure, add_board(desk.figure, "generator", "Generator")[0]).boards[1].name == "Generator 2"


# ---- on the stand-in
def powered(hand, figure=None):
    """A board joined and its power confirmed, nothing brought to park."""
    board = hand.window.desk.board
    hand.alt(Qt.Key.Key_8)
    hand.click(hand.tag("Join the stand-in"))
    hand.qtbot.waitUntil(lambda: board.state == "joined", timeout=10_000)
    hand.click(hand.tag("It is powered"))
    hand.qtbot.waitUntil(lambda: board.state == "confirmed", timeout=5_000)
    return board


def test_a_board_and_nothing_else(open_window, qtbot):
    hand = Hand(open_window(Session(Figure())), qtbot)
    board = powered(hand)
    hand.click(hand.field("Output, 0 to 15"))
    hand.fill("6")
    hand.click(hand.tag("Send the middle, 1500"))
    hand.qtbot.waitUntil(lambda: board.trial == (6, 1500.0), timeout=5_000)
    qtbot.wait(2300)  # woken: it creeps for two seconds
    hand.click(hand.tag("10 µs more"))
    hand.qtbot.waitUntil(lambda: board.trial == (6, 1510.0), timeout=5_000)
    hand.qtbot.waitUntil(lambda: board.news["reported"].get("6") == 1510.0, timeout=5_000)
    hand.click(hand.tag("Sweep up slowly"))
    hand.qtbot.waitUntil(lambda: board.trial is not None and board.trial[1] > 1516, timeout=5_000)
    hand.key(Qt.Key.Key_Escape)
    hand.qtbot.waitUntil(lambda: "stopped at" in " ".join(text for _, _, text in board.events[-3:]), timeout=5_000)
    held = board.trial[1]
    qtbot.wait(400)
    assert abs(board.trial[1] - held) < 3
    hand.click(hand.tag("No more pulses"))
    hand.qtbot.waitUntil(lambda: board.state == "confirmed" and board.trial is None, timeout=5_000)
    assert set(board.news["reported"]) <= {"6"}


def test_ends_are_swept_to_and_written_in_their_order(bench):
    hand, desk = bench, bench.window.desk
    board = powered(hand)
    hand.alt(Qt.Key.Key_4)
    desk.select(Ref("joint", "neck_tilt"))
    number = next(o.number for o in board.outputs() if o.joint == "neck_tilt")
    hand.click(hand.tag("2  Send the middle"))
    hand.qtbot.waitUntil(lambda: board.trial is not None and board.trial[0] == number, timeout=5_000)
    hand.qtbot.wait(2200)
    end = desk.figure.joint("neck_tilt").ends[1]
    hand.click(hand.tag(f"Sweep: {end}"))
    hand.qtbot.waitUntil(lambda: board.trial is not None and board.trial[1] > 1512, timeout=5_000)
    hand.click(hand.tag("Stop here"))
    hand.qtbot.wait(300)
    hand.click(hand.tag("Write"))
    kept = desk.figure.calibration_of(desk.figure.drive_of("neck_tilt").id)
    assert kept is not None and kept.pulses_us[2] == pytest.approx(board.trial[1], abs=4) and kept.pulses_us[0] == 500.0
    slope = (kept.angles_deg[2] - kept.angles_deg[1]) / (kept.pulses_us[2] - kept.pulses_us[1])
    assert slope == pytest.approx(
        (kept.angles_deg[1] - kept.angles_deg[0]) / (kept.pulses_us[1] - kept.pulses_us[0]), rel=0.02
    )
