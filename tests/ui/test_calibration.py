"""Calibration in the real window: the tooth to choose, the middle trimmed, a swapped part, a generator's own clock."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from karakuri.model.board_edits import add_board
from karakuri.model.edit import apply
from karakuri.model.ref import Ref
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
