"""It moves: a builder jogs, keeps poses, lays moves on ribbons, sees where the figure can't follow, plays, exports, and drives the
stand-in, in the real window with its worker, sender and board."""

import csv
import subprocess

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from pytestqt.exceptions import TimeoutError as Late

from karakuri.exchange.exporters import FRAMES, PLAYER
from karakuri.model.edit import Edit, Set
from karakuri.model.ref import FIGURE, Ref
from karakuri.session.session import Session
from karakuri.workbench import aside
from karakuri.workbench.benches.ribbons import Ribbons
from tests.figures import head, scored
from tests.references.test_boards import needs
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window(Session(head(60.0, servo="class_20")), in_place=False)
    hand = Hand(window, qtbot)
    hand.wait_judged()
    return window, hand


def until(window, qtbot, true, what, timeout=20000):
    """Wait for the board; what it does instead is told."""
    board = window.desk.board
    try:
        qtbot.waitUntil(true, timeout=timeout)
    except Late as trouble:
        raise AssertionError(f"never {what}, but {board.state}: {board.news} {board.events[-6:]}") from trouble


def state(window, qtbot, *wanted, timeout=20000):
    until(window, qtbot, lambda: window.desk.board.state in wanted, wanted, timeout)


@needs("g++")
def test_a_builder_makes_it_move(bench, qtbot, tmp_path):
    window, hand = bench
    desk = window.desk
    # jog: 10° steps and back to the middle
    rule = window.benches["figure"].rules["tilt"]
    rule.setFocus()
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.key(Qt.Key.Key_Right)
    assert np.degrees(desk.pose["tilt"]) == pytest.approx(11)
    hand.key(Qt.Key.Key_Home)
    assert desk.pose["tilt"] == 0.0
    # poses
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.alt(Qt.Key.Key_6)
    score = window.benches["score"]
    ribbons: Ribbons = score.ribbons
    hand.click(score.keep)
    assert dict(desk.figure.poses[0].places)["tilt"] == 20.0
    hand.click(hand.field("Name"))
    hand.fill("bows")
    hand.click(score.lay)
    channel = desk.figure.score.moved[0].id
    # a pose at 2 s by its number, then by hand: a new move, dragged until it is too fast
    hand.click(ribbons, QPoint(round(ribbons.span().x(2.0)), 10))
    hand.key(Qt.Key.Key_1)
    assert desk.figure.score.pins[0].arrives_s == pytest.approx(2.0, abs=0.02)
    y = ribbons.rows()[0][1] + ribbons.row_tall() / 2
    hand.drag(ribbons, QPointF(ribbons.span().x(4.0), y), QPointF(0, 9))
    assert len(desk.figure.score.channel(channel).moves) == 2
    hand.wait_judged()
    assert not [f for f in desk.study.findings if f.rule == "toofast" and f.verdict == "fails"]
    k = desk.move_in_hand()[1]
    row = desk.figure.score.channel(channel).moves.row(k)
    for _ in range(3):
        by = -(row.takes - 0.03) * ribbons.span().per_s
        hand.drag(ribbons, ribbons.place_of(channel, k), QPointF(by, 0))
    hand.wait_judged()
    fast = [f for f in desk.study.findings if f.rule == "toofast" and f.verdict == "fails"]
    assert fast and "too fast" in painted(ribbons)
    for _ in range(2):  # what is too fast is too much as well: each says its own
        if any(f.rule in ("toofast", "effort") and f.verdict == "fails" for f in desk.study.findings):
            hand.click(next(t for t in hand.remedies() if t.label.startswith("Stretch the move")))
            hand.wait_judged()
    assert not [f for f in desk.study.findings if f.rule == "toofast" and f.verdict == "fails"]
    # back to park at the end, by the remedy
    home = next(t for t in hand.remedies() if t.label.startswith("Move home"))
    hand.click(home)
    hand.wait_judged()
    assert desk.finding("park", "score").verdict == "holds"
    # play: the elevation moves
    hand.click(ribbons, QPoint(round(ribbons.span().x(1.5)), 10))
    before = score.front.grab().toImage()
    hand.key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: desk.transport.now > 2.2, timeout=6000)
    hand.key(Qt.Key.Key_Space)
    assert score.front.grab().toImage() != before
    # out: frames and a player that plays the same frames
    assert window.exports.export_to(FRAMES, tmp_path / "frames.csv")
    frames = list(csv.reader((tmp_path / "frames.csv").read_text().splitlines()))
    assert len(frames) == round(desk.figure.score.length_s * 50) + 2
    assert window.exports.export_to(PLAYER, tmp_path / "player")
    subprocess.run(["make", "-s", "host"], cwd=tmp_path / "player", check=True)
    out = subprocess.run(
        ["./player-host"],
        cwd=tmp_path / "player",
        env={"TRACE_FRAMES": "120"},
        capture_output=True,
        text=True,
        check=True,
    )
    assert sum(line.startswith("F") for line in out.stdout.splitlines()) == 120
    # the stand-in, live
    hand.alt(Qt.Key.Key_8)
    rehearse = window.benches["rehearse"]
    assert not rehearse.power.isEnabled() and not rehearse.play.isEnabled()
    hand.click(rehearse.stand_in)
    state(window, qtbot, "joined")
    assert window.stop.isVisible() and min(window.stop.width(), window.stop.height()) >= 44
    hand.click(rehearse.power)
    state(window, qtbot, "confirmed")
    hand.click(rehearse.home)
    state(window, qtbot, "ready")
    rehearse.rules[0].setFocus()
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    state(window, qtbot, "live")
    pulse = lambda: desk.board.news.get("reported", {}).get("0")  # noqa: E731
    wanted = round(float(desk.board.outputs()[0].value(np.array([desk.pose["tilt"]]))[0]))
    until(window, qtbot, lambda: pulse() == wanted, wanted)
    hand.click(rehearse.play)
    state(window, qtbot, "playing")
    until(window, qtbot, lambda: desk.board.news.get("frame", 0) > 60, "past frame 60")
    assert desk.transport.running
    hand.key(Qt.Key.Key_Escape)
    state(window, qtbot, "ready")
    assert not desk.transport.running
    assert any("Stopped" in text for _, _, text in desk.board.events)
    print(f"it moves, in {hand.actions} actions")
    assert hand.actions <= 60


