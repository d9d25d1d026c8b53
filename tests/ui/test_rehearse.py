"""Rehearse by hand, with reports as a sender gives them: states, what is enabled and why, what is shown; no process is started."""

import threading

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit

from karakuri.exchange.exporters import PLAYER
from karakuri.model.edits import set_field
from karakuri.model.ref import FIGURE, Ref
from karakuri.session.session import Session
from karakuri.workbench.board import JOINED, MOVING
from karakuri.workbench.widgets.stop import LEAST
from tests.figures import head
from tests.ui.hand import Hand, painted

STATES = ("off", "joined", "confirmed", "approaching", "ready", "playing", "live", "homing", "lost")


class Heard:
    """A sender that only writes down what it is told."""

    alive = True

    def __init__(self) -> None:
        self.told: list[tuple[str, dict]] = []

    def tell(self, do: str, **fields) -> None:
        self.told.append((do, fields))

    def load(self, program) -> None:
        self.told.append(("load", {"program": program}))

    def close(self) -> None:
        self.told.append(("close", {}))

    def last(self, do: str) -> dict:
        return next(fields for name, fields in reversed(self.told) if name == do)


@pytest.fixture
def rehearse(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("rehearse")
    qtbot.wait(10)
    board = window.desk.board
    board._sender = Heard()
    return window, board, Hand(window, qtbot)


def report(board, state: str, **more) -> None:
    news = {
        "state": state, "frame": 0, "sent": 0, "late": 0, "answers": 0, "refused": 0, "nonsense": 0, "worst_ms": 0.0, "delays_ms": [],
        "places": {}, "reported": {},
    }  # fmt: skip
    board._report.emit(news | more)


@pytest.mark.parametrize("state", STATES)
def test_what_may_be_pressed_in_each_state(rehearse, qtbot, state):
    window, board, _ = rehearse
    bench = window.benches["rehearse"]
    report(board, state)
    qtbot.wait(5)
    assert bench.stand_in.isEnabled() == (state in ("off", "lost"))
    assert bench.power.isEnabled() == (state == "joined")
    assert bench.home.isEnabled() == (state in ("confirmed", "ready", "live"))
    assert bench.play.isEnabled() == (state in ("ready", "live", "playing", "approaching", "homing"))
    assert bench.leave.isEnabled() == (state in JOINED)
    assert window.stop.isVisible() == (state in JOINED)
    assert board.words() and board.words() in painted(bench)
    if state in JOINED:
        assert min(window.stop.width(), window.stop.height()) >= LEAST


@pytest.mark.parametrize("bench", ["figure", "drive", "balance", "limits", "score", "rehearse"])
@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_stop_is_in_sight_on_every_bench_and_covers_nothing(rehearse, qtbot, bench, scale):
    window, board, hand = rehearse
    report(board, "playing")
    window.desk.set_scale(scale)
    window.desk.turn_to(bench)
    qtbot.wait(10)
    stop = window.stop.geometry()
    assert window.stop.isVisible() and min(stop.width(), stop.height()) >= LEAST
    assert window.middle.rect().contains(stop)
    for button in window.rail.buttons:
        assert not stop.intersects(button.geometry().translated(window.rail.pos()))
    assert not stop.intersects(window.slide.geometry()) or not window.slide.isVisible()
    hand.click(window.stop)
    assert board._sender.told[-1][0] == "stop"


@pytest.mark.parametrize("state", STATES)
def test_escape_stops_motion_first(rehearse, qtbot, state):
    window, board, hand = rehearse
    report(board, state)
    window.desk.turn_to("figure")
    qtbot.wait(5)
    window.middle.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert (("stop", {}) in board._sender.told) == (state in MOVING)


def test_escape_stops_even_while_a_number_is_written(rehearse, qtbot):
    window, board, hand = rehearse
    report(board, "playing")
    window.desk.select(Ref("joint", "neck_tilt"))
    window.desk.turn_to("limits")
    qtbot.wait(10)
    field = next(e for e in window.card.body.editors.values() if isinstance(e, QLineEdit))
    field.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert ("stop", {}) in board._sender.told


def test_sliders_drive_only_once_it_stands(rehearse, qtbot):
    window, board, hand = rehearse
    rule = window.benches["rehearse"].rules[1]
    for state, driven in (
        ("joined", False),
        ("confirmed", False),
        ("approaching", False),
        ("ready", True),
        ("live", True),
    ):
        report(board, state)
        board._sender.told.clear()
        rule.setFocus()
        hand.key(Qt.Key.Key_Right)
        assert any(do == "live" for do, _ in board._sender.told) == driven, state
    aim = board._sender.last("live")["aim"]
    assert set(aim) == {str(o.number) for o in board.outputs() if o.joint is not None}
    wanted = next(o for o in board.outputs() if o.joint == rule.ident)
    import numpy as np

    assert aim[str(wanted.number)] == pytest.approx(float(wanted.value(np.array([window.desk.pose[rule.ident]]))[0]))


def test_recalling_a_pose_drives_the_board_too(rehearse, qtbot):
    window, board, _ = rehearse
    report(board, "ready")
    window.desk.recall("listening_left")
    assert board._sender.told[-1][0] == "live"
    window.desk.turn_to("score")
    board._sender.told.clear()
    window.desk.recall("hoot")
    assert not board._sender.told  # only on the bench where it is said so


def test_what_is_sent_and_said_stands_in_the_table(rehearse, qtbot):
    window, board, _ = rehearse
    bench = window.benches["rehearse"]
    report(
        board,
        "playing",
        places={"0": 1500.0, "1": 1600.0, "8": 250.0},
        reported={"0": 1500.0, "1": 1590.0},
        sent=500,
        late=3,
        worst_ms=7.1,
    )
    qtbot.wait(20)
    bench.table.repaint()
    text = painted(bench.table)
    assert "1600" in text and "1590" in text and "25%" in text and "released" in text
    assert "1.4°" in text  # ten µs of 7.4 a degree: 2000 µs over 270°
    card = painted(window.card.body)
    assert "0.6 %" in card and "7.1" in card
    assert any("output 1, Neck tilt, sent 1600 µs" in row.name for row in bench.table.rows)


def test_what_happened_is_listed_newest_first(rehearse, qtbot):
    window, board, _ = rehearse
    board._report.emit({"say": "A board with 16 outputs answers.", "state": "joined"})
    board._report.emit({"say": "The board refused: NO nap.", "bad": True, "state": "joined"})
    board._report.emit({"say": "The board has been silent for 1 s.", "bad": True, "state": "lost"})
    qtbot.wait(5)
    rows = window.benches["rehearse"].told.rows
    assert [row.name for row in rows] == [text for _, _, text in reversed(board.events)]
    assert [verdict for _, verdict, _ in board.events] == ["holds", "fails", "fails"]
    for _ in range(300):
        board.say("holds", "again")
    assert len(board.events) <= 200


def test_the_plumb_line_goes_with_the_board(rehearse, qtbot):
    window, board, _ = rehearse
    transport = window.desk.transport
    report(board, "playing", frame=0)
    assert transport.running and transport.pace == 1.0
    report(board, "playing", frame=400)
    assert transport.now == pytest.approx(8.0, abs=0.1)
    report(board, "ready", frame=400)
    assert not transport.running
    report(board, "playing", frame=10)
    report(board, "lost", frame=20)
    assert not transport.running


def test_an_edit_while_joined_is_handed_over(rehearse, qtbot):
    window, board, _ = rehearse
    from karakuri.model.score_edits import change_move

    report(board, "ready")
    edit, _k = change_move(window.desk.figure.score.moved[0], 1, "arrival", takes=0.9)
    window.desk.edit(edit)
    qtbot.waitUntil(lambda: any(do == "load" for do, _ in board._sender.told), timeout=5000)
    report(board, "off")
    board._sender.told.clear()
    window.desk.undo()
    qtbot.wait(300)
    assert not any(do == "load" for do, _ in board._sender.told)


def test_space_plays_and_stops(rehearse, qtbot):
    window, board, hand = rehearse
    window.middle.setFocus()
    hand.key(Qt.Key.Key_Space)
    assert not board._sender.told  # nothing is joined: nothing happens
    report(board, "ready")
    qtbot.wait(5)
    hand.key(Qt.Key.Key_Space)
    assert board._sender.told[-1][0] == "play"
    report(board, "playing")
    qtbot.wait(5)
    hand.key(Qt.Key.Key_Space)
    assert board._sender.told[-1][0] == "stop"


def test_an_address_is_joined_from_the_card(rehearse, qtbot):
    _, board, hand = rehearse
    hand.click(hand.field("Address"))
    hand.fill("tcp:127.0.0.1:9")
    qtbot.waitUntil(lambda: not board._connecting)
    assert board._sender.last("connect") == {"address": "tcp:127.0.0.1:9"} and not board.stand_in


def test_sizes_are_told_before_export_and_follow_the_choice(rehearse, qtbot):
    window, _, hand = rehearse
    window.desk.select(FIGURE)
    qtbot.wait(5)
    assert "of 32\u2009256 bytes of flash" in painted(window.card.body)
    hand.choose(hand.choice("Controller"), "ATmega2560")
    qtbot.wait(30)
    window.card.body.repaint()
    assert "253\u2009952" in painted(window.card.body)
    hand.choose(hand.choice("Pulses by"), "16-channel")
    assert window.desk.chosen(PLAYER)["pulses"] == "i2c"


def test_without_a_score_the_exports_say_why_not(open_window, qtbot):
    window = open_window(Session(head()))
    window.desk.turn_to("rehearse")
    qtbot.wait(10)
    hand = Hand(window, qtbot)
    assert not hand.tag("Export the player").isEnabled() and not hand.tag("Export frames").isEnabled()
    assert "There is no score yet" in painted(window.card.body)


def test_ports_found_here_and_rights_that_are_missing_are_told(open_window, monkeypatch):
    from karakuri.workbench.benches import rehearse_page as page

    monkeypatch.setattr(page, "_plugged", lambda turn: (("/dev/ttyUSB0", "USB serial"),))
    desk = open_window().desk
    joined = []
    monkeypatch.setattr(desk.board, "join", joined.append)
    items = {item.key: item for item in page.rehearse_page(desk).items}
    assert items["ports"].options == (("/dev/ttyUSB0", "/dev/ttyUSB0, USB serial"),)
    items["ports"].done("/dev/ttyUSB0")
    assert joined == ["/dev/ttyUSB0"] and "rights" not in items
    monkeypatch.setattr(type(desk.board), "joined", property(lambda self: True))
    desk.board.news = {"hurried": False}
    assert "real-time" in {item.key: item for item in page.rehearse_page(desk).items}["rights"].text


def test_a_long_score_does_not_hold_the_window_up_while_a_board_is_joined(rehearse, qtbot, monkeypatch):
    """Its frames are made beside the interface; a changed figure begins them anew, the board is joined with the newest, closing ends them."""
    window, board, _ = rehearse
    desk, made, told, let = window.desk, [], [], threading.Event()

    class Sender:
        alive = True
        load = staticmethod(lambda program: told.append(("load", program)))
        tell = staticmethod(lambda do, **fields: told.append((do, fields.get("address"))))
        close = staticmethod(lambda: told.append(("close", None)))

    def slowly(figure, course):
        made.append(figure)
        while not let.wait(0.01):
            course.at("frames", 0.5)
        return figure

    monkeypatch.setattr("karakuri.workbench.board.program_of", slowly)
    board._sender = Sender
    board.join("here")
    qtbot.waitUntil(lambda: len(made) == 1)
    assert not told
    desk.edit(set_field(desk.figure, "parts", desk.figure.parts[0].id, ("mass_g",), 123.0, "mass"))
    qtbot.waitUntil(lambda: len(made) == 2, timeout=5000)
    let.set()
    qtbot.waitUntil(lambda: ("connect", "here") in told)
    assert told == [("load", desk.figure), ("connect", "here")]
    let.clear()
    board.join("there")
    qtbot.waitUntil(lambda: len(made) == 3)
    board.close()
    qtbot.waitUntil(lambda: not board._aside.busy)
    assert told[2:] == [("close", None)]