def test_a_dead_board_is_told_and_joined_again(open_window, qtbot):
    from karakuri.model.moves import Row

    window = open_window(Session(scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0), mass_g=40.0)), in_place=True)
    window.desk.turn_to("rehearse")
    hand, rehearse, board = Hand(window, qtbot), window.benches["rehearse"], window.desk.board
    hand.click(rehearse.stand_in)
    state(window, qtbot, "joined")
    hand.click(rehearse.faults[1])  # falls silent
    state(window, qtbot, "lost")
    qtbot.wait(20)
    assert not window.stop.isVisible() and rehearse.stand_in.label.endswith("again")
    rehearse.told.repaint()
    assert "silent" in painted(rehearse.told)
    board.close()  # its process is gone too
    hand.click(rehearse.stand_in)
    state(window, qtbot, "joined")
    hand.click(rehearse.power)
    state(window, qtbot, "confirmed")
    hand.click(rehearse.home)
    state(window, qtbot, "approaching")
    qtbot.wait(300)
    window.desk.turn_to("limits")
    hand.click(window.stop)  # in sight on every bench
    state(window, qtbot, "confirmed")
    window.desk.turn_to("rehearse")
    hand.click(rehearse.leave)
    state(window, qtbot, "off")


def test_step_there_and_calibration_on_the_limits_bench(open_window, qtbot):
    from karakuri.model.moves import Row

    window = open_window(Session(scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0), mass_g=40.0)))
    desk = window.desk
    desk.select(Ref("joint", "tilt"))
    desk.turn_to("limits")
    qtbot.wait(10)
    hand = Hand(window, qtbot)
    assert not hand.tag("Step to the middle").isEnabled()
    hand.click(hand.field("Pulse, low end"))
    hand.fill("700")
    hand.click(hand.field("Pulse, high end"))
    hand.fill("2300")
    hand.click(hand.tag("It turns the other way"))
    hand.click(hand.field("Horn on tooth"))
    hand.fill("7")
    kept = desk.figure.calibration_of("servo")
    assert kept.pulses_us == (2300.0, 1500.0, 700.0) and kept.horn_tooth == 7
    assert len(desk.figure.record) == 4 and all(e.date for e in desk.figure.record)
    hand.click(hand.field("Pulse, middle"))
    hand.fill("2500")  # outside both ends: refused with a sentence
    assert desk.figure.calibration_of("servo") == kept and "Not done" in window.note.text
    desk.edit(Edit("x", (Set(("name",), "x"),)))
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.calibration_of("servo") == kept
    desk.set_pose("tilt", 0.2)
    hand.click(hand.field("Name it here"))
    hand.fill("attentive")
    assert desk.figure.calibration_of("servo").places[0].name == "attentive"
    board = desk.board
    desk.turn_to("rehearse")
    board.start_stand_in()
    state(window, qtbot, "joined")
    board.confirm()
    board.approach()
    state(window, qtbot, "ready")
    desk.turn_to("limits")
    qtbot.wait(20)
    hand.click(hand.tag("Step to the high end"))
    wanted = round(float(board.outputs()[0].value(np.array([np.radians(30)]))[0]))
    qtbot.waitUntil(lambda: board.news.get("reported", {}).get("0") == wanted, timeout=8000)
    hand.click(hand.tag("The horn came off"))
    assert desk.figure.calibrated("servo") is None


def test_tables_in_and_out_by_the_window(open_window, qtbot, tmp_path):
    window = open_window()
    assert window.exports.export_to(FRAMES, tmp_path / "a.csv")
    before = window.desk.figure
    assert window.exports.import_frames_from(tmp_path / "a.csv")
    qtbot.waitUntil(lambda: not window.exports.aside.busy, timeout=20_000)
    assert window.desk.figure != before and "largest difference" in window.note.text
    assert window.desk.session.history.undo_name == "take over frames"
    window.desk.undo()
    assert window.desk.figure == before
    (tmp_path / "b.csv").write_text("time_s,beak_channel [deg]\n0,1\n2,1\n1,3\n")
    assert not window.exports.import_frames_from(tmp_path / "b.csv")
    assert "row 4" in window.note.text and window.desk.figure == before
    assert not window.exports.export_to(FRAMES, tmp_path / "a.csv" / "under a file.csv")


def test_a_large_table_is_read_beside_the_interface(open_window, qtbot, tmp_path):
    window = open_window()
    rows = "".join(f"{k / 50:.2f},{k % 20}\r\n" for k in range(9_000))
    (tmp_path / "large.csv").write_text("time_s,beak_channel [deg]\r\n" + rows)
    before = window.desk.figure
    assert window.exports.import_frames_from(tmp_path / "large.csv")
    assert (
        window.desk.figure == before and "Taking large.csv over" in window.note.text and window.note.ok.label == "Stop"
    )
    assert not window.exports.import_frames_from(tmp_path / "large.csv") and "still" in window.note.text
    qtbot.waitUntil(lambda: not window.exports.aside.busy, timeout=20_000)
    assert len(window.desk.figure.score.channel("beak_channel").moves) > 400 and "moves follow" in window.note.text
    (tmp_path / "large.csv").write_text("time_s,beak_channel [deg]\r\n" + rows + "x,y\r\n")
    assert window.exports.import_frames_from(tmp_path / "large.csv")
    qtbot.waitUntil(lambda: not window.exports.aside.busy, timeout=20_000)
    assert "row 9002" in window.note.text


def test_a_long_table_and_a_long_export_can_be_stopped(open_window, qtbot, tmp_path, monkeypatch):
    """Neither the figure nor the disk has anything of them then."""
    monkeypatch.setattr(aside, "EACH_S", 0.0)
    window = open_window()
    hand, before = Hand(window, qtbot), window.desk.figure
    rows = "".join(f"{k / 50:.2f},{(k * k) % 17},{k % 23}\r\n" for k in range(40_000))
    (tmp_path / "large.csv").write_text("time_s,beak_channel [deg],neck_tilt_channel [deg]\r\n" + rows)
    assert window.exports.import_frames_from(tmp_path / "large.csv")
    hand.click(window.note.ok)
    qtbot.waitUntil(lambda: not window.exports.aside.busy, timeout=30_000)
    assert window.desk.figure is before and "Stopped" in window.note.text and window.note.ok.label == "Understood"
    window.desk.edit(Edit("x", (Set(("score", "length_s"), 400.0),)))
    assert window.exports.export_to(FRAMES, tmp_path / "long.csv")
    qtbot.waitUntil(lambda: "%" in window.note.text, timeout=30_000)
    hand.click(window.note.ok)
    qtbot.waitUntil(lambda: not window.exports.aside.busy, timeout=30_000)
    assert [p.name for p in tmp_path.iterdir()] == ["large.csv"] and "Stopped" in window.note.text


def test_every_row_of_the_parts_list_can_be_taken(open_window):
    window = open_window()
    ledger = window.benches["figure"].ledger
    for row in ledger.rows:
        ledger.picked.emit(row.key)
        assert window.desk.subject == (row.key if isinstance(row.key, Ref) else FIGURE)


def test_an_edit_while_the_board_plays_goes_out_with_the_next_frames(open_window, qtbot):
    from karakuri.model.moves import Row
    from karakuri.model.score_edits import change_move

    window = open_window(Session(scored(Row(0.2, 0.5, 20.0), Row(2.0, 0.5, 0.0), mass_g=40.0)), in_place=False)
    desk = window.desk
    desk.turn_to("rehearse")
    board = desk.board
    board.start_stand_in()
    state(window, qtbot, "joined")
    board.confirm()
    board.approach()
    state(window, qtbot, "ready")
    board.play()
    state(window, qtbot, "playing")
    for to in (25.0, -12.0, 10.0):
        desk.edit(change_move(desk.figure.score.moved[0], 0, "target", target=to)[0], dragging=True)
        qtbot.wait(60)
    desk.end_drag()
    wanted = round(float(board.outputs()[0].value(np.array([np.radians(10.0)]))[0]))
    qtbot.waitUntil(lambda: board.news["places"].get("0") == pytest.approx(wanted, abs=1), timeout=8000)
    assert board.news["refused"] == 0
    board.stop()
    state(window, qtbot, "ready")


def test_closing_the_window_ends_sender_and_board(open_window, qtbot, monkeypatch):
    window = open_window(Session(head()))
    window.desk.turn_to("rehearse")
    board = window.desk.board
    board.start_stand_in()
    state(window, qtbot, "joined")
    sender, stand_in = board._sender._process, board._stand_in._process
    monkeypatch.setattr(window.filing, "may_leave", lambda: True)
    window.close()
    assert sender.poll() is not None and stand_in.poll() is not None
